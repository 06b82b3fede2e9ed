"""Another asset in a project that has one: put beside what stands there, at the size that its file says.

In: a document, the asset that it has and the one that has another besides (`joining`). Out: the document with both.
Called by the server's reading.
"""

from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np

from lantern.assets.imported import ImportedAsset
from lantern.assets.swapping import SwapRow, Version, swapped, version_of
from lantern.motion.bounds import Bounds, bounds_of, mesh_points
from lantern.scene.document import Asset, Part, PartSet, Scene, Shutter
from lantern.scene.grouping import above
from lantern.scene.keys import free_key
from lantern.scene.model import FileRef
from lantern.scene.placing import Places, stand_of
from lantern.scene.presence import seen
from lantern.scene.turning import turns_of

GAP = 0.15
"""Between the new asset and what stands there, as a share of the size of the new one."""


def added(scene: Scene, before: Version, both: ImportedAsset, file: FileRef, name: str) -> tuple[Scene, list[SwapRow]]:
    """The document with the asset called `name` besides its own, to the right of that and on the ground; what is new.

    Its parts are a set, and a group that is moved as one. What was done to the others stays as it is.
    """
    told = Asset(file=file, name=both.name, scale=both.scale, up=both.up)
    after, rows = swapped(scene, before, version_of(both), told)
    assert after.asset is not None
    after = after.model_copy(update={"asset": after.asset.model_copy(update={"name": (scene.asset or told).name})})
    fresh = [row.key for row in rows if row.state == "new"]
    points = mesh_points(both.meshes, Shutter())

    def around(parts: Iterable[Part], places: Places) -> Bounds:
        return bounds_of(points, parts, Shutter(), places)

    there = [
        part for key, part in seen(scene).parts.items() if part.visible and part.form is None and key in after.parts
    ]
    stood = _stood(
        scene.ground.height,
        around(there, Places.of(after)) if there else None,
        around([after.parts[key] for key in fresh], Places(told)),
        stand_of(told) @ np.linalg.inv(stand_of(after.asset)),
    )
    parts, groups = dict(after.parts), dict(after.part_groups)
    for top in {above(after, after.parts[key])[-1] for key in fresh if above(after, after.parts[key])}:
        groups[top] = groups[top].model_copy(update=stood)
    for key in fresh:
        if not above(after, parts[key]):  # the first asset of a project
            parts[key] = parts[key].model_copy(update=stood)
    key, _ = free_key(after.part_sets, "set")
    sets = after.part_sets | {key: PartSet(name=name[:200], parts=tuple(fresh))}
    return after.model_copy(update={"parts": parts, "part_groups": groups, "part_sets": sets}), [
        row for row in rows if row.state == "new"
    ]


def _stood(ground: float, old: Bounds | None, new: Bounds, undo: np.ndarray) -> dict[str, Any]:
    """Fields of a group that stands on the ground beside a box, `new` being that around them.

    `undo` (4, 4) takes back the unit and the upright axis that were given to the other asset by hand.
    """
    low, high = new
    shift = np.array([0.0, ground - low[1], 0.0])
    if old is not None:
        shift[0] = old[1][0] + GAP * float((high - low).max()) - low[0]
        shift[2] = (old[0][2] + old[1][2] - low[2] - high[2]) / 2
    fields: dict[str, Any] = {"offset": _rounded(shift)}
    if not np.allclose(undo, np.eye(4)):
        size = float(np.cbrt(np.linalg.det(undo[:3, :3])))
        turns = turns_of(undo[:3, :3] / size)
        fields |= {f"turn_{axis}": round(float(turn), 6) for axis, turn in zip("xyz", turns, strict=True)}
        fields |= {"size": min(max(size, 0.001), 1000.0), "pivot": (0.0, 0.0, 0.0)}
    return fields


def _rounded(values: Sequence[float] | np.ndarray) -> tuple[float, ...]:
    return tuple(float(f"{v:.6g}") for v in values)
