"""A group of fields under one heading, and its rows: what `groups` says of every model."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Row:
    """A field; it has an effect while one of `when` is on, which is "name" or "name=word", or always without any.

    While `unless` names a field that is set, that stands in for it.
    """

    field: str
    when: tuple[str, ...] = ()
    unless: str | None = None


@dataclass(frozen=True)
class Group:
    """Rows under one heading. `sums` are the fields whose values sum it up, each with a word before it.

    `weight` is the field without which none of the others has an effect.
    """

    key: str
    label: str
    rows: tuple[Row, ...]
    sums: tuple[tuple[str, str], ...] = ()
    weight: str | None = None


def always(*names: str) -> tuple[Row, ...]:
    return tuple(Row(name) for name in names)


def switched(key: str, label: str, sums: tuple[tuple[str, str], ...], *rows: str | Row) -> Group:
    """What is on or off as a whole."""
    inner = (row if isinstance(row, Row) else Row(row, ("enabled",)) for row in rows)
    return Group(key, label, (Row("enabled"), *inner), sums, "enabled")
