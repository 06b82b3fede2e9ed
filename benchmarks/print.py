"""Time to a finished 1920x1080 frame of the demo scene: denoised, within 40 dB of a reference of 4,096 samples.

Sampled evenly, doubling until it is good enough; and by a plan of the samples, in the same light.

The reference is taken on windows of the same frame, because a whole one would take hours: on glass, metal, leather
and ground. Both go through the denoiser (the print only), exposure and the display transform before they are compared.
"""

import argparse
import json
import time
from typing import Any

import numpy as np

from demo.project import demo_scene
from lantern.engine.engine import Engine
from lantern.engine.planning import make_plan
from lantern.film.film import Film
from lantern.picture.develop import Developed, display_rgb
from lantern.scene.look import Look
from lantern.scene.orders import Combination, document_of

WIDTH, HEIGHT, WINDOW = 1920, 1080, 64
PARTS = ("chimney", "base", "carry-strap", "cap")
Windows = dict[str, tuple[slice, slice]]


def _windows(engine: Engine) -> Windows:
    """One window in the middle of what is seen of each part, and one on the ground beside the base."""
    film = Film(WIDTH, HEIGHT)
    engine.trace(film, 1)
    shown, half = film.parts(), WINDOW // 2

    def around(y: int, x: int) -> tuple[slice, slice]:
        return slice(y - half, y + half), slice(x - half, x + half)

    found = {}
    for key in PARTS:
        places = np.argwhere(shown == engine.compiled.part_keys.index(key))
        middle = places[np.argmin(np.abs(places - np.median(places, axis=0)).sum(axis=1))]
        found[key] = around(*middle)
    base = np.argwhere(shown == engine.compiled.part_keys.index("base"))
    found["ground"] = around(base[:, 0].max() - half, base[:, 1].min() - WINDOW)
    return found


def _side_by_side(picture: np.ndarray, windows: Windows) -> np.ndarray:
    return np.concatenate([picture[window] for window in windows.values()], axis=1)


def _reference(engine: Engine, windows: Windows, samples: int) -> np.ndarray:
    """Scene-linear windows side by side, all other pixels of the frame left out."""
    film = Film(WIDTH, HEIGHT)
    outside = np.ones((HEIGHT, WIDTH), bool)
    for window in windows.values():
        outside[window] = False
    film.leave_out(outside)
    engine.trace(film, samples, seed=1)
    return _side_by_side(film.radiance(), windows)


def _shown(picture: np.ndarray, look: Look) -> np.ndarray:
    return display_rgb(Developed(picture, np.ones(picture.shape[:2], np.float32)), look).astype(np.float64)


def _psnr(a: np.ndarray, b: np.ndarray) -> float:
    return float(10 * np.log10(255**2 / max(np.mean((a - b) ** 2), 1e-9)))


def _scored(cut: np.ndarray, reference: np.ndarray, windows: Windows) -> dict[str, Any]:
    """dB of all windows together, and of each."""
    each = {
        name: round(_psnr(cut[:, i * WINDOW : (i + 1) * WINDOW], reference[:, i * WINDOW : (i + 1) * WINDOW]), 1)
        for i, name in enumerate(windows)
    }
    return {"psnr_db": round(_psnr(cut, reference), 1), "windows_db": each}


def _even(engine: Engine, windows: Windows, reference: np.ndarray, options: argparse.Namespace) -> list[dict[str, Any]]:
    """One row for each count of samples, a quarter more from one to the next, until the goal is reached."""
    film, samples, tracing, rows = Film(WIDTH, HEIGHT), 4, 0.0, list[dict[str, Any]]()
    while samples <= options.most:
        start = time.perf_counter()
        engine.trace(film, samples)
        tracing += time.perf_counter() - start
        start = time.perf_counter()
        shown = _finished(engine, film)
        finishing = time.perf_counter() - start
        seconds = {"trace": round(tracing, 1), "finish": round(finishing, 1), "all": round(tracing + finishing, 1)}
        rows.append({"samples": samples, **_scored(_side_by_side(shown, windows), reference, windows), "s": seconds})
        print(rows[-1], flush=True)
        if rows[-1]["psnr_db"] >= options.goal:
            break
        samples += max(samples // 4, 4)
    return rows


def _planned(engine: Engine, windows: Windows, reference: np.ndarray, steps: float, most: int) -> dict[str, Any]:
    film = Film(WIDTH, HEIGHT)
    start = time.perf_counter()
    make_plan(engine, film, lambda of: _finished(engine, of), steps, most, denoised=True)
    planning = time.perf_counter() - start
    start = time.perf_counter()
    engine.trace(film, most)
    tracing = time.perf_counter() - start
    start = time.perf_counter()
    shown = _finished(engine, film)
    finishing = time.perf_counter() - start
    assert film.plan is not None
    seconds = {"plan": round(planning, 1), "trace": round(tracing, 1), "finish": round(finishing, 1),
               "all": round(planning + tracing + finishing, 1)}  # fmt: skip
    counts = {"mean": round(float(film.rows["samples"].mean()), 1), "most": int(film.plan.max())}
    row = {
        "steps": steps,
        "samples": counts,
        **_scored(_side_by_side(shown, windows), reference, windows),
        "s": seconds,
    }
    print(row, flush=True)
    return row


def _finished(engine: Engine, film: Film) -> np.ndarray:
    return display_rgb(engine.develop(film, denoise="high"), engine.shown.look)


def main() -> None:
    """Sample until the frame is good enough, evenly and by a plan; print where the seconds went."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--reference", type=int, default=4096)
    parser.add_argument("--goal", type=float, default=40.0, help="dB")
    parser.add_argument("--most", type=int, default=256, help="samples to stop at")
    parser.add_argument("--steps", type=float, default=2.0, help="noise of the finished picture that the plan is for")
    parser.add_argument("--conditions", default="", help="name of the light; that of the demo unless given")
    options = parser.parse_args()
    scene, resolve = demo_scene()
    lights = {one.name: key for key, one in scene.conditions.items()}
    if options.conditions:
        scene = document_of(scene, Combination(conditions=lights[options.conditions]))
    engine = Engine()
    engine.open(scene, resolve)
    windows = _windows(engine)
    reference = _shown(_reference(engine, windows, options.reference), scene.look)
    planned = _planned(engine, windows, reference, options.steps, options.most)
    even = _even(engine, windows, reference, options)
    found = {"conditions": options.conditions or "as it comes", "planned": planned, "even": even[-1]}
    print(json.dumps({"benchmark": "print", "goal_db": options.goal, **found}))


if __name__ == "__main__":
    main()
