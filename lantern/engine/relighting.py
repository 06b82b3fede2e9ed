"""Small pictures of a shot under other light, and what a light meter reads in the light that is there.

In: an open engine, documents that differ by their light, a point of the picture. Out: pictures, readings. Called by the
render host. The film is not touched, and the scene is as before.
"""

import math
from dataclasses import dataclass

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

WIDTH = 176
SAMPLES = 4
REFLECTED_CONSTANT = 12.5
"""K of ISO 2720, cd·s/(m²·lx): of a reflected-light meter."""
GREY = 0.18


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
        return None if picture is None else display_rgb(picture, scene.look)
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
