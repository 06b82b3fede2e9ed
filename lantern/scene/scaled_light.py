"""All that lights a document, as much larger as what it lights: lights, air, projection on the ground, and conditions.

In: a document or conditions, how points move, a factor on lengths. Out: the sections that change. Called by what puts
a unit right, and by what fits a set-up to another asset.
"""

from collections.abc import Callable, Sequence
from typing import Any

from lantern.scene.document import Conditions, Scene
from lantern.scene.lights import Light, scaled_fields
from lantern.scene.surroundings import Environment, Haze

Place = Callable[[Sequence[float]], tuple[float, ...]]


def scaled_light(scene: Scene, place: Place, scale: float, ground: float) -> dict[str, Any]:
    """The sections of light of a document `scale` times as large, whose points move by `place`.

    Those of its conditions as well; `ground` is the level of the ground then [m].
    """
    conditions = {
        key: one.model_copy(update=_sections(one, place, scale, ground)) for key, one in scene.conditions.items()
    }
    return _sections(scene, place, scale, ground) | {"conditions": conditions}


def _sections(lit: Scene | Conditions, place: Place, scale: float, ground: float) -> dict[str, Any]:
    return {
        "lights": {key: _light(light, place, scale) for key, light in lit.lights.items()},
        "haze": _haze(lit.haze, place, scale),
        "environment": scaled_environment(lit.environment, scale),
        "ground": lit.ground.model_copy(update={"height": ground}),
    }


def _light(light: Light, place: Place, scale: float) -> Light:
    placed = {"position": place(light.position), "target": place(light.target)}
    return light.model_copy(update=placed | scaled_fields(light, scale))


def _haze(haze: Haze, place: Place, scale: float) -> Haze:
    box = haze.box and haze.box.model_copy(update={"low": place(haze.box.low), "high": place(haze.box.high)})
    falls_off = None if haze.falls_off is None else min(max(haze.falls_off * scale, 0.001), 1e5)
    sight = min(max(haze.sight * scale, 0.001), 1e7)
    return haze.model_copy(update={"sight": sight, "falls_off": falls_off, "box": box})


def scaled_environment(environment: Environment, scale: float) -> Environment:
    """The environment about something `scale` times as large: what it is projected from is as much higher."""
    if environment.grounded is None:
        return environment
    return environment.model_copy(update={"grounded": min(max(environment.grounded * scale, 0.001), 1000.0)})
