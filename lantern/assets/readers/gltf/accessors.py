"""Reading glTF accessors into arrays, every range checked (glTF 2.0, section 3.6; `EXT_meshopt_compression`)."""

from typing import Any, NamedTuple

import meshopt
import numpy as np

from lantern.assets.errors import AssetError
from lantern.assets.readers.gltf.container import Container
from lantern.assets.readers.gltf.document import Entry

COMPONENTS = {5120: np.int8, 5121: np.uint8, 5122: np.int16, 5123: np.uint16, 5125: np.uint32, 5126: np.float32}
WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}
MESHOPT = "EXT_meshopt_compression"
_MOST_PACKED = 1 << 30
"""Bytes that a compressed buffer view may unpack to."""


class View(NamedTuple):
    """A buffer view: bytes, where it begins in them, how long it is, from one element to the next if that is said."""

    data: bytes
    start: int
    length: int
    stride: int | None


class AccessorReader:
    """Arrays of one asset file; each buffer is read once."""

    def __init__(self, container: Container) -> None:
        self._container = container
        self._document = container.document
        self._buffers: dict[int, bytes] = {}
        self._unpacked: dict[int, View] = {}

    def fail(self, problem: str) -> AssetError:
        """An error about this file."""
        return AssetError(self._container.name, problem)

    def buffer(self, number: int) -> bytes:
        """Content of buffer `number`, at least as long as it says."""
        if number not in self._buffers:
            if number is None or not 0 <= number < len(self._document.buffers):
                raise self.fail(f"buffer {number} is missing")
            buffer = self._document.buffers[number]
            if buffer.uri is None:
                if number != 0 or self._container.binary is None:
                    raise self.fail(f"buffer {number} has no data")
                data = self._container.binary
            else:
                data = self._container.read(buffer.uri)
            if not isinstance(buffer.byteLength, int) or len(data) < buffer.byteLength:
                raise self.fail(f"buffer {number} is truncated: {len(data)} of {buffer.byteLength} bytes")
            self._buffers[number] = data
        return self._buffers[number]

    def view(self, number: int) -> bytes:
        """Content of buffer view `number`."""
        view = self._view(number)
        return view.data[view.start : view.start + view.length]

    def _view(self, number: int) -> View:
        if not isinstance(number, int) or not 0 <= number < len(self._document.bufferViews):
            raise self.fail(f"buffer view {number} is missing")
        view = self._document.bufferViews[number]
        packed = (view.extensions or {}).get(MESHOPT)
        if packed is None:
            return self._part(number, view.buffer, view.byteOffset, view.byteLength, view.byteStride)
        if number not in self._unpacked:
            self._unpacked[number] = self._without_packing(number, packed)
        return self._unpacked[number]

    def _part(self, number: int, buffer: int, offset: Any, length: Any, stride: int | None) -> View:
        data, start = self.buffer(buffer), offset or 0
        whole = isinstance(start, int) and isinstance(length, int)
        if not whole or start < 0 or length < 0 or start + length > len(data):
            raise self.fail(f"buffer view {number} reaches beyond its buffer")
        return View(data, start, length, stride)

    def _without_packing(self, number: int, packed: dict[str, Any]) -> View:
        """A view as its compressed form says it. Raises AssetError for one that is damaged."""
        try:
            count, size = packed["count"], packed["byteStride"]
            if not 0 <= count * size <= _MOST_PACKED:
                raise self.fail(f"buffer view {number} would unpack to {count * size / 1e6:.1f} MB")
            view = self._part(number, packed["buffer"], packed.get("byteOffset"), packed["byteLength"], None)
            data = view.data[view.start : view.start + view.length]
            rows = meshopt.decode_gltf_buffer(data, count, size, packed["mode"], packed.get("filter"))
        except (KeyError, TypeError, ValueError, AttributeError, RuntimeError) as error:
            if isinstance(error, AssetError):
                raise
            raise self.fail(f"buffer view {number} cannot be unpacked ({error})") from error
        content = np.ascontiguousarray(rows).tobytes()
        return View(content, 0, len(content), size if packed["mode"] == "ATTRIBUTES" else None)

    def kind(self, number: int, *allowed: str) -> str:
        """Type of accessor `number` if it is an allowed one, else the first of those, which then is missed."""
        known = isinstance(number, int) and 0 <= number < len(self._document.accessors)
        found = self._document.accessors[number].type if known else None
        return found if found in allowed else allowed[0]

    def read(self, number: int, kind: str) -> np.ndarray:
        """Accessor `number` as stored, shape (count,) or (count, width); `kind` is the type it must have."""
        if not isinstance(number, int) or not 0 <= number < len(self._document.accessors):
            raise self.fail(f"accessor {number} is missing")
        accessor = self._document.accessors[number]
        if accessor.type != kind or accessor.componentType not in COMPONENTS:
            raise self.fail(f"accessor {number} is {accessor.type} of {accessor.componentType}; {kind} is needed here")
        component, width = np.dtype(COMPONENTS[accessor.componentType]), WIDTHS[kind]
        count = accessor.count
        if not isinstance(count, int) or count < 0:
            raise self.fail(f"accessor {number} has a count of {count!r}")
        if accessor.bufferView is None:
            array = np.zeros((count, width), component)
        else:
            array = self._strided(number, accessor.bufferView, accessor.byteOffset or 0, count, component, width)
        if accessor.sparse is not None:
            array = self._with_sparse(number, accessor.sparse, array)
        return array[:, 0] if width == 1 else array

    def _strided(
        self, number: int, view_number: int, offset: int, count: int, component: np.dtype, width: int
    ) -> np.ndarray:
        view = self._view(view_number)
        item = component.itemsize * width
        stride = view.stride or item
        if stride < item or offset < 0 or (count and offset + stride * (count - 1) + item > view.length):
            raise self.fail(f"accessor {number} reaches beyond its buffer view")
        window = np.ndarray((count, width), component, view.data, view.start + offset, (stride, component.itemsize))
        return np.array(window)

    def _with_sparse(self, number: int, sparse: Entry, base: np.ndarray) -> np.ndarray:
        places = self._strided(
            number,
            sparse.indices.bufferView,
            sparse.indices.byteOffset or 0,
            sparse.count,
            np.dtype(COMPONENTS[sparse.indices.componentType]),
            1,
        )[:, 0].astype(np.int64)
        values = self._strided(
            number, sparse.values.bufferView, sparse.values.byteOffset or 0, sparse.count, base.dtype, base.shape[1]
        )
        if len(places) and places.max() >= len(base):
            raise self.fail(f"accessor {number} has a sparse index out of range")
        base[places] = values
        return base

    def floats(self, number: int, kind: str) -> np.ndarray:
        """Accessor as float32; normalised integers are mapped to [0, 1] or [-1, 1] (section 3.11)."""
        return self.as_floats(number, self.read(number, kind))

    def as_floats(self, number: int, array: np.ndarray) -> np.ndarray:
        """Values that stand for those of accessor `number` as float32, normalised if it says so."""
        if array.dtype.kind == "f":
            return array.astype(np.float32, copy=False)
        if not self._document.accessors[number].normalized:
            return array.astype(np.float32)
        largest = np.float32(np.iinfo(array.dtype).max)
        return np.maximum(array.astype(np.float32) / largest, -1.0)
