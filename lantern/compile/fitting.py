"""How often a mesh is to be refined for its edges to be as short in the picture as they are wanted.

In: a part, the poses of what it stands on, the box and the edges of its mesh, the camera. Out: a level. Called by
`stock`. Each level halves an edge; nearness is that of the box around the part, so no triangle is larger than wanted
by more than what an edge differs from the longest ones.
"""

import numpy as np

from lantern.assets.mesh import Mesh
from lantern.motion.poses import camera_places
from lantern.scene.document import Scene

LONG = 95.0
"""Percentile of the edges that has to be short enough: a few long ones of a fan shall not refine all others."""
LEAST_LEVEL = 1
"""Of a mesh that is refined at all: its vertices lie on the limit surface then, at whatever level."""


def long_edge(mesh: Mesh) -> float:
    """How long the long edges of a mesh are, in its own space."""
    corners = mesh.positions[mesh.indices].astype(np.float64)
    edges = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2)
    return float(np.percentile(edges, LONG)) if edges.size else 0.0


def pixels_a_metre(scene: Scene, corners: np.ndarray) -> float:
    """Pixels of the print that a metre takes at the nearest point of a box of world corners (n, 3); infinite inside."""
    camera = scene.camera
    across = scene.print.width * camera.focal_length / camera.sensor_width
    low, high = corners.min(axis=0), corners.max(axis=0)
    distances = []
    for position, target in camera_places(camera, scene.shutter):
        # An orthographic picture shows everything as large as the perspective one what is at its target.
        nearest = target if camera.projection == "orthographic" else np.clip(position, low, high)
        distances.append(float(np.linalg.norm(position - nearest)))
    distance = min(distances)
    return across / distance if distance > 0 else float("inf")


def fitted_level(scene: Scene, pixels: float, edge: float, box: np.ndarray, poses: np.ndarray, most: int) -> int:
    """The least level, up to `most`, at which an edge of a mesh takes at most so many pixels of the print.

    `edge` is in the mesh's space, as is its box, corners (8, 3); `poses` (k, 3, 4) are where it stands.
    """
    corners = (poses[:, :, :3] @ box.T).transpose(0, 2, 1) + poses[:, None, :, 3]
    stretch = float(np.linalg.norm(poses[:, :, :3], ord=2, axis=(1, 2)).max())
    length = edge * stretch * pixels_a_metre(scene, corners.reshape(-1, 3))
    if length <= pixels:
        return min(LEAST_LEVEL, most)
    return int(np.clip(np.ceil(np.log2(min(length / pixels, 2.0**most))), min(LEAST_LEVEL, most), most))
