"""A square in a glTF file, with whatever attributes and images a test wants, and its picture seen straight on."""

import json
import struct
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import OpenImageIO as oiio

from lantern.assets.reading import import_asset
from lantern.engine.engine import Engine
from lantern.film.film import Film, Means
from lantern.scene.document import Camera, Scene
from lantern.scene.surroundings import Backdrop, Environment, Ground
from tests.core.shapes import no_files

POSITIONS = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]], np.float32)
UVS = np.array([[0, 1], [1, 1], [1, 0], [0, 0]], np.float32)
"""The picture of an image: u to the right, v down."""
NORMALS = np.tile(np.float32([0, 0, 1]), (4, 1))
INDICES = np.array([0, 1, 2, 0, 2, 3], np.uint16)
COMPONENTS = {"f": 5126, "B": 5121, "H": 5123, "b": 5120, "h": 5122}
TYPES = {1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4"}
SIDE = 49
MATT = {"extensions": {"KHR_materials_ior": {"ior": 1.0}}}
"""Nothing but its base colour: boundaries of index 1 reflect nothing."""


def png(texels: np.ndarray, folder: Path) -> bytes:
    """A PNG of (h, w, c) uint8 or uint16, alpha not multiplied in."""
    path = folder / "texels.png"
    height, width, channels = texels.shape
    spec = oiio.ImageSpec(width, height, channels, oiio.UINT16 if texels.dtype == np.uint16 else oiio.UINT8)
    spec.attribute("oiio:UnassociatedAlpha", 1)
    if channels in (2, 4):
        spec.alpha_channel = channels - 1
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec) and out.write_image(texels)
    out.close()
    return path.read_bytes()


@dataclass
class Quad:
    """What the file is to hold."""

    material: dict = field(default_factory=dict)
    images: tuple[np.ndarray, ...] = ()
    samplers: tuple[dict, ...] = ({},)
    attributes: dict[str, tuple[np.ndarray, bool]] = field(default_factory=dict)  # array, normalised
    node: dict = field(default_factory=dict)
    interleaved: bool = False
    sparse: tuple[list[int], np.ndarray] | None = None  # of the positions

    def glb(self, folder: Path) -> bytes:
        arrays = {
            "POSITION": (POSITIONS, False),
            "NORMAL": (NORMALS, False),
            "TEXCOORD_0": (UVS, False),
        } | self.attributes
        blob, views, accessors, attributes = b"", [], [], {}

        def view(data: bytes, **more) -> int:
            nonlocal blob
            blob += b"\0" * (-len(blob) % 4)
            views.append({"buffer": 0, "byteOffset": len(blob), "byteLength": len(data), **more})
            blob += data
            return len(views) - 1

        for name, (array, normalised) in arrays.items():
            accessor = {
                "componentType": COMPONENTS[array.dtype.char], "count": len(array), "type": TYPES[array.shape[1]],
                "normalized": normalised,
            }  # fmt: skip
            if self.interleaved:
                row = array.tobytes()
                size = len(row) // len(array)
                padded = b"".join(row[i * size : (i + 1) * size] + b"\xff" * (32 - size) for i in range(len(array)))
                accessor["bufferView"] = view(padded, byteStride=32)
            else:
                accessor["bufferView"] = view(array.tobytes())
            if name == "POSITION" and self.sparse is not None:
                places, values = self.sparse
                accessor["sparse"] = {
                    "count": len(places),
                    "indices": {"bufferView": view(np.array(places, np.uint16).tobytes()), "componentType": 5123},
                    "values": {"bufferView": view(values.astype(np.float32).tobytes())},
                }
            attributes[name] = len(accessors)
            accessors.append(accessor)
        indices = len(accessors)
        accessors.append({"bufferView": view(INDICES.tobytes()), "componentType": 5123, "count": 6, "type": "SCALAR"})
        images = [{"bufferView": view(png(image, folder)), "mimeType": "image/png"} for image in self.images]
        textures = [{"source": i, "sampler": min(i, len(self.samplers) - 1)} for i in range(len(images))]
        content = {
            "asset": {"version": "2.0"},
            "scene": 0,
            "scenes": [{"nodes": [0]}],
            "nodes": [{"mesh": 0, **self.node}],
            "meshes": [{"primitives": [{"attributes": attributes, "indices": indices, "material": 0}]}],
            "materials": [self.material],
            "accessors": accessors,
            "bufferViews": views,
            "buffers": [{"byteLength": len(blob)}],
            "images": images,
            "textures": textures,
            "samplers": [{"magFilter": 9728, **sampler} for sampler in self.samplers],
        }
        return _packed({key: value for key, value in content.items() if value != []}, blob)


def _packed(content: dict, blob: bytes) -> bytes:
    text = json.dumps(content).encode()
    text += b" " * (-len(text) % 4)
    blob += b"\0" * (-len(blob) % 4)
    total = 12 + 8 + len(text) + 8 + len(blob)
    head = struct.pack("<4sII", b"glTF", 2, total) + struct.pack("<I4s", len(text), b"JSON") + text
    return head + struct.pack("<I4s", len(blob), b"BIN\0") + blob


class Picture:
    """The square from (0, 0) to (1, 1), seen straight on from the front (or the back), filling the frame."""

    def __init__(self, quad: Quad | Path, folder: Path, *, samples: int = 64, back: bool = False, **changes: object):
        """`quad` is what the file is to hold, or a file of any format with such a square."""
        path = quad if isinstance(quad, Path) else folder / "quad.glb"
        if isinstance(quad, Quad):
            path.write_bytes(quad.glb(folder))
        asset = import_asset(path)
        away = -2.0 if back else 2.0
        fields: dict[str, object] = {
            "parts": asset.parts,
            "materials": asset.materials,
            "camera": Camera(
                position=(0.5, 0.5, away), target=(0.5, 0.5, 0), projection="orthographic", sensor_width=36,
                focal_length=72,
            ),
            "ground": Ground(enabled=False),
            "environment": Environment(intensity=1.0),
            "backdrop": Backdrop(color=(0, 0, 0)),
        }  # fmt: skip
        engine = Engine(2)
        engine.open(Scene(**(fields | changes)), no_files, asset)
        film = Film(SIDE, SIDE)
        engine.trace(film, samples)
        engine.close()
        self.material = next(iter(asset.materials.values()))
        self.problems = asset.problems
        self.means: Means = film.means()

    def _at(self, values: np.ndarray, u: float, v: float) -> np.ndarray:
        x, y = int(u * SIDE), int(v * SIDE)
        return values[max(y - 1, 0) : y + 2, max(x - 1, 0) : x + 2].mean((0, 1), dtype=np.float64)

    def color(self, u: float, v: float) -> np.ndarray:
        """RGB at a place of the picture, (0, 0) upper left."""
        return self._at(self.means.radiance, u, v)

    def normal(self, u: float, v: float) -> np.ndarray:
        """Normal of the first surface there."""
        return self._at(self.means.normal, u, v)

    def alpha(self, u: float, v: float) -> float:
        """Share of the samples that met something there."""
        return float(self._at(self.means.alpha, u, v))
