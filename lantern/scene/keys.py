"""Keys of new entries of a document: [a-z0-9_-], at most 80 long.

In: the keys that there are, what a new one is to begin with. Out: one that is free; keys in their order. Called
wherever entries are made or listed.
"""

from collections.abc import Collection, Container

LONGEST = 80


def free_number(taken: Container[str], stem: str, first: int) -> int:
    """The number, `first` or more, that makes a free key of a stem behind a dash: the least, if all before are taken.

    As quick among a hundred thousand of one stem as among ten.
    """
    if f"{stem}-{first}" not in taken:
        return first
    step = 1
    while f"{stem}-{first + step}" in taken:
        step *= 2
    low, high = first + step // 2, first + step  # taken, free
    while high - low > 1:
        middle = (low + high) // 2
        if f"{stem}-{middle}" in taken:
            low = middle
        else:
            high = middle
    return high


def free_key(taken: Container[str], stem: str) -> tuple[str, int]:
    """("light-3", 3): a free key of a stem, which is cut where the key would be too long."""
    stem = stem[: LONGEST - 8]
    number = free_number(taken, stem, 1)
    return f"{stem}-{number}", number


def ordered(keys: Collection[str], order: Collection[str]) -> list[str]:
    """Keys as lists show them: in an order that is kept, in which some may be gone; those that it lacks follow."""
    first = [key for key in order if key in keys]
    return first + [key for key in keys if key not in first]
