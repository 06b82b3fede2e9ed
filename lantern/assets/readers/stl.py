"""STL import, text and binary: triangles and nothing else (3D Systems, "StereoLithography Interface Specification",
1988). It has no unit; by custom it is millimetres. Its Z axis is up.
"""

import struct

from lantern.assets.imported import ImportedAsset, Progress
from lantern.assets.readers.plain_meshes import read_mesh
from lantern.assets.source import Source

MILLIMETRE = 1e-3
_HEADER, _TRIANGLE = 80, 50


def recognises(head: bytes, size: int) -> bool:
    """Whether a file begins as text of a solid, or has the size that its count of triangles says."""
    if head.lstrip()[:5].lower() == b"solid" and b"facet" in head.lower():
        return True
    if len(head) < _HEADER + 4:
        return False
    (count,) = struct.unpack_from("<I", head, _HEADER)
    return size == _HEADER + 4 + count * _TRIANGLE


def read(source: Source, progress: Progress) -> ImportedAsset:
    """One part. Raises AssetError."""
    asset = read_mesh(source, "stl", progress)
    asset.scale, asset.up = MILLIMETRE, "+z"
    asset.problems.append("STL says no unit and no upright axis: taken as millimetres, Z up")
    return asset
