"""Parts that begin to be strewn over another: as many, and as far apart, as suits their size and that of the surface.

In: the document, the boxes around its parts, what is wanted. Out: a patch. Called by `arranging`.
"""

import math
from collections.abc import Mapping, Sequence

from lantern.scene.copying import Copier
from lantern.scene.document import Scene
from lantern.scene.fields import Box
from lantern.scene.grouping import Patch
from lantern.scene.keys import free_key
from lantern.scene.making import Made, two_digits
from lantern.scene.placing import REST, Places, into_space
from lantern.scene.scatter import Scatter

_COVERED = 0.2
"""Share of the surface that lies under the copies to begin with."""
_FEWEST, _MOST = 30, 20_000


def strewn(scene: Scene, keys: Sequence[str], over: str, boxes: Mapping[str, Box]) -> Made | None:
    """The patch that adds, for each of some parts, one that is strewn over another; they themselves stay.

    None when there is nothing to strew, or nothing over which.
    """
    pieces = [key for key in keys if key != over and scene.parts[key].strewn is None]
    if over not in boxes or over not in scene.parts or scene.parts[over].strewn is not None or not pieces:
        return None
    patch: Patch = []
    places = Places.of(scene)
    taken, became = set(scene.parts), dict[str, str]()
    for number, key in enumerate(pieces):
        fresh, _ = free_key(taken, f"{key}-strewn")
        taken.add(fresh)
        became[key] = fresh
        wishes = _beginning(over, boxes[key], boxes[over], len(pieces), number + 1)
        part = scene.parts[key]
        changes = into_space(part, places.group(part.group), REST) | {"group": None, "visible": True}
        changes |= {"name": f"{part.name}, strewn"[:200], "strewn": wishes}
        value = part.model_copy(update=changes).model_dump(mode="json")
        patch.append({"op": "add", "path": f"/parts/{fresh}", "value": value})
    what = scene.parts[pieces[0]].name if len(pieces) == 1 else f"{len(pieces)} parts"
    patch += Copier(scene, {}).decals(became)
    return Made(became[pieces[0]], f"Strew {what} over {scene.parts[over].name}", patch)


def _beginning(over: str, piece: Box, surface: Box, shared: int, seed: int) -> Scatter:
    width, _, depth = (max(b - a, 1e-6) for a, b in zip(*piece, strict=True))
    x, y, z = (b - a for a, b in zip(*surface, strict=True))
    area = max(2 * (x * y + y * z + z * x), 1e-9)
    count = min(max(_COVERED * area / (width * depth), _FEWEST), _MOST) / shared
    density = min(max(two_digits(count / area), 1e-3), 1e9)
    apart = min(max(two_digits(math.hypot(width, depth) * 0.9), 1e-6), 1e4)
    return Scatter(over=over, density=density, apart=apart, seed=seed)
