"""An asset as it comes from somebody else's program: 46 m large, one ball inside out, a box without lid, twins."""

from dataclasses import replace

import numpy as np

from lantern.assets.mesh import Mesh
from tests.core.gltf_files import glb
from tests.core.shapes import box_mesh, sphere_mesh

OAK, RED, GREY = [0.5, 0.3, 0.1, 1], [0.7, 0.05, 0.04, 1], [0.3, 0.3, 0.3, 1]
MATERIALS = (("Oak", OAK), ("Red", RED), ("Oak copy", OAK), ("Grey", GREY))
PLACES = ((0, 0, 0), (0, 20, 0), (-14, 28, 0), (0, 6, 18), (16, 24, 0))


NAMES = tuple(f"Mesh_0{number}" for number in range(421, 426))


def odd_glb(names: tuple[str | None, ...] = NAMES, open_size: float = 1.0) -> bytes:
    """The file; a part without name is left out. The box without lid can be larger or smaller."""
    box, ball = box_mesh((-10, 0, -10), (10, 4, 10)), sphere_mesh(8, 32)
    lidless = replace(box, indices=box.indices[2:], positions=box.positions * np.float32(open_size))
    inwards = replace(ball, indices=ball.indices[:, ::-1].copy(), normals=-ball.normals)
    return _glb([box, ball, ball, lidless, inwards], names)


def _glb(meshes: list[Mesh], names: tuple[str | None, ...]) -> bytes:
    blob, views, accessors = b"", [], []

    def put(array: np.ndarray, kind: str, component: int) -> int:
        nonlocal blob
        views.append({"buffer": 0, "byteOffset": len(blob), "byteLength": array.nbytes})
        count = len(array) if array.ndim > 1 else array.size
        accessors.append({"bufferView": len(views) - 1, "componentType": component, "count": count, "type": kind})
        blob += array.tobytes()
        return len(accessors) - 1

    primitives = [
        {
            "attributes": {"POSITION": put(mesh.positions, "VEC3", 5126), "NORMAL": put(mesh.normals, "VEC3", 5126)},
            "indices": put(mesh.indices.ravel(), "SCALAR", 5125),
            "material": number % len(MATERIALS),
        }
        for number, mesh in enumerate(meshes)
    ]
    return glb(
        {
            "asset": {"version": "2.0"},
            "scene": 0,
            "scenes": [{"nodes": [number for number, name in enumerate(names) if name]}],
            "nodes": [
                {"mesh": n, "name": name or "Gone", "translation": list(place)}
                for n, (name, place) in enumerate(zip(names, PLACES, strict=True))
            ],
            "meshes": [{"primitives": [primitive]} for primitive in primitives],
            "materials": [
                {"name": name, "pbrMetallicRoughness": {"baseColorFactor": color, "metallicFactor": 0}}
                for name, color in MATERIALS
            ],
            "accessors": accessors,
            "bufferViews": views,
            "buffers": [{"byteLength": len(blob)}],
        },
        blob,
    )
