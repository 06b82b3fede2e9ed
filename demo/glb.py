"""Writing a GLB from shapes, materials and pictures (glTF 2.0, sections 4.4 and 5)."""

import json
import struct
import tempfile
from pathlib import Path
from typing import Any

import numpy as np

from demo.shapes import Shape
from lantern.picture.stills import write_png

FLOAT, UNSIGNED = 5126, 5125
ARRAY_BUFFER, ELEMENT_BUFFER = 34962, 34963


class GlbWriter:
    """Collects parts and writes them as one file."""

    def __init__(self, generator: str) -> None:
        self._binary = bytearray()
        self._json: dict[str, Any] = {
            "asset": {"version": "2.0", "generator": generator},
            "scene": 0,
            "scenes": [{"nodes": []}],
            "nodes": [],
            "meshes": [],
            "materials": [],
            "accessors": [],
            "bufferViews": [],
            "samplers": [{"magFilter": 9729, "minFilter": 9987, "wrapS": 10497, "wrapT": 10497}],
        }

    def _view(self, data: bytes, target: int | None = None) -> int:
        while len(self._binary) % 4:
            self._binary.append(0)
        view = {"buffer": 0, "byteOffset": len(self._binary), "byteLength": len(data)}
        if target:
            view["target"] = target
        self._binary.extend(data)
        self._json["bufferViews"].append(view)
        return len(self._json["bufferViews"]) - 1

    def _accessor(self, array: np.ndarray, component: int, kind: str, target: int, bounds: bool = False) -> int:
        accessor: dict[str, Any] = {
            "bufferView": self._view(array.tobytes(), target),
            "componentType": component,
            "count": len(array),
            "type": kind,
        }
        if bounds:
            accessor |= {"min": array.min(0).tolist(), "max": array.max(0).tolist()}
        self._json["accessors"].append(accessor)
        return len(self._json["accessors"]) - 1

    def add_texture(self, pixels: np.ndarray) -> int:
        """Store (h, w, 3) uint8 as PNG and return the texture's number."""
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "texture.png"
            write_png(path, pixels)
            view = self._view(path.read_bytes())
        self._json.setdefault("images", []).append({"bufferView": view, "mimeType": "image/png"})
        textures = self._json.setdefault("textures", [])
        textures.append({"sampler": 0, "source": len(self._json["images"]) - 1})
        return len(textures) - 1

    def add_material(self, material: dict[str, Any]) -> int:
        """Add a glTF material as it stands."""
        used = set(self._json.get("extensionsUsed", []))
        used |= set(material.get("extensions", {}))
        if "KHR_texture_transform" in json.dumps(material):
            used.add("KHR_texture_transform")
        if used:
            self._json["extensionsUsed"] = sorted(used)
        self._json["materials"].append(material)
        return len(self._json["materials"]) - 1

    def add_part(self, name: str, shape: Shape, material: int) -> None:
        """Add a named mesh as a node of its own."""
        attributes = {
            "POSITION": self._accessor(shape.positions, FLOAT, "VEC3", ARRAY_BUFFER, bounds=True),
            "NORMAL": self._accessor(shape.normals, FLOAT, "VEC3", ARRAY_BUFFER),
            "TEXCOORD_0": self._accessor(shape.uvs, FLOAT, "VEC2", ARRAY_BUFFER),
        }
        indices = self._accessor(shape.indices.ravel().astype(np.uint32), UNSIGNED, "SCALAR", ELEMENT_BUFFER)
        self._json["meshes"].append(
            {"name": name, "primitives": [{"attributes": attributes, "indices": indices, "material": material}]}
        )
        self._json["nodes"].append({"name": name, "mesh": len(self._json["meshes"]) - 1})
        self._json["scenes"][0]["nodes"].append(len(self._json["nodes"]) - 1)

    def write(self, path: Path) -> None:
        """Write the file."""
        self._json["buffers"] = [{"byteLength": len(self._binary)}]
        text = json.dumps(self._json, separators=(",", ":")).encode()
        text += b" " * (-len(text) % 4)
        binary = bytes(self._binary) + b"\0" * (-len(self._binary) % 4)
        total = 12 + 8 + len(text) + 8 + len(binary)
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(
            struct.pack("<4sII", b"glTF", 2, total)
            + struct.pack("<I4s", len(text), b"JSON")
            + text
            + struct.pack("<I4s", len(binary), b"BIN\0")
            + binary
        )
