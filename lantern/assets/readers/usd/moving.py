"""Meshes of a stage whose points move, by themselves or by a skeleton (UsdGeom: PointBased; UsdSkel).

In: a stage; a mesh with the mesh that was made of it. Out: the same with the shapes that it takes. Called by `asset`
and `meshes`.
"""

from dataclasses import replace

import numpy as np
from pxr import Usd, UsdGeom, UsdSkel

from lantern.assets.mesh import Mesh, MeshShapes
from lantern.kernel.normals import group_normals

MOST_MOMENTS = 200
"""At which the shape of a mesh is kept; of more that many are taken, evenly."""


def bake_skeletons(stage: Usd.Stage) -> None:
    """Let points move where skeletons move them: said in the stage's session, never in its file."""
    if any(prim.IsA(UsdSkel.Root) for prim in Usd.PrimRange.Stage(stage)):
        stage.SetEditTarget(stage.GetSessionLayer())
        UsdSkel.BakeSkinning(Usd.PrimRange.Stage(stage))


def moving(mesh: UsdGeom.Mesh, made: Mesh, points: np.ndarray, start: float, rate: float) -> tuple[Mesh, str | None]:
    """(the mesh made of `points` (n, 3) at the stage's start with its shapes, what is wrong with them).

    `start` is a time code, of which there are `rate` a second.
    """
    attribute = mesh.GetPointsAttr()
    codes = attribute.GetTimeSamples()
    if len(codes) < 2:
        return made, None
    codes = [codes[i] for i in np.linspace(0, len(codes) - 1, min(len(codes), MOST_MOMENTS)).round().astype(int)]
    places = {row.tobytes(): number for number, row in enumerate(points.astype(np.float32))}
    numbers = np.array([places[row.tobytes()] for row in made.positions])
    poses = []
    for code in codes:
        there = np.asarray(attribute.Get(code), np.float64).reshape(-1, 3)
        if len(there) != len(points) or not np.isfinite(there).all():
            return made, "its points change their number, which is not shown"
        poses.append(there[numbers].astype(np.float32))
    positions = np.stack(poses)
    if (positions == positions[0]).all():
        return made, None
    corners = made.indices.astype(np.int64)
    # Vertices are apart where edges are sharp: what shares one shares a normal.
    shaded = [group_normals(pose.astype(np.float64), corners, corners, len(pose)) for pose in positions]
    times = tuple((code - start) / rate for code in codes)
    return replace(made, shapes=MeshShapes(times, positions, np.stack(shaded).astype(np.float32))), None
