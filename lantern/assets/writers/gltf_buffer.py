"""The one buffer of a GLB, with its views and accessors (glTF 2.0, sections 3.6 and 4.4).

In: arrays and files. Out: numbers to refer to them by, and the file. Called by the other writers of glTF.
"""

import json
import struct
from typing import Any

import numpy as np

_COMPONENTS = {
    np.dtype(kind): number
    for kind, number in ((np.float32, 5126), (np.uint32, 5125), (np.uint16, 5123), (np.uint8, 5121))
}
_TYPES = {1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4"}
ARRAY, ELEMENTS = 34962, 34963
"""What a view is for: attributes of vertices, indices."""


class GlbBuffer:
    """Gathers what goes into the binary chunk."""

    def __init__(self) -> None:
        self._pieces: list[bytes] = []
        self._length = 0
        self.views: list[dict[str, Any]] = []
        self.accessors: list[dict[str, Any]] = []

    def view(self, data: bytes, target: int | None = None) -> int:
        """Number of a view of some bytes, which begin at a multiple of four."""
        view: dict[str, Any] = {"buffer": 0, "byteOffset": self._length, "byteLength": len(data)}
        self.views.append(view | ({"target": target} if target else {}))
        padding = -len(data) % 4
        self._pieces += [data, b"\0" * padding]
        self._length += len(data) + padding
        return len(self.views) - 1

    def accessor(self, array: np.ndarray, target: int | None = None, *, bounds: bool = False) -> int:
        """Number of an accessor of (n,) or (n, width) float32, uint32, uint16 or uint8; `bounds` says its extremes."""
        rows = np.ascontiguousarray(array).reshape(len(array), -1)
        accessor: dict[str, Any] = {
            "bufferView": self.view(rows.tobytes(), target),
            "componentType": _COMPONENTS[rows.dtype],
            "count": len(rows),
            "type": _TYPES[rows.shape[1]],
        }
        if bounds:
            accessor |= {"min": rows.min(axis=0).tolist(), "max": rows.max(axis=0).tolist()}
        self.accessors.append(accessor)
        return len(self.accessors) - 1

    def packed(self, content: dict[str, Any]) -> bytes:
        """The GLB of a document, whose views, accessors and buffer are these; lists that are empty are left out."""
        content = content | {
            "bufferViews": self.views,
            "accessors": self.accessors,
            "buffers": [{"byteLength": self._length}] if self._length else [],
        }
        text = json.dumps({key: value for key, value in content.items() if value not in ([], {})}).encode()
        text += b" " * (-len(text) % 4)
        chunks = struct.pack("<I4s", len(text), b"JSON") + text
        if self._length:
            chunks += struct.pack("<I4s", self._length, b"BIN\0") + b"".join(self._pieces)
        return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks
