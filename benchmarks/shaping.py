"""What changes of shape cost the render host, beside opening the scene anew, which each of them did before.

One part of the lantern is made finer, displaced and moved; bodies come and go; a part is moved among few and many.
"""

import argparse
import json
import statistics
import time
from collections.abc import Callable, Iterator
from itertools import cycle

from benchmarks.scale import bumpy
from demo.project import demo_scene
from lantern.assets.imported import ImportedAsset
from lantern.assets.reading import import_asset
from lantern.engine.engine import Engine
from lantern.scene.arranging import Build, arranged
from lantern.scene.document import Material, Part, Scene
from lantern.scene.editing import apply_patch
from lantern.scene.reading import read_scene
from lantern.scene.texture_use import TextureUse
from tests.core.shapes import no_files

STRAP, LEATHER = "carry-strap", 5
FEW, MANY = 5, 5000


def _milliseconds(run: Callable[..., object], *arguments: object) -> float:
    start = time.perf_counter()
    run(*arguments)
    return (time.perf_counter() - start) * 1000


def _edits(scene: Scene, **fields: Iterator[object]) -> Iterator[Scene]:
    """Documents whose strap has the next value of each field."""
    while True:
        now = {name: next(values) for name, values in fields.items()}
        parts = scene.parts | {STRAP: scene.parts[STRAP].model_copy(update=now)}
        yield scene.model_copy(update={"parts": parts})


def _shaped(rounds: int) -> dict[str, dict[str, float]]:
    scene, resolve = demo_scene()
    assert scene.asset is not None
    asset = import_asset(resolve(scene.asset.file))
    image = TextureUse(texture=LEATHER)
    fine = {"subdivision": "catmull_clark", "levels": 2, "displacement_texture": image, "displacement": 0.001}
    finer = scene.model_copy(update={"parts": scene.parts | {STRAP: scene.parts[STRAP].model_copy(update=fine)}})
    made = arranged(scene, Build(kind="build", piece="plinth"), {})
    assert made is not None
    built = read_scene(apply_patch(scene.plain(), made.patch)[0])
    kinds = {
        "displacement": _edits(finer, displacement=cycle((0.0012, 0.0014, 0.0016))),
        "level": _edits(finer, levels=cycle((1, 2))),
        "piece": cycle((built, scene)),
        "offset": _edits(finer, offset=cycle(((0.0, 0.01, 0.0), (0.0, 0.02, 0.0)))),
    }
    found = {}
    for kind, documents in kinds.items():
        engine, anew = Engine(2), Engine(2)
        engine.open(finer, resolve, asset)
        ratios, times = [], []
        for document, _ in zip(documents, range(rounds), strict=False):
            changed = _milliseconds(engine.apply, document, resolve)
            opened = _milliseconds(anew.open, document, resolve, asset)
            times.append(changed)
            ratios.append(changed / opened)
        found[kind] = {"ms": round(statistics.median(times), 1), "ratio": round(statistics.median(ratios), 3)}
        engine.close()
        anew.close()
    return found


def _moved(rounds: int) -> dict[str, float]:
    """Milliseconds to move one part among few and among many, in turns, and their ratio."""
    mesh, engines, edits = bumpy(2000), [], []
    for count in (FEW, MANY):
        parts = {
            f"p{i}": Part(name=str(i), mesh=0, material="m", matrix=(1, 0, 0, i, 0, 1, 0, 0, 0, 0, 1, 0))
            for i in range(count)
        }
        scene = Scene(parts=parts, materials={"m": Material(name="m")})
        engines.append(Engine(2))
        engines[-1].open(scene, no_files, ImportedAsset("bumps", "none", [mesh]))
        moved = [
            scene.model_copy(update={"parts": parts | {"p1": parts["p1"].model_copy(update={"offset": (0, y, 0)})}})
            for y in (0.1, 0.2)
        ]
        edits.append(cycle(moved))
    times: list[list[float]] = [[], []]
    for _ in range(rounds):
        for each, engine, documents in zip(times, engines, edits, strict=True):
            each.append(_milliseconds(engine.apply, next(documents), no_files))
    for engine in engines:
        engine.close()
    few, many = (statistics.median(each) for each in times)
    ratio = statistics.median(b / a for a, b in zip(*times, strict=True))
    return {"few_ms": round(few, 2), "many_ms": round(many, 2), "ratio": round(ratio, 2)}


def main() -> None:
    """Print milliseconds and ratios."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rounds", type=int, default=20)
    options = parser.parse_args()
    print(json.dumps({"benchmark": "shaping", "shaped": _shaped(options.rounds), "moved": _moved(options.rounds)}))


if __name__ == "__main__":
    main()
