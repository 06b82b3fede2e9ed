"""`benchmarks/run bringing [CASE ...]`: an asset from a file that was sent to the first samples of its picture.

Each case is read by the server's own limited process and then opened and traced by another, as a render host does.
Seconds and the greatest memory of each. The last line is one JSON object.
"""

import argparse
import json
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from benchmarks.scale import bumpy
from lantern.assets.mesh import Mesh
from tests.core.gltf_files import glb

WIDTH, HEIGHT = 960, 600
PARTS = 5000


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


def _obj(mesh: Mesh) -> bytes:
    lines = [f"# {_stamp()}"]
    lines += [f"v {x:.6g} {y:.6g} {z:.6g}" for x, y, z in mesh.positions.tolist()]
    lines += [f"f {a} {b} {c}" for a, b, c in (mesh.indices.astype(np.int64) + 1).tolist()]
    return "\n".join(lines).encode()


CASES: dict[str, tuple[str, Callable[[], bytes]]] = {
    "10 M triangles, GLB": ("large.glb", lambda: _glb(bumpy(10_000_000), 1)),
    "1 M triangles, OBJ": ("large.obj", lambda: _obj(bumpy(1_000_000))),
    "5,000 parts, GLB": ("parts.glb", lambda: _glb(bumpy(2_000), PARTS)),
}
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
