"""Small pictures of a shot under other light, and what a light meter reads in the light that is there.

In: an open engine, documents that differ by their light, a point of the picture. Out: pictures, readings. Called by the
render host. The film is not touched, and the scene is as before.
"""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from lantern.color import LUMINANCE
from lantern.engine.engine import Engine
from lantern.engine.measuring import luminance_along, white_along
from lantern.engine.own_images import Resolver
from lantern.engine.press import Press
from lantern.film.film import Film
from lantern.picture.develop import display_rgb
from lantern.picture.white import white_for, white_matrix
from lantern.scene.document import Camera, Scene
from lantern.scene.exposing import GREY, REFLECTED_CONSTANT

WIDTH = 176
SAMPLES = 4


@dataclass(frozen=True)
class Reading:
    """What meters say of a point of the picture."""

    luminance: float  # cd/m²
    ev: float  # at ISO 100; of the dark, -40
    illuminance: float | None  # lx that arrive on the surface, None where there is none


def lit_picture(engine: Engine, scene: Scene, camera: Camera, shape: float, resolve: Resolver) -> np.ndarray | None:
    """(WIDTH / shape, WIDTH, 3) uint8 of what the camera sees in a document that differs by its light.

    None when something else was wanted meanwhile. Raises ValueError when the documents differ by more.
    """
    own = engine.scene
    film = Film(WIDTH, max(round(WIDTH / shape), 1))
    try:
        if engine.apply(scene, resolve).recompiled:
            raise ValueError("the documents differ by more than their light")
        engine.ready()
        if not engine.trace(film, SAMPLES):
            return None
        picture = engine.develop_unless(lambda: False, film, denoise="fast", urgent=True)
        return (
            None
            if picture is None
            else display_rgb(picture, engine.shown.look, engine.surround(film, clean=True, camera=camera))
        )
    finally:
        engine.apply(own, resolve)


def read_meter(engine: Engine, press: Press) -> Reading:
    """What a spot meter at the camera reads, and a lux meter held on the surface there."""
    at = press.camera, press.shape, press.x, press.y
    luminance = float(luminance_along(engine, *at) @ LUMINANCE)
    white = white_along(engine, *at)
    # A perfect matt white sends E / π.
    illuminance = None if white is None else float(white @ LUMINANCE) * math.pi
    ev = math.log2(luminance * 100 / REFLECTED_CONSTANT) if luminance > 1e-9 else -40.0
    return Reading(luminance, ev, illuminance)


def by_grey_card(engine: Engine, press: Press) -> tuple[float, float, float] | None:
    """(exposure [EV], temperature [K], tint) by which what is at a point is neutral grey of 18 %; None in the dark."""
    seen = luminance_along(engine, press.camera, press.shape, press.x, press.y)
    if float(seen @ LUMINANCE) <= 1e-9:
        return None
    kelvin, tint = white_for(seen)
    matrix = white_matrix(kelvin, tint)
    shown = seen if matrix is None else matrix @ seen
    exposure = min(max(math.log2(GREY / float(shown @ LUMINANCE)), -30.0), 30.0)
    return round(exposure, 3), kelvin, tint


HELD_SHARE = 0.005
"""Of the pixels that may be brighter than white when highlights are held: reflections of lamps are meant to be."""


def metered_exposure(light: np.ndarray, how: Literal["grey", "highlights"]) -> float | None:
    """Exposure [EV] by the light (h, w, 3) of a region: its middle as grey of 18 %, or its lights held within white.

    None in the dark.
    """
    if how == "grey":
        seen = light @ LUMINANCE.astype(np.float32)
        lit = seen[seen > 1e-9]
        # By the mean of logarithms, as the eye judges: a lamp in the region does not darken all of it.
        wanted, found = GREY, float(np.exp(np.log(lit).mean())) if len(lit) else 0.0
    else:
        wanted, found = 1.0, float(np.percentile(light.max(axis=-1), 100 * (1 - HELD_SHARE)))
    if found <= 1e-9:
        return None
    return round(min(max(math.log2(wanted / found), -30.0), 30.0), 3)
