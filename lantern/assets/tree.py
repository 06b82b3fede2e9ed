"""The tree of a file as groups of parts.

In: for each part the named things that it hangs on, from the root down. Out: groups, and the one of each part. Called
by the readers of formats that have a tree.
"""

from collections import Counter
from collections.abc import Mapping, Sequence

from lantern.assets.keys import unique_key
from lantern.scene.document import Part
from lantern.scene.placed import PartGroup

Chain = tuple[tuple[object, str], ...]
"""(what tells it from others, name) of what something hangs on, from the root down; empty names have none."""
MOST_GROUPS = 20_000


def grouped(parts: Mapping[str, Part], chains: Mapping[str, Chain]) -> tuple[dict[str, Part], dict[str, PartGroup]]:
    """(parts with their groups, groups by key).

    A group is what at least two parts hang on, but not all of them; of several that hold the same parts it is the
    innermost that has a name.
    """
    counts = Counter(each for chain in chains.values() for each, _ in chain)
    held = {key: _telling(chain, counts, len(parts)) for key, chain in chains.items()}
    keys: dict[object, str] = {}
    groups: dict[str, PartGroup] = {}
    found = {}
    for key, part in parts.items():
        parent = None
        for each, name in held.get(key, ()):
            if each not in keys:
                if len(groups) >= MOST_GROUPS:
                    break
                keys[each] = unique_key(f"{name} group", groups)
                groups[keys[each]] = PartGroup(name=name[:200], group=parent)
            parent = keys[each]
        found[key] = part if parent is None else part.model_copy(update={"group": parent})
    return found, groups


def _telling(chain: Chain, counts: Mapping[object, int], everything: int) -> Sequence[tuple[object, str]]:
    """Of a chain what makes a group."""
    whole = [(each, name) for each, name in chain if name and 1 < counts[each] < everything]
    inner = whole[1:]
    # The one below holds the same parts when it holds as many.
    ends = [counts[a[0]] != counts[b[0]] for a, b in zip(whole, inner, strict=False)]
    return [one for one, is_last in zip(whole, [*ends, True], strict=False) if is_last]
