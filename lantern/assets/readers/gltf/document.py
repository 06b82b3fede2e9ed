"""The JSON of a glTF file by attributes: what is not said is None (glTF 2.0, section 5).

In: the parsed JSON. Out: entries. Called by `container`. Nothing is checked here: what has the wrong type fails where
it is used, and the reader says so.
"""

from typing import Any


class Entry:
    """An object of the file. Attributes are its properties; objects in it are entries, but for its extensions."""

    __slots__ = ("_data", "_made")

    def __init__(self, data: dict[str, Any]) -> None:
        if not isinstance(data, dict):
            raise TypeError(f"{data!r:.40} is no object")
        self._data = data
        self._made: dict[str, Any] = {}

    def __getattr__(self, name: str) -> Any:
        if name not in self._made:
            value = self._data.get(name)
            self._made[name] = value if name in _PLAIN else _entries(value)
        return self._made[name]


_PLAIN = ("extensions", "extras", "targets")


def _entries(value: Any) -> Any:
    if isinstance(value, dict):
        return Entry(value)
    if isinstance(value, list) and value and isinstance(value[0], dict):
        return [Entry(each) for each in value]
    return value
