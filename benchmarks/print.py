"""Time to a finished 1920x1080 frame of the demo scene: denoised, within 40 dB of a reference of 4,096 samples.

The reference is taken on windows of the same frame, because a whole one would take hours: on glass, metal, leather
and ground. Both go through the denoiser (the print only), exposure and the display transform before they are compared.
"""

import argparse
import json
import time

import numpy as np

from demo.project import demo_scene
from lantern.engine.engine import Engine
from lantern.film.film import Film
from lantern.picture.develop import Developed, display_rgb
from lantern.scene.look import Look

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


def main() -> None:
    """Double the samples until the frame is good enough; print where the seconds went."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--reference", type=int, default=4096)
    parser.add_argument("--goal", type=float, default=40.0, help="dB")
    parser.add_argument("--most", type=int, default=128, help="samples to stop at")
    options = parser.parse_args()
    scene, resolve = demo_scene()
    start = time.perf_counter()
    engine = Engine()
    engine.open(scene, resolve)
    opened = time.perf_counter() - start
    look = scene.look
    windows = _windows(engine)
    reference = _shown(_reference(engine, windows, options.reference), look)
    film, samples, tracing, rows = Film(WIDTH, HEIGHT), 1, 0.0, []
    while samples < options.most:
        samples *= 2
        start = time.perf_counter()
        engine.trace(film, samples)
        tracing += time.perf_counter() - start
        start = time.perf_counter()
        picture = engine.develop(film, denoise="high")
        denoising = time.perf_counter() - start
        start = time.perf_counter()
        shown = _shown(picture.radiance, look)
        displaying = time.perf_counter() - start
        cut = _side_by_side(shown, windows)
        each = {
            name: _psnr(cut[:, i * WINDOW : (i + 1) * WINDOW], reference[:, i * WINDOW : (i + 1) * WINDOW])
            for i, name in enumerate(windows)
        }
        whole = _psnr(cut, reference)
        rows.append(
            {
                "samples": samples,
                "psnr_db": round(whole, 1),
                "windows_db": {name: round(value, 1) for name, value in each.items()},
                "seconds": {
                    "open": round(opened, 1), "trace": round(tracing, 1), "denoise": round(denoising, 1),
                    "display": round(displaying, 2), "all": round(opened + tracing + denoising + displaying, 1),
                },
            }
        )  # fmt: skip
        print(rows[-1], flush=True)
        if whole >= options.goal:
            break
    print(json.dumps({"benchmark": "print", "goal_db": options.goal, **rows[-1]}))


if __name__ == "__main__":
    main()
