"""PLY import, text and both binaries: one mesh with colours of its vertices (Turk, "The PLY Polygon File Format",
1994).

It has no unit: taken as metres, as glTF.
"""

from lantern.assets.imported import ImportedAsset, Progress
from lantern.assets.readers.plain_meshes import read_mesh
from lantern.assets.source import Source


def recognises(head: bytes, size: int) -> bool:
    """Whether a file begins as every PLY does."""
    return head[:3] == b"ply" and head[3:4] in (b"\n", b"\r")


def read(source: Source, progress: Progress) -> ImportedAsset:
    """One part. Raises AssetError."""
    asset = read_mesh(source, "ply", progress)
    asset.problems.append("PLY says no unit: taken as metres")
    return asset
