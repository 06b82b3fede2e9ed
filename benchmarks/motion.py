"""The time line: what a moment costs the host, how soon a scrub is seen, and whether what rests flickers in a film.

Evaluates documents at the moments of their time lines, alone. Then starts the application as it comes, puts the demo on
a turntable and apart, and waits for the first picture of each moment. Then makes frames of the demo in which nothing
moves but one value that is not seen, and compares them.
"""

import argparse
import asyncio
import json
import statistics
import tempfile
import time
from pathlib import Path
from typing import Any

import numpy as np

from benchmarks.live import Account, LiveView
from demo.project import demo_scene, opening_demo
from lantern.engine.engine import Engine
from lantern.motion.moving import Mover
from lantern.picture.develop import display_rgb
from lantern.scene.document import Part, Scene, Shutter
from lantern.scene.motion import Exploded, Keyed, Motion, Turntable, ValueKey
from tests.browser.conftest import Application

REST_SECONDS = 0.6
KEYS, PARTS = 2000, 2000


def moment_ms(scene: Scene, count: int = 200) -> float:
    """Median time of one moment [ms], from one to the next."""
    mover, spent = Mover(), []
    for number in range(count):
        at = scene.model_copy(update={"shutter": Shutter(time=scene.motion.seconds * number / count)})
        start = time.perf_counter()
        mover.moved(at)
        spent.append(1000 * (time.perf_counter() - start))
    return round(statistics.median(spent), 3)


def moments() -> dict[str, float]:
    """[ms]"""
    scene = demo_scene()[0]
    keys = tuple(ValueKey(time=k / 25, value=float(k % 7), to_next=(0.4, 0.0, 0.6, 1.0)) for k in range(KEYS))
    keyed = Motion(seconds=KEYS / 25, moves={"e": Keyed(name="E", path="/look/exposure", keys=keys)})
    part = Part(name="P", material="paint", matrix=(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0))
    many = Scene(parts={f"p{k}": part for k in range(PARTS)})
    turning = Motion(moves={"t": Turntable(name="T", turns="asset")})
    return {
        "keys": moment_ms(scene.model_copy(update={"motion": keyed})),
        "parts": moment_ms(many.model_copy(update={"motion": turning}), 40),
    }


async def scrubbed(account: Account, project: int, move: Turntable | Exploded, count: int) -> dict[str, float]:
    """From a moment that is asked for to its first picture [ms]."""
    view = await LiveView.open(account, project)
    await view.frame(lambda info: info.samples >= 1)
    await view.preview("/motion/moves", {"m": move.model_dump(mode="json")})
    await view.settle(2.0)
    waits = []
    for number in range(count):
        patch: list[dict[str, Any]] = [
            {"op": "replace", "path": "/motion/moves", "value": {"m": move.model_dump(mode="json")}},
            {"op": "replace", "path": "/shutter/time", "value": 0.16 * (number + 1)},
        ]
        start = time.perf_counter()
        serial = await view.preview_patch(patch)
        await _seen(view, serial)
        waits.append(1000 * (time.perf_counter() - start))
        await view.settle(REST_SECONDS)
    await view.close()
    return {"median_ms": round(statistics.median(waits), 1), "worst_ms": round(max(waits), 1)}


async def _seen(view: LiveView, serial: int) -> None:
    """Until a picture shows what was asked for."""
    await view.frame(lambda info: info.serial >= serial)


def flicker(frames: int = 6, samples: int = 16) -> float:
    """Largest standard deviation over time of any pixel [of 255], in frames of the demo that all show the same."""
    scene, resolve = opening_demo()
    keys = (ValueKey(time=0.0, value=0.0), ValueKey(time=4.0, value=1.0))
    motion = Motion(moves={"m": Keyed(name="M", path="/camera/iso", keys=keys)})
    printed = scene.print.model_copy(update={"width": 240, "height": 150})
    engine, pictures = Engine(final=True), []
    engine.open(scene, resolve)
    for number in range(frames):
        at = scene.model_copy(update={"motion": motion, "print": printed, "shutter": Shutter(time=number / 25)})
        engine.apply(at, resolve)
        film = engine.film_for(240, 150)
        engine.trace(film, samples)
        picture = engine.develop(film, denoise="high")
        pictures.append(display_rgb(picture, scene.look, engine.surround(film, clean=True)))
    engine.close()
    return float(np.std(np.array(pictures, np.float64), axis=0).max())


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--moments", type=int, default=15)
    wanted = parser.parse_args()
    found: dict[str, Any] = {"moment": moments(), "flicker": flicker()}
    with tempfile.TemporaryDirectory() as folder:
        application = Application(Path(folder) / "data", as_it_comes=True)
        try:
            account = Account(application.url)
            scene = account.get("/api/v1/projects/1")["scene"]
            ways = {key: (0.0, 0.02 * place, 0.0) for place, key in enumerate(scene["parts"])}
            for name, move in (
                ("turntable", Turntable(name="T", pivot=tuple(scene["camera"]["target"]))),
                ("exploded", Exploded(name="X", ways=ways)),
            ):
                found[name] = asyncio.run(scrubbed(account, 1, move, wanted.moments))
        finally:
            application.stop()
    print(json.dumps(found))


if __name__ == "__main__":
    main()
