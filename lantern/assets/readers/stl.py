"""STL import, text and binary: triangles and nothing else (3D Systems, "StereoLithography Interface Specification",
1988). It has no unit; by custom it is millimetres. Its Z axis is up.
"""

import struct

from lantern.assets.imported import ImportedAsset, Progress
from lantern.assets.readers.plain_meshes import read_mesh
from lantern.assets.source import Source

MILLIMETRE = 1e-3
_HEADER, _TRIANGLE = 80, 50
_UP = (1, 0, 0, 0, 0, 0, 1, 0, 0, -1, 0, 0)
"""Rows of the turn from Z up to Y up."""


def recognises(head: bytes, size: int) -> bool:
    """Whether a file begins as text of a solid, or has the size that its count of triangles says."""
    if head.lstrip()[:5].lower() == b"solid" and b"facet" in head.lower():
        return True
    if len(head) < _HEADER + 4:
        return False
    (count,) = struct.unpack_from("<I", head, _HEADER)
    return size == _HEADER + 4 + count * _TRIANGLE


def read(source: Source, progress: Progress) -> ImportedAsset:
    """One part, upright, in metres. Raises AssetError."""
    asset = read_mesh(source, "stl", MILLIMETRE, progress)
    asset.parts = {key: part.model_copy(update={"matrix": _UP}) for key, part in asset.parts.items()}
    asset.problems.append("STL says no unit and no upright axis: taken as millimetres, Z up")
    return asset
