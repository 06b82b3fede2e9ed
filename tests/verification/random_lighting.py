"""Light of a random scene as the light desk shapes it: turned and grounded maps, cards, grids, doors, gobos, air."""

import tempfile
from functools import cache
from pathlib import Path

import numpy as np

from lantern.picture.stills import write_png
from lantern.scene.document import Scene
from lantern.scene.gels import GELS
from lantern.scene.lights import BarnDoors, FlatLight, Light, RectangleLight, SpotLight
from lantern.scene.model import FileRef
from lantern.scene.surroundings import Card, Environment, Graded, Haze, Sky

LIGHTING = 60_000
"""Added to a seed for choices of its own, so that all others of that seed stay as they were."""
_SKIES = ("overcast", "brighter_overcast", "even", "partly_cloudy", "white_blue", "cie_clear", "hazy")


def _card(choose) -> Card:
    return Card(
        name="c",
        shape=choose.one_of("rectangle", "round", "ring", "strip", "window"),
        azimuth=choose.number(-180, 180),
        elevation=choose.number(-60, 90),
        width=choose.number(25, 90),
        height=choose.number(25, 90),
        roll=choose.number(-90, 90),
        edge=choose.number(0, 0.5),
        fall_off=choose.number(0, 1),
        luminance=choose.number(0.5, 8),
        color=choose.color(0.2),
        blend=choose.one_of("add", "replace", "darken"),
    )


def _environment(choose, environment: Environment) -> Environment:
    changed: dict[str, object] = {}
    if choose.chance(0.3):
        changed |= {"tilt": choose.number(-60, 60), "mirrored": choose.chance(0.5)}
    if choose.chance(0.2):
        changed |= {"tint": choose.color(0.3), "saturation": choose.number(0.2, 1.6), "temperature": 4000.0}
    if choose.chance(0.15):
        changed |= {"blur": choose.number(2, 30)}
        changed |= {"reflection_blur": choose.one_of(None, 0.0, choose.number(1, 20))}
    if choose.chance(0.3):
        changed |= {"cards": {f"c{i}": _card(choose) for i in range(choose.one_of(1, 2, 3))}}
    if choose.chance(0.1):
        changed |= {"graded": Graded(zenith=choose.color(), horizon=choose.color(0.3), ground=choose.color())}
    return environment.model_copy(update=changed)


def _light(choose, light: Light) -> Light:
    changed: dict[str, object] = {"gel": choose.one_of(*GELS)} if choose.chance(0.2) else {}
    if isinstance(light, FlatLight) and choose.chance(0.3):
        changed |= {"grid": choose.number(25, 80)}
    if isinstance(light, RectangleLight) and choose.chance(0.3):
        changed |= {"doors": BarnDoors(**{side: choose.number(-20, 80) for side in BarnDoors.model_fields})}
    if isinstance(light, SpotLight) and choose.chance(0.6):
        changed |= {"gobo": GOBO}
    return light.model_copy(update=changed)


GOBO = FileRef(sha256="60b0" * 16, name="gobo.png")


@cache
def _gobo_file() -> Path:
    """Stripes and a bright corner."""
    folder = Path(tempfile.mkdtemp(prefix="gobo-"))
    picture = np.zeros((16, 16, 3), np.uint8)
    picture[:, ::4], picture[:4, :4] = (250, 180, 60), 255
    write_png(folder / GOBO.name, picture)
    return folder / GOBO.name


def files(reference: FileRef) -> Path:
    """Where the file lies that lights of random scenes name."""
    assert reference == GOBO
    return _gobo_file()


def lit(choose, scene: Scene) -> Scene:
    """The scene with some of its light shaped."""
    haze: Haze = scene.haze
    if choose.chance(0.5):
        haze = haze.model_copy(update={"falls_off": choose.number(0.2, 1.0)})
    sky: Sky = scene.sky.model_copy(update={"kind": choose.one_of("clear", *_SKIES)})
    scene = scene.model_copy(
        update={
            "environment": _environment(choose, scene.environment),
            "lights": {key: _light(choose, light) for key, light in scene.lights.items()},
            "haze": haze,
            "sky": sky,
        }
    )
    if not (scene.ground.enabled and choose.chance(0.4)):
        return scene
    # A map is projected on the ground where the camera sees both.
    grounded = scene.environment.model_copy(update={"grounded": choose.number(0.2, 2.0)})
    backdrop = scene.backdrop.model_copy(update={"kind": "environment"})
    return scene.model_copy(update={"environment": grounded, "backdrop": backdrop})
