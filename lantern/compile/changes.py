"""What an edit has changed of a document's parts or materials, among thousands that it has not.

In: two mappings by key. Out: what differs. Called by all that follow a document. Documents share what an edit did not
touch, so that most is told by a glance at who it is.
"""

from collections.abc import Iterable, Mapping
from itertools import compress
from operator import is_not
from typing import TypeVar

Value = TypeVar("Value")


def touched(before: Mapping[str, Value], after: Mapping[str, Value]) -> Iterable[tuple[int, str, Value | None, Value]]:
    """(place, key, value before, value after) of all that are not the very same object; None for what was not there."""
    if before.keys() == after.keys() and list(before) == list(after):
        different = map(is_not, before.values(), after.values())
        return list(compress(zip(range(len(after)), after, before.values(), after.values(), strict=True), different))
    found = enumerate(after.items())
    return [(place, key, before.get(key), new) for place, (key, new) in found if before.get(key) is not new]
