"""`benchmarks/run damage FORMAT [--minutes M] [--seed S]`: damaged files of a format, one after another, are read.

Each is a good file with some of its bytes flipped, cut, doubled or overwritten by words of the format. A reader may
read it or refuse it by an `AssetError` that names it; anything else is a finding: another error, a crash, or more than
SLOW_SECONDS. Files that make one are kept in the folder that `--keep` names. The last line is one JSON object.
"""

import argparse
import json
import multiprocessing
import random
import resource
import sys
import time
from multiprocessing.connection import Connection
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from lantern.assets.errors import AssetError
from lantern.assets.reading import import_asset
from server.intake.reading import MEMORY_LIMITS
from tests.core import usd_files
from tests.core.gltf_files import INDICES, POSITIONS, binary, draco_document, glb, lit_document, packed_document
from tests.core.mesh_files import FILES, SQUARE
from tests.core.odd_asset import odd_glb

SLOW_SECONDS = 20
_WORDS = [
    b"\xff\xff\xff\xff",
    b"\0\0\0\0",
    b"nan",
    b"-1",
    b"1e30",
    b"\x7f\xff\xff\xff",
    b"[",
    b"{",
    b"}",
    b"null",
    b'"',
]


def seeds_of(kind: str, folder: Path) -> dict[str, bytes]:
    """Good files of a format by name."""
    if kind in ("stl", "ply"):
        return {name: content for name, content in FILES.items() if name.endswith(kind)}
    if kind == "obj":
        return {
            "square.obj": (SQUARE.format(library="square.mtl") + "g Lid\nusemtl Blue\nf 1 2 3\nf -1 -2 -3\n").encode()
        }
    if kind == "usd":
        found = {}
        for name in ("set.usda", "set.usdc"):
            stage = usd_files.still(folder / name)
            stage.GetRootLayer().Save()
            found[name] = (folder / name).read_bytes()
        return found
    packed = {"draco.glb": draco_document(), "meshopt.glb": packed_document(POSITIONS, INDICES)}
    return {
        "odd.glb": odd_glb(),
        "lit.glb": glb(lit_document(), binary()),
        **{name: glb(content, data) for name, (content, data) in packed.items()},
    }


def damaged(content: bytes, chance: random.Random) -> bytes:
    """The content with one to twelve faults."""
    data = bytearray(content)
    for _ in range(chance.randint(1, 12)):
        if not data:
            break
        at = chance.randrange(len(data))
        match chance.randrange(5):
            case 0:
                data[at] ^= 1 << chance.randrange(8)
            case 1:
                data[at] = chance.randrange(256)
            case 2:
                del data[at : at + chance.randint(1, 40)]
            case 3:
                data[at:at] = data[at : at + chance.randint(1, 40)]
            case _:
                word = chance.choice(_WORDS)
                data[at : at + len(word)] = word
    return bytes(data[: chance.randrange(len(data) + 1)] if chance.random() < 0.1 else data)


def _work(orders: Connection) -> None:
    """The child: reads what it is told to, within the memory that an import may take, and says what came of it."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_LIMITS["asset"],) * 2)
    while path := orders.recv():
        try:
            orders.send("read" if import_asset(Path(path)).triangles else "empty")
        except AssetError as error:
            orders.send("refused" if Path(path).name in str(error) else f"unnamed: {error}")
        except MemoryError:
            orders.send("refused")
        except Exception as error:
            orders.send(f"{type(error).__name__}: {error}"[:200])


class Child:
    """A process that reads files; a new one after each crash."""

    def __init__(self) -> None:
        self._start()

    def _start(self) -> None:
        self._orders, other = multiprocessing.Pipe()
        self._process = multiprocessing.get_context("spawn").Process(target=_work, args=(other,), daemon=True)
        self._process.start()
        other.close()
        self._is_warm = False

    def read(self, path: Path) -> str:
        """What came of a file."""
        self._orders.send(str(path))
        try:
            if self._orders.poll(SLOW_SECONDS if self._is_warm else 120):
                self._is_warm = True
                return str(self._orders.recv())
            outcome = f"slower than {SLOW_SECONDS} s"
        except EOFError:
            outcome = "crash"
        self._process.kill()
        self._process.join()
        self._start()
        return outcome


def main() -> None:
    parser = argparse.ArgumentParser(prog="benchmarks/run damage", description=__doc__)
    parser.add_argument("kind", choices=("gltf", "usd", "obj", "stl", "ply"))
    parser.add_argument("--minutes", type=float, default=10.0)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--keep", type=Path)
    options = parser.parse_args()
    chance, counts = random.Random(options.seed), {"read": 0, "refused": 0}
    findings: dict[str, int] = {}
    with TemporaryDirectory() as place:
        seeds, child = seeds_of(options.kind, Path(place)), Child()
        # Whole files come first: a seed that is not read would test nothing.
        for name, content in seeds.items():
            (Path(place) / name).write_bytes(content)
            assert child.read(Path(place) / name) == "read", f"the good file {name} is not read"
        end = time.monotonic() + 60 * options.minutes
        while time.monotonic() < end:
            name = chance.choice(sorted(seeds))
            content = damaged(seeds[name], chance)
            path = Path(place) / f"damaged-{name}"
            path.write_bytes(content)
            outcome = child.read(path)
            if outcome in counts:
                counts[outcome] += 1
                continue
            findings[outcome] = findings.get(outcome, 0) + 1
            print(f"{name}: {outcome}", file=sys.stderr)
            if options.keep:
                options.keep.mkdir(parents=True, exist_ok=True)
                (options.keep / f"{len(findings)}-{findings[outcome]}-{name}").write_bytes(content)
    print(json.dumps({"kind": options.kind, "seed": options.seed, **counts, "findings": findings}))


if __name__ == "__main__":
    np.seterr(all="ignore")
    main()
