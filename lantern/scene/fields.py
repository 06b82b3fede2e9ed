"""How a field of the scene document says its label, unit, hard range and soft range, once for everybody.

The hard range is what validation accepts; the soft range is what a slider spans. Both reach the front end
through the JSON schema.
"""

from collections.abc import Sequence
from typing import Annotated, Any, Literal, get_args, get_origin

from pydantic import AfterValidator, Field
from pydantic.fields import FieldInfo

Scale = Literal["linear", "logarithmic"]
_LOGARITHMIC = ("m", "mm", "µm", "s", "f/", "K", "×", "cd/m²", "px")
"""Units of amounts, distances and times: what matters in them is how many times as much."""


def _ranges(
    unit: str, hard: tuple[float, float], soft: tuple[float, float] | None, step: float | None, scale: Scale | None
) -> dict[str, Any]:
    low, high = soft or hard
    if scale is None:
        scale = "logarithmic" if unit in _LOGARITHMIC and hard[0] >= 0 else "linear"
    return {
        "unit": unit, "soft_minimum": low, "soft_maximum": high, "step": step or (high - low) / 100, "scale": scale,
    }  # fmt: skip


def _mapped(texture: tuple[str, int | None] | None) -> dict[str, Any]:
    return {"map": texture[0], "channel": texture[1]} if texture else {}


def quantity(
    default: float,
    label: str,
    unit: str,
    hard: tuple[float, float],
    soft: tuple[float, float] | None = None,
    step: float | None = None,
    scale: Scale | None = None,
    map: tuple[str, int | None] | None = None,
) -> Any:
    """A number with a unit; `hard` and `soft` are inclusive [minimum, maximum]. `scale` is how a hand moves it, if not
    as its unit says; `map` names the texture that it multiplies, and the channel of that (0 red), or all."""
    extra = _ranges(unit, hard, soft, step, scale) | _mapped(map)
    return Field(default, title=label, ge=hard[0], le=hard[1], allow_inf_nan=False, json_schema_extra=extra)


def optional_quantity(
    label: str,
    unit: str,
    hard: tuple[float, float],
    soft: tuple[float, float],
    step: float,
    *,
    on: float,
    off: str,
    fraction: bool = False,
) -> Any:
    """A number that can be off, which is None and the default; switched on it is `on`, `off` says what off means.

    A small one that is a `fraction` is shown as one: 1/125.
    """
    extra = _ranges(unit, hard, soft, step, None) | {"on": on, "off": off} | ({"fraction": True} if fraction else {})
    return Field(None, title=label, ge=hard[0], le=hard[1], allow_inf_nan=False, json_schema_extra=extra)


def count(default: int, label: str, unit: str, hard: tuple[int, int], soft: tuple[int, int]) -> Any:
    """A whole number; `hard` and `soft` as for `quantity`."""
    extra = _ranges(unit, hard, soft, 1, None) | {"whole": True}
    return Field(default, title=label, ge=hard[0], le=hard[1], json_schema_extra=extra)


def optional_count(label: str, unit: str, hard: tuple[int, int], soft: tuple[int, int], *, on: int, off: str) -> Any:
    """A whole number that can be off, as `optional_quantity`."""
    extra = _ranges(unit, hard, soft, 1, None) | {"whole": True, "on": on, "off": off}
    return Field(None, title=label, ge=hard[0], le=hard[1], json_schema_extra=extra)


def choice(default: Any, label: str, words: dict[str, str] | None = None) -> Any:
    """A switch, or one of several words; `words` is how each is shown, if not as it is."""
    return Field(default, title=label, json_schema_extra={"words": {**words}} if words else None)


def _in_unit_range(color: tuple[float, float, float]) -> tuple[float, float, float]:
    if not all(0.0 <= c <= 1.0 for c in color):
        raise ValueError(f"a reflectance or tint must lie within 0 and 1 in each channel, not {color}")
    return color


def _not_negative(color: tuple[float, float, float]) -> tuple[float, float, float]:
    if not all(0.0 <= c <= 1e6 for c in color):
        raise ValueError(f"light must lie within 0 and 1e6 in each channel, not {color}")
    return color


FAR = 1e6
"""Largest coordinate [m], and largest number of a matrix: beyond it 32 bits leave less than 10 cm."""
Finite = Annotated[float, Field(allow_inf_nan=False, ge=-FAR, le=FAR)]
Vector = tuple[Finite, Finite, Finite]
Box = tuple[Sequence[float], Sequence[float]]
"""Lowest and highest corner [m]."""
Tint = Annotated[Vector, AfterValidator(_in_unit_range)]
"""Linear Rec. 709 reflectance or transmittance, [0, 1] in each channel."""
LightColor = Annotated[Vector, AfterValidator(_not_negative)]
"""Linear Rec. 709 light, not negative."""


def color(default: tuple[float, float, float], label: str, map: str | None = None) -> Any:
    """A linear Rec. 709 colour; `map` names the texture that it multiplies."""
    extra = {"unit": "linear Rec. 709"} | _mapped((map, None) if map else None)
    return Field(default, title=label, json_schema_extra=extra)


def place(default: tuple[float, float, float], label: str) -> Any:
    """A point in the scene [m]."""
    return Field(default, title=label, json_schema_extra={"unit": "m"})


def describe(info: FieldInfo) -> dict[str, Any]:
    """Label, kind of control, unit, ranges and options of a field as plain data."""
    extra = info.json_schema_extra
    described: dict[str, Any] = {"label": info.title or "", "kind": _kind(info)}
    if get_origin(info.annotation) is Literal:
        words: Any = extra.get("words") if isinstance(extra, dict) else None
        described["options"] = {word: (words or {}).get(word, word) for word in get_args(info.annotation)}
    for limit in info.metadata:
        if getattr(limit, "ge", None) is not None:
            described["minimum"] = limit.ge
        if getattr(limit, "le", None) is not None:
            described["maximum"] = limit.le
    if isinstance(extra, dict):
        described.update({name: value for name, value in extra.items() if name != "words"})
    return described


def _kind(info: FieldInfo) -> str:
    """What sort of control a field has; empty for what has none."""
    extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
    if get_origin(info.annotation) is Literal:
        return "choice"
    if info.annotation is bool:
        return "switch"
    if "on" in extra:
        return "optional"
    if "step" in extra:
        return "number"
    if extra.get("unit") == "linear Rec. 709":
        return "color"
    return "place" if extra.get("unit") == "m" else ""
