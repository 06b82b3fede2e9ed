"""`benchmarks/run bringing [CASE ...]`: an asset from a file that was sent to the first samples of its picture.

Each case is read by the server's own limited process and then opened and traced by another, as a render host does.
Seconds and the greatest memory of each. The last line is one JSON object.
"""

import argparse
import io
import json
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from PIL import Image

from benchmarks.scale import bumpy
from lantern.assets.mesh import Mesh
from tests.core.gltf_files import glb

WIDTH, HEIGHT = 960, 600
PARTS = 5000
IMAGES = 100


def _stamp() -> str:
    """Makes a file one that was never read before: what was read is kept."""
    return f"made at {time.time_ns()}"


def _packed(arrays: list[tuple[np.ndarray, str, int]]) -> tuple[bytes, list[dict], list[dict]]:
    """(buffer, views, accessors) of arrays, each with its type and component."""
    blob, views, accessors = [], [], []
    at = 0
    for array, kind, component in arrays:
        views.append({"buffer": 0, "byteOffset": at, "byteLength": array.nbytes})
        count = len(array) if array.ndim > 1 else array.size
        accessors.append({"bufferView": len(views) - 1, "componentType": component, "count": count, "type": kind})
        blob.append(array.tobytes())
        at += array.nbytes
    return b"".join(blob), views, accessors


def _glb(mesh: Mesh, parts: int) -> bytes:
    """A GLB of one mesh on as many nodes, with a material for every hundredth of them."""
    blob, views, accessors = _packed(
        [(mesh.positions, "VEC3", 5126), (mesh.normals, "VEC3", 5126), (mesh.indices.ravel(), "SCALAR", 5125)]
    )
    worn = max(parts // 100, 1)
    primitive = {"attributes": {"POSITION": 0, "NORMAL": 1}, "indices": 2}
    across = int(np.ceil(np.sqrt(parts)))
    content = {
        "asset": {"version": "2.0", "generator": _stamp()},
        "scene": 0,
        "scenes": [{"nodes": list(range(parts))}],
        "nodes": [
            {"name": f"Bead_{n:04}", "mesh": n % worn, "translation": [0.22 * (n % across), 0, 0.22 * (n // across)]}
            for n in range(parts)
        ],
        "meshes": [{"primitives": [{**primitive, "material": n}]} for n in range(worn)],
        "materials": [{"name": f"Glaze {n}"} for n in range(worn)],
        "accessors": accessors,
        "bufferViews": views,
        "buffers": [{"byteLength": len(blob)}],
    }
    return glb(content, blob)


def _images() -> bytes:
    """A GLB of a hundred plates, each with an image of 4096 × 4096 of its own."""
    chance = np.random.default_rng(1)
    rough = Image.fromarray(chance.integers(0, 256, (512, 512, 3), dtype=np.uint8))
    base = np.asarray(rough.resize((4096, 4096), Image.Resampling.BICUBIC)).astype(np.int16)
    files = []
    for number in range(IMAGES):
        target = io.BytesIO()
        texels = base + chance.integers(-8, 8, (1, 4096, 1), dtype=np.int16) + number % 50
        Image.fromarray(texels.clip(0, 255).astype(np.uint8)).save(target, "JPEG", quality=85)
        files.append(np.frombuffer(target.getvalue(), np.uint8))
    square = np.array([[0, 0, 0], [0.2, 0, 0], [0.2, 0.2, 0], [0, 0.2, 0]], np.float32)
    uvs, corners = np.array([[0, 1], [1, 1], [1, 0], [0, 0]], np.float32), np.array([0, 1, 2, 0, 2, 3], np.uint32)
    blob, views, accessors = _packed([(square, "VEC3", 5126), (uvs, "VEC2", 5126), (corners, "SCALAR", 5125)])
    for file in files:
        views.append({"buffer": 0, "byteOffset": len(blob), "byteLength": file.nbytes})
        blob += file.tobytes() + bytes(-file.nbytes % 4)
    numbers = range(IMAGES)
    plain = {"attributes": {"POSITION": 0, "TEXCOORD_0": 1}, "indices": 2}
    content = {
        "asset": {"version": "2.0", "generator": _stamp()},
        "scene": 0,
        "scenes": [{"nodes": list(numbers)}],
        "nodes": [
            {"name": f"Plate {n}", "mesh": n, "translation": [0.22 * (n % 10), 0.22 * (n // 10), 0]} for n in numbers
        ],
        "meshes": [{"primitives": [{**plain, "material": n}]} for n in numbers],
        "materials": [{"pbrMetallicRoughness": {"baseColorTexture": {"index": n}}} for n in numbers],
        "textures": [{"source": n} for n in numbers],
        "images": [{"bufferView": 3 + n, "mimeType": "image/jpeg"} for n in numbers],
        "accessors": accessors,
        "bufferViews": views,
        "buffers": [{"byteLength": len(blob)}],
    }
    return glb(content, blob)


def parts_glb(count: int) -> bytes:
    """A GLB of so many parts of 2,000 triangles."""
    return _glb(bumpy(2_000), count)


def _obj(mesh: Mesh) -> bytes:
    lines = [f"# {_stamp()}"]
    lines += [f"v {x:.6g} {y:.6g} {z:.6g}" for x, y, z in mesh.positions.tolist()]
    lines += [f"f {a} {b} {c}" for a, b, c in (mesh.indices.astype(np.int64) + 1).tolist()]
    return "\n".join(lines).encode()


CASES: dict[str, tuple[str, Callable[[], bytes]]] = {
    "10 M triangles, GLB": ("large.glb", lambda: _glb(bumpy(10_000_000), 1)),
    "1 M triangles, OBJ": ("large.obj", lambda: _obj(bumpy(1_000_000))),
    "100 images of 4k, GLB": ("images.glb", _images),
    "5,000 parts, GLB": ("parts.glb", lambda: parts_glb(PARTS)),
}
_DECODE = """
import json, struct, sys, time
from pathlib import Path
from lantern.assets.images import decode_image
data = Path(sys.argv[1]).read_bytes()
size = struct.unpack_from("<I", data, 12)[0]
content, binary = json.loads(data[20:20 + size]), data[28 + size:]
views = [content["bufferViews"][image["bufferView"]] for image in content.get("images", [])]
start = time.perf_counter()
for view in views:
    decode_image(binary[view["byteOffset"]:view["byteOffset"] + view["byteLength"]])
print(round(time.perf_counter() - start, 2))
"""
_READ = """
import json, resource
from server.intake.reading import main
main()
print(json.dumps({"reader_gib": round(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 2**20, 2)}))
"""
_OPEN = """
import json, resource, sys, time
from pathlib import Path
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.scene.reading import read_scene
scene, path = read_scene(json.load(sys.stdin)), Path(sys.argv[1])
start = time.perf_counter()
engine = Engine()
engine.open(scene, lambda reference: path)
opened = time.perf_counter() - start
engine.trace(Film(int(sys.argv[2]), int(sys.argv[3])), 1)
print(json.dumps({"open_s": round(opened, 2), "first_samples_s": round(time.perf_counter() - start, 2),
                  "host_gib": round(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 2**20, 2)}))
"""


def _measured(path: Path, folder: Path) -> dict[str, float]:
    wanted = {"kind": "asset", "path": str(path), "name": path.name, "limit": 4 << 30, "folder": str(folder)}
    start = time.perf_counter()
    said = subprocess.run(
        [sys.executable, "-c", _READ], input=json.dumps(wanted), capture_output=True, text=True, check=True
    ).stdout.splitlines()
    read = time.perf_counter() - start
    found, memory = json.loads(said[-2]), json.loads(said[-1])
    if "error" in found:
        raise SystemExit(found["error"])
    hosts = []
    for _ in range(2):  # the project is made, and opened again another day
        opened = subprocess.run(
            [sys.executable, "-c", _OPEN, str(path), str(WIDTH), str(HEIGHT)],
            input=json.dumps(found["found"]["scene"]), capture_output=True, text=True, check=True,
        ).stdout  # fmt: skip
        hosts.append(json.loads(opened.splitlines()[-1]))
    if path.suffix == ".glb":
        decoded = subprocess.run(
            [sys.executable, "-c", _DECODE, str(path)], capture_output=True, text=True, check=True
        ).stdout
        memory["decode_alone_s"] = float(decoded)
    together = round(read + hosts[0]["first_samples_s"], 2)
    again = hosts[1]["first_samples_s"]
    return {"read_s": round(read, 2), **memory, **hosts[0], "together_s": together, "again_s": again}


def main() -> None:
    parser = argparse.ArgumentParser(prog="benchmarks/run bringing", description=__doc__)
    parser.add_argument("cases", nargs="*", help=f"all, if none is named: {', '.join(CASES)}")
    options = parser.parse_args()
    if unknown := [case for case in options.cases if case not in CASES]:
        parser.error(f"there is no case {unknown[0]!r}")
    found = {}
    with TemporaryDirectory() as place:
        for case in options.cases or CASES:
            name, make = CASES[case]
            path = Path(place) / name
            path.write_bytes(make())
            found[case] = {"file_mb": round(path.stat().st_size / 1e6, 1), **_measured(path, Path(place))}
            print(f"{case}: {found[case]}", file=sys.stderr)
            path.unlink()
    print(json.dumps(found))


if __name__ == "__main__":
    main()
