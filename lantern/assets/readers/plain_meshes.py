"""Files that hold one mesh and nothing else: from what the library reads to an asset of one part.

In: a source and the library's name of its format. Out: an `ImportedAsset`. Called by the readers of such formats.
"""

import io
from pathlib import Path

import numpy as np
import trimesh
from trimesh.visual import ColorVisuals

from lantern.assets.errors import AssetError
from lantern.assets.imported import DEFAULT, ImportedAsset, Progress
from lantern.assets.smoothing import smooth_mesh
from lantern.assets.source import Source
from lantern.color import decode_srgb
from lantern.scene.document import Part
from lantern.scene.fields import FAR


def read_mesh(source: Source, kind: str, progress: Progress) -> ImportedAsset:
    """One part, called as the file.

    Raises AssetError when the file is damaged or holds no triangles.
    """
    progress("Reading meshes", 0.1)
    mesh = _loaded(source, kind)
    positions = np.asarray(mesh.vertices, np.float64)
    faces = np.asarray(mesh.faces)
    if len(faces) == 0:
        raise AssetError(source.name, "holds no triangles")
    if not np.isfinite(positions[faces]).all() or np.abs(positions[faces]).max() > FAR:
        raise AssetError(source.name, f"has vertices that are no numbers, or lie beyond {FAR:g}")
    progress("Smoothing", 0.6)
    # Vertices of no triangle may be anywhere.
    used, corners = np.unique(faces, return_inverse=True)
    colors = _colors(mesh)
    made = smooth_mesh(
        positions[used].astype(np.float32),
        corners.reshape(faces.shape),
        None if colors is None else colors[faces.ravel()],
    )
    name = Path(source.name).stem[:180] or kind
    asset = ImportedAsset(name, kind.upper(), [made])
    asset.materials["default"] = DEFAULT.model_copy(update={"vertex_colors": colors is not None})
    asset.parts["part"] = Part(name=name, mesh=0, material="default")
    lost = len(faces) - made.triangles
    if lost:
        asset.problems.append(f"{lost} triangles without area were left out")
    return asset


def _loaded(source: Source, kind: str) -> trimesh.Trimesh:
    try:
        mesh = trimesh.load_mesh(io.BytesIO(source.path.read_bytes()), file_type=kind, process=False)
    except MemoryError:
        raise
    except Exception as error:  # the library raises whatever the damage provokes
        raise AssetError(
            source.name, f"is a damaged {kind.upper()} ({str(error)[:120] or type(error).__name__})"
        ) from error
    if not isinstance(mesh, trimesh.Trimesh):
        raise AssetError(source.name, "holds no triangles")
    faces = np.asarray(mesh.faces)
    if len(faces) and (faces.min() < 0 or faces.max() >= len(mesh.vertices)):
        raise AssetError(source.name, f"has a triangle of vertex {faces.max()}; there are {len(mesh.vertices)}")
    return mesh


def _colors(mesh: trimesh.Trimesh) -> np.ndarray | None:
    """(n, 4) float32 linear colours of the vertices, of a file that has them; they are stored as sRGB."""
    if not isinstance(mesh.visual, ColorVisuals) or mesh.visual.kind != "vertex":
        return None
    stored = np.asarray(mesh.visual.vertex_colors, np.float32) / 255
    if stored.shape != (len(mesh.vertices), 4):
        return None
    return np.column_stack([decode_srgb(stored[:, :3]), stored[:, 3]]).astype(np.float32)
