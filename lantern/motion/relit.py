"""The light of a document on its way from one kept state to another.

In: a document, two conditions, a share. Out: the document as it is lit then. Called by `moving`.

Light adds up, so the way is a dissolve: of the picture as both expose it, one share is of the first and the rest of the
last. What both have alike but for numbers - the same lamp, the same map, the same sky - is one thing that moves and
changes; what only one has comes or goes. Air is blended by its density.
"""

from collections.abc import Mapping
from typing import Any

from pydantic import BaseModel

from lantern.light.daylight import SUN_RADIUS, sun_of, sunlight
from lantern.scene.conditions import LOOK, under
from lantern.scene.document import Conditions, Scene
from lantern.scene.fields import FAR
from lantern.scene.keys import free_key
from lantern.scene.lights import DirectionalLight, Light
from lantern.scene.surroundings import Environment, Haze, Sky

NO_MATTER = ("name", "locked", "group")
"""Fields that two things may have otherwise and be alike."""
MOST_AMOUNT, MOST_INTENSITY, MOST_SIGHT = 1e9, 1e6, 1e7
SUN_AWAY = 10.0
"""Metres at which a sun that comes or goes is drawn: it shines from far away."""


class Dissolved(Environment):
    """What is all around while one environment gives way to another: of no document that is kept."""

    gone: Environment
    gone_sky: Sky
    gone_share: float
    come: Environment
    come_sky: Sky
    come_share: float

    @property
    def both(self) -> tuple[tuple[Environment, Sky, float], ...]:
        """(environment, sky, factor) of what goes and of what comes."""
        return (self.gone, self.gone_sky, self.gone_share), (self.come, self.come_sky, self.come_share)


def environments_of(scene: Scene) -> tuple[Environment, ...]:
    """Those of a document: one, or two while it dissolves."""
    environment = scene.environment
    return (environment.gone, environment.come) if isinstance(environment, Dissolved) else (environment,)


def relit(scene: Scene, first: Conditions, last: Conditions, share: float) -> Scene:
    """A document a share [0, 1] of the way from one state of light to another."""
    if share <= 0.0 or share >= 1.0 or first == last:
        return under(scene, first if share <= 0.0 else last)
    toned = {name: _blended(getattr(first, name), getattr(last, name), share) for name in LOOK}
    # Both as bright as each is exposed: the picture dissolves, whatever the light of either measures.
    weights = (
        (1.0 - share) * 2.0 ** (first.exposure - toned["exposure"]),
        share * 2.0 ** (last.exposure - toned["exposure"]),
    )
    (lamps, first), (other_lamps, last) = _shining(first), _shining(last)
    lights = _lights(lamps, other_lamps, weights, share)
    around, sky, suns = _around(first, last, weights, share)
    for sun in suns:
        lights[free_key(lights, "sun")[0]] = sun
    return scene.model_copy(
        update={
            "environment": around,
            "sky": sky,
            "lights": lights,
            "light_order": (),
            "haze": _haze(first.haze, last.haze, share),
            "backdrop": _blended(first.backdrop, last.backdrop, share),
            "ground": _blended(first.ground, last.ground, share),
            "look": scene.look.model_copy(update=toned),
        }
    )


def alike(first: Any, last: Any) -> bool:
    """Whether two values differ by numbers, colours and places alone."""
    if isinstance(first, BaseModel) and isinstance(last, BaseModel):
        names = [name for name in type(first).model_fields if name not in NO_MATTER]
        return type(first) is type(last) and all(alike(getattr(first, n), getattr(last, n)) for n in names)
    if isinstance(first, dict) and isinstance(last, dict):
        return first.keys() == last.keys() and all(alike(first[key], last[key]) for key in first)
    if _is_number(first) and _is_number(last):
        return True
    if isinstance(first, tuple) and isinstance(last, tuple) and len(first) == len(last):
        return all(alike(a, b) for a, b in zip(first, last, strict=True))
    return bool(first == last)


def _is_number(value: Any) -> bool:
    """Whether a value is an amount: what light is told by counts nothing."""
    return isinstance(value, int | float) and not isinstance(value, bool)


def _blended(first: Any, last: Any, share: float) -> Any:
    """Between two values: numbers a share of the way, all else of the nearer."""
    if first is last or first == last:
        return first
    if isinstance(first, BaseModel) and type(first) is type(last):
        fields = {name: _blended(getattr(first, name), getattr(last, name), share) for name in type(first).model_fields}
        return first.model_copy(update=fields)
    if isinstance(first, dict) and isinstance(last, dict) and first.keys() == last.keys():
        return {key: _blended(first[key], last[key], share) for key in first}
    if _is_number(first) and _is_number(last):
        return first + (last - first) * share
    if isinstance(first, tuple) and isinstance(last, tuple) and len(first) == len(last):
        return tuple(_blended(a, b, share) for a, b in zip(first, last, strict=True))
    return first if share < 0.5 else last


Weights = tuple[float, float]


def _shining(lit: Conditions) -> tuple[dict[str, Light], Conditions]:
    """(the lamps that shine, the conditions with what is around as it shines): none is off or alone."""
    on = {key: light for key, light in lit.lights.items() if light.enabled}
    alone = {key: light.model_copy(update={"solo": False}) for key, light in on.items() if light.solo}
    if not alone:
        return on, lit
    return alone, lit.model_copy(update={"environment": lit.environment.model_copy(update={"intensity": 0.0})})


def _lights(first: Mapping[str, Light], last: Mapping[str, Light], weights: Weights, share: float) -> dict[str, Light]:
    """Lamps by their keys; of one that is another lamp in the last, both."""
    found: dict[str, Light] = {}
    come = dict(last)
    for key, light in first.items():
        other = come.get(key)
        if other is not None and alike(light, other):
            amount = light.amount * weights[0] + other.amount * weights[1]
            found[key] = _blended(light, other, share).model_copy(update={"amount": min(amount, MOST_AMOUNT)})
            del come[key]
        else:
            found[key] = _dimmed(light, weights[0])
    for key, light in come.items():
        found[key if key not in found else free_key({**found, **last}, key)[0]] = _dimmed(light, weights[1])
    return found


def _dimmed(light: Light, factor: float) -> Light:
    return light.model_copy(update={"amount": min(light.amount * factor, MOST_AMOUNT)})


def _around(
    first: Conditions, last: Conditions, weights: Weights, share: float
) -> tuple[Environment, Sky, list[DirectionalLight]]:
    """(environment, sky, suns apart) on the way: one that changes, or two that dissolve."""
    a, b = first.environment, last.environment
    same_sky = alike(first.sky, last.sky) if first.sky.enabled else not last.sky.enabled
    if same_sky and alike(a, b):
        intensity = min(a.intensity * weights[0] + b.intensity * weights[1], MOST_INTENSITY)
        return (
            _blended(a, b, share).model_copy(update={"intensity": intensity}),
            _blended(first.sky, last.sky, share),
            [],
        )
    suns = [
        _sun(sky, environment, weight)
        for sky, environment, weight in ((first.sky, a, weights[0]), (last.sky, b, weights[1]))
        if sky.enabled and sky.sun
    ]
    dissolved = Dissolved(
        grounded=a.grounded if share < 0.5 else b.grounded,
        gone=a, gone_sky=first.sky, gone_share=weights[0],
        come=b, come_sky=last.sky, come_share=weights[1],
    )  # fmt: skip
    return dissolved, (first if share < 0.5 else last).sky.model_copy(update={"enabled": False}), suns


def _sun(sky: Sky, environment: Environment, weight: float) -> DirectionalLight:
    """The disk of a sky's sun as a lamp far away, of a weight."""
    illuminance, color = sunlight(sky)
    light = illuminance * environment.intensity * weight
    tinted = tuple(float(min(max(c * t, 0.0), FAR)) for c, t in zip(color, environment.tint, strict=True))
    towards = sun_of(sky).direction() * SUN_AWAY
    return DirectionalLight(
        name="Sun",
        position=tuple(float(v) for v in towards),
        target=(0.0, 0.0, 0.0),
        amount=min(light, MOST_AMOUNT),
        color=tinted,
        spread=2 * SUN_RADIUS,
        seen_by_camera=True,
        group="environment",
    )


def _haze(first: Haze, last: Haze, share: float) -> Haze:
    """Air between two densities; none is as dense as air that one sees through for ever."""
    if not first.enabled and not last.enabled:
        return last
    either = first if not last.enabled else last if not first.enabled else _blended(first, last, share)
    density = sum(weight / haze.sight for haze, weight in ((first, 1.0 - share), (last, share)) if haze.enabled)
    return either.model_copy(update={"enabled": True, "sight": min(1.0 / density, MOST_SIGHT)})
