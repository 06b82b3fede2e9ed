"""Document keys from names that people gave."""

import re
from collections.abc import Container

from lantern.scene.keys import free_number


def unique_key(name: str, taken: Container[str]) -> str:
    """A key of [a-z0-9_-], at most 80 long, made from a name and not yet taken."""
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:60] or "item"
    return f"{base}-{free_number(taken, base, 2)}" if base in taken else base
