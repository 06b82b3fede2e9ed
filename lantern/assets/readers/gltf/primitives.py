"""The arrays of one primitive of a glTF file, plain or compressed (glTF 2.0, section 3.7.2.1;
`KHR_draco_mesh_compression`).

In: a primitive. Out: its attributes and triangles. Called by `meshes`.
"""

from typing import NamedTuple

import DracoPy
import numpy as np

from lantern.assets.errors import AssetError
from lantern.assets.mesh import TRIANGLES, triangulate
from lantern.assets.readers.gltf.accessors import AccessorReader
from lantern.assets.readers.gltf.document import Entry

MOST_UV_SETS = 4
DRACO = "KHR_draco_mesh_compression"


class Attributes(NamedTuple):
    """What a primitive says of its vertices besides their places; None for what is not there."""

    normals: np.ndarray | None  # (n, 3)
    tangents: np.ndarray | None  # (n, 4)
    uvs: np.ndarray | None  # (sets, n, 2)
    colors: np.ndarray | None  # (n, 4)


class PrimitiveArrays:
    """Reads one primitive, which messages call `here`. Every method raises AssetError for what cannot be used."""

    def __init__(self, reader: AccessorReader, primitive: Entry, here: str) -> None:
        self._reader, self._primitive, self._here = reader, primitive, here
        self._packed: dict[str, np.ndarray] = {}
        self._faces: np.ndarray | None = None
        packed = (primitive.extensions or {}).get(DRACO)
        if packed is not None:
            self._unpack(packed)

    def positions(self) -> np.ndarray:
        """(n, 3) float32 [m], all of them numbers."""
        positions = self.values("POSITION", "VEC3")
        assert positions is not None
        if not np.isfinite(positions).all():
            vertex = int(np.argwhere(~np.isfinite(positions))[0][0])
            raise self._reader.fail(f"{self._here}: position of vertex {vertex} is not finite")
        return positions

    def triangles(self, count: int, mode: int) -> np.ndarray:
        """(m, 3) uint32 of `count` vertices."""
        if self._faces is not None:
            flat, mode = self._faces.ravel(), TRIANGLES
        elif self._primitive.indices is None:
            return triangulate(np.arange(count, dtype=np.uint32), mode)
        else:
            flat = self._reader.read(self._primitive.indices, "SCALAR")
        if flat.dtype.kind != "u":
            raise self._reader.fail(f"{self._here}: indices must be unsigned integers")
        if len(flat) and int(flat.max()) >= count:
            raise self._reader.fail(
                f"{self._here}: index {int(flat.max())} is out of range, there are {count} vertices"
            )
        return triangulate(flat, mode)

    def attributes(self, count: int) -> Attributes:
        """Of `count` vertices."""

        def read(name: str, *kinds: str) -> np.ndarray | None:
            array = self.values(name, *kinds)
            if array is None:
                return None
            if len(array) != count:
                raise self._reader.fail(f"{self._here}: {name} has {len(array)} entries for {count} vertices")
            return np.nan_to_num(np.ascontiguousarray(array), posinf=0.0, neginf=0.0)

        sets = [read(f"TEXCOORD_{number}", "VEC2") for number in range(MOST_UV_SETS)]
        last = max((number for number, uvs in enumerate(sets) if uvs is not None), default=-1)
        nothing = np.zeros((count, 2), np.float32)
        uvs = np.stack([nothing if uvs is None else uvs for uvs in sets[: last + 1]]) if last >= 0 else None
        colors = read("COLOR_0", "VEC3", "VEC4")
        if colors is not None and colors.shape[1] == 3:
            colors = np.concatenate([colors, np.ones((count, 1), np.float32)], axis=1)
        return Attributes(read("NORMAL", "VEC3"), read("TANGENT", "VEC4"), uvs, colors)

    def values(self, name: str, *kinds: str) -> np.ndarray | None:
        """(n, width) float32 of an attribute that has one of the types; None when it is not there."""
        number = getattr(self._primitive.attributes, name, None)
        if number is None:
            return None
        kind = self._reader.kind(number, *kinds)
        if name not in self._packed:
            return self._reader.floats(number, kind)
        return self._reader.as_floats(number, self._packed[name])

    def _unpack(self, packed: object) -> None:
        try:
            assert isinstance(packed, dict), "it is no object"
            mesh = DracoPy.decode(bytes(self._reader.view(packed["bufferView"])))
            arrays = {each["unique_id"]: each["data"] for each in mesh.attributes}
            self._packed = {name: np.atleast_2d(arrays[number]) for name, number in packed["attributes"].items()}
            self._faces = np.asarray(mesh.faces, np.uint32)
        except AssetError:
            raise
        except Exception as error:  # the library raises whatever the damage provokes
            raise self._reader.fail(
                f"{self._here}: cannot be unpacked ({str(error)[:120] or type(error).__name__})"
            ) from error
