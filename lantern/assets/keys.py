"""Document keys from names that people gave."""

import re
from collections.abc import Container


def unique_key(name: str, taken: Container[str]) -> str:
    """A key of [a-z0-9_-], at most 80 long, made from a name and not yet taken."""
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:60] or "item"
    key, number = base, 2
    while key in taken:
        key, number = f"{base}-{number}", number + 1
    return key
