"""The demo's film: the lantern is lit, opens, and is walked around; ten seconds in three shots that dissolve.

In: the demo as it opens. Out: the document of a project of its own. Called by the command that loads the demo.
"""

from collections.abc import Callable
from pathlib import Path

import numpy as np

from demo.project import ASSET_FILE, demo_files, opening_demo
from lantern.assets.reading import import_asset
from lantern.motion.bounds import asset_bounds
from lantern.scene.document import Scene, Shot
from lantern.scene.framing import fit_camera
from lantern.scene.model import FileRef
from lantern.scene.motion import Exploded, Keyed, Motion, Travel, Turntable, ValueKey

PROJECT_NAME = "Wick No. 4 opening film"
LIFTS = {"cap": 0.11, "strap-studs": 0.11, "carry-strap": 0.11, "chimney": 0.05}
"""How far parts rise [m]: what carries the lantern with its cap, the glass half as far."""
WICK = "/materials/led-wick/emission_luminance"


def film_demo() -> tuple[Scene, Callable[[FileRef], Path]]:
    """The document, and a function that finds its files."""
    scene, resolve = opening_demo()
    low, high = asset_bounds(import_asset(demo_files()[ASSET_FILE]))
    top = high.copy()
    top[1] += LIFTS["cap"]
    shape = scene.print.width / scene.print.height
    shots = dict(scene.shots)
    for key, name, share in (("above", "Open, from above", 1.0), ("whole", "Open, from the front", 1.0)):
        camera = fit_camera(scene.shots[key].camera, low, top, shape, keep_direction=True, share=share)
        size = {"width": scene.print.width, "height": scene.print.height}
        shots[f"open-{key}"] = Shot(name=name, camera=camera, **size)
    glows = scene.materials["led-wick"].emission_luminance
    lit = (ValueKey(time=0.2, value=0.0, to_next=(0.5, 0.0, 0.7, 1.0)), ValueKey(time=1.8, value=glows))
    open_ways = {key: (0.0, lift, 0.0) for key, lift in LIFTS.items()}
    moves = {
        "light": Keyed(name="The wick is lit", path=WICK, keys=lit),
        "back": Travel(name="Back from the glass", first="chimney", last="whole", seconds=3.2, pace="soft"),
        "above": _still("From above", "open-above", 3.2, 3.3),
        "front": _still("From the front", "open-whole", 6.5, 3.5),
        "opens": Exploded(name="It opens", ways=open_ways, start=3.6, seconds=2.4, pace="soft", stagger=0.3),
        "around": Turntable(name="Around", degrees=50.0, start=6.5, seconds=3.5, pace="out", pivot=_middle(low, high)),
    }
    motion = Motion(seconds=10.0, loop=False, moves=moves)
    printed = scene.print.model_copy(update={"width": 1280, "height": 800, "samples": 64})
    return scene.model_copy(update={"shots": shots, "motion": motion, "print": printed}), resolve


def _still(name: str, shot: str, start: float, seconds: float) -> Travel:
    return Travel(name=name, first=shot, last=shot, start=start, seconds=seconds, dissolve=0.8)


def _middle(low: np.ndarray, high: np.ndarray) -> tuple[float, float, float]:
    x, y, z = ((float(a) + float(b)) / 2 for a, b in zip(low, high, strict=True))
    return x, y, z
