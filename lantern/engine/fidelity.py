"""How near a part comes to its brand colour: as it is shown, and in even light; and what would bring it there.

In: an open engine, a camera, a brand colour. Out: CIEDE2000 differences, a base colour. Called by the render host. The
film is not touched, and the scene is as before.
"""

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from lantern.compile.view import View, Way
from lantern.engine.engine import Engine
from lantern.engine.own_images import Resolver
from lantern.film.film import Film
from lantern.picture.delta_e import delta_e_2000
from lantern.picture.develop import display_rgb
from lantern.picture.display import light_of_display
from lantern.scene.brand import BrandColor
from lantern.scene.colorimetry import lab_of_linear, linear_of_lab
from lantern.scene.document import Camera, Scene

WIDTH = 240
"""Pixels across a small picture of the part."""
EVEN_SAMPLES, LIT_SAMPLES = 16, 8
FEWEST = 12
"""Pixels of a part from which something can be said."""
WORST_SHARE = 0.95
STEPS, NEAR_ENOUGH = 8, 0.2
"""Of the search for a base colour: pictures at most, and the difference at which it ends."""
_DARKEST = 1e-3
_FLATTEST = 0.002
"""Of what is seen by the base colour: a dark image over it leaves little, and noise is not to turn it round."""


@dataclass(frozen=True)
class Deviation:
    """CIEDE2000 of the pixels of a part from its brand colour."""

    typical: float
    """Half of them are nearer."""
    worst: float
    """WORST_SHARE of them are nearer."""


@dataclass(frozen=True)
class Nearest:
    """The base colour that comes nearest in even light, and by how much it misses."""

    color: tuple[float, float, float]
    left: float


def deviation(shown: np.ndarray, within: np.ndarray, brand: BrandColor, encoding: str = "srgb") -> Deviation | None:
    """Of a picture (h, w, 3) uint8 for a display of some encoding, at the pixels `within` (h, w); None of too few.

    The screen's white is taken as the perfect diffuser's, as somebody does who looks at it.
    """
    if np.count_nonzero(within) < FEWEST:
        return None
    lab = lab_of_linear(light_of_display(shown[within], encoding))
    found = delta_e_2000(lab, np.array(brand.lab))
    return Deviation(float(np.median(found)), float(np.quantile(found, WORST_SHARE)))


def difference_at(shown: Collection[int], brand: BrandColor, encoding: str = "srgb") -> float:
    """CIEDE2000 of one displayed value of 8 bits from a brand colour; encoding and white as in `deviation`."""
    lab = lab_of_linear(light_of_display(np.array(list(shown), np.uint8), encoding))
    return float(delta_e_2000(lab, np.array(brand.lab)))


def pixels_of(engine: Engine, film: Film, parts: Collection[str]) -> np.ndarray:
    """(h, w) bool, where a film shows one of some parts."""
    numbers = [number for number, key in enumerate(engine.compiled.part_keys) if key in parts]
    return np.isin(film.parts(), numbers)


def even_color(engine: Engine, camera: Camera, shape: float, parts: Collection[str]) -> np.ndarray | None:
    """(3,) linear Rec. 709 that parts send of even white light, in the mean of what is seen of them.

    None where too little is seen, or something else was wanted meanwhile.
    """
    film = Film(WIDTH, max(round(WIDTH / shape), 1))
    if not engine.trace(film, EVEN_SAMPLES, view=View(camera, Way.REFLECTANCE)):
        return None
    within = pixels_of(engine, film, parts)
    if np.count_nonzero(within) < FEWEST:
        return None
    return np.asarray(film.radiance()[within].mean(axis=0, dtype=np.float64))


def even_deviation(color: np.ndarray, brand: BrandColor) -> float:
    """CIEDE2000 of a colour in even light from a brand colour, both under D50."""
    return float(delta_e_2000(lab_of_linear(color), np.array(brand.lab)))


def deviation_in(
    engine: Engine, scene: Scene, camera: Camera, shape: float, brand: BrandColor, resolve: Resolver
) -> tuple[Deviation | None, bool]:
    """(of a small picture of another document of the same asset, whether it was made): None where too little is seen.

    It is not made when something else was wanted meanwhile.
    """
    own = engine.scene
    film = Film(WIDTH, max(round(WIDTH / shape), 1))
    try:
        engine.apply(scene, resolve)
        engine.ready()
        if not engine.trace(film, LIT_SAMPLES, view=View(camera)):
            return None, False
        picture = engine.develop_unless(lambda: False, film, denoise="fast", urgent=True)
        if picture is None:
            return None, False
        around = engine.surround(film, clean=True, camera=camera)
        shown = display_rgb(picture, engine.shown.look, around)
        look = engine.shown.look
        return deviation(shown, pixels_of(engine, film, brand.parts), brand, look.encoding), True
    finally:
        engine.apply(own, resolve)


def nearest_base_color(
    engine: Engine, camera: Camera, shape: float, brand: BrandColor, material: str, resolve: Resolver
) -> Nearest | None:
    """The base colour of a material by which parts come nearest to their brand colour in even light.

    Found with the renderer, so that coat, fuzz, metal and what lies over it are in it, by the secant through the last
    two pictures, each channel alone. None where too little is seen, or something else was wanted meanwhile.
    """
    own = engine.scene
    wanted = np.clip(linear_of_lab(np.array(brand.lab)), 0.0, None)
    worn = own.materials[material]
    color = np.clip(np.array(worn.base_color), _DARKEST, 1.0)
    best: Nearest | None = None
    last: tuple[np.ndarray, np.ndarray] | None = None
    try:
        for _ in range(STEPS):
            changed = worn.model_copy(update={"base_color": tuple(color.tolist())})
            engine.apply(own.model_copy(update={"materials": {**own.materials, material: changed}}), resolve)
            engine.ready()
            seen = even_color(engine, camera, shape, brand.parts)
            if seen is None:
                return None
            left = even_deviation(seen, brand)
            if best is None or left < best.left:
                red, green, blue = (round(float(v), 5) for v in color)
                best = Nearest((red, green, blue), left)
            is_stuck = last is not None and np.abs(color - last[0]).max() < _DARKEST / 10
            if left < NEAR_ENOUGH or is_stuck:  # nothing is nearer between black and white
                break
            slope = _slope(color, seen, last)
            last = color, seen
            color = np.clip(color + (wanted - seen) / slope, _DARKEST, 1.0)
    finally:
        engine.apply(own, resolve)
    return best


def _slope(color: np.ndarray, seen: np.ndarray, last: tuple[np.ndarray, np.ndarray] | None) -> np.ndarray:
    """(3,) of what is seen by the base colour; of a first picture, or where nothing was changed, by what is there."""
    plain = np.maximum(seen, _DARKEST) / np.maximum(color, _DARKEST)
    if last is None:
        return plain
    step = color - last[0]
    secant = (seen - last[1]) / np.where(step == 0, 1.0, step)
    return np.where(np.abs(step) > _DARKEST, np.maximum(secant, _FLATTEST), plain)
