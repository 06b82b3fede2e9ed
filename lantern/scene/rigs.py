"""Rigs: lights with the environment, backdrop and ground they go with, arranged about an asset of any size.

In: a rig, a document, the box around its asset. Out: patches, rigs. Called by the render host. A rig stands about an
asset whose box has a diagonal of half a metre and stands on the ground at the origin.
"""

import math
from collections.abc import Sequence
from typing import Any

from pydantic import Field

from lantern.scene.conditions import changed_sections
from lantern.scene.document import Scene
from lantern.scene.fields import Box
from lantern.scene.keys import free_key
from lantern.scene.lights import Light, scaled_fields
from lantern.scene.making import Made
from lantern.scene.model import Key, Model, Name
from lantern.scene.scaled_light import scaled_environment
from lantern.scene.starts import size_of
from lantern.scene.surroundings import Backdrop, Environment, Ground

STANDARD_SIZE = 0.5
"""Diagonal [m] of the asset that a rig is arranged about."""
_STANDARD: Box = ((-0.144, 0.0, -0.144), (0.144, 0.289, 0.144))


class Rig(Model):
    """What is arranged and kept together; what it does not say stays as it is."""

    name: Name
    lights: dict[Key, Light] = Field(default_factory=dict)
    environment: Environment | None = None
    backdrop: Backdrop | None = None
    ground: Ground | None = None
    exposure: float | None = None


def rig_of(scene: Scene, name: str, box: Box | None) -> Rig:
    """The set-up of a document about its asset, as a rig."""
    move = _Move(box or _STANDARD, _STANDARD)
    lights = {key: move.light(light, 0.0).model_copy(update={"unlit_parts": ()}) for key, light in scene.lights.items()}
    return Rig(
        name=name,
        lights=lights,
        environment=scaled_environment(scene.environment, move.scale),
        backdrop=scene.backdrop,
        ground=scene.ground.model_copy(update={"height": 0.0}),
        exposure=scene.look.exposure,
    )


def with_rig(scene: Scene, rig: Rig, box: Box | None, *, adds: bool = False, turn: float = 0.0) -> Scene:
    """A document lit by a rig, sized to the asset in a box and turned by degrees about its middle.

    One that is added leaves all that is there, the environment as well, and brings its lights.
    """
    move = _Move(_STANDARD, box or _STANDARD)
    lights: dict[str, Light] = dict(scene.lights) if adds else {}
    names = {light.name for light in lights.values()}
    for light in rig.lights.values():
        key, _ = free_key(lights, "light")
        name = light.name if light.name not in names else f"{light.name} of {rig.name}"[:200]
        lights[key] = move.light(light, turn).model_copy(update={"name": name})
    changed: dict[str, Any] = {"lights": lights, "light_order": scene.light_order if adds else ()}
    if not adds:
        changed |= {"sky": scene.sky.model_copy(update={"enabled": False})} if rig.environment else {}
        changed |= (
            {"environment": _turned(scaled_environment(rig.environment, move.scale), turn)} if rig.environment else {}
        )
        changed |= {"backdrop": rig.backdrop} if rig.backdrop else {}
        if rig.ground is not None:
            changed["ground"] = rig.ground.model_copy(update={"height": scene.ground.height})
        if rig.exposure is not None:
            changed["look"] = scene.look.model_copy(update={"exposure": rig.exposure})
    return scene.model_copy(update=changed)


def rigged(scene: Scene, rig: Rig, box: Box | None, *, adds: bool = False) -> Made:
    """The patch that lights a document by a rig."""
    after = with_rig(scene, rig, box, adds=adds)
    return Made("", f"Rig: {rig.name}", changed_sections(scene, after))


def turned_lights(scene: Scene, box: Box | None, degrees: float, stops: float) -> list[dict[str, Any]]:
    """The patch that turns all lights and the environment about the asset as one, and dims them by stops."""
    move = _Move(box or _STANDARD, box or _STANDARD)
    factor = 2.0**stops
    lights = {}
    for key, light in scene.lights.items():
        moved = light if light.locked else move.light(light, degrees)
        lights[key] = moved.model_copy(update={"amount": min(light.amount * factor, 1e9)})
    environment = _turned(scene.environment, degrees)
    environment = environment.model_copy(update={"intensity": min(environment.intensity * factor, 1e6)})
    return changed_sections(scene, scene.model_copy(update={"lights": lights, "environment": environment}))


def turned_light_of(scene: Scene, pivot: Sequence[float], degrees: float) -> Scene:
    """A document whose lights and environment are turned about an upright axis through a point."""
    x, y, z = pivot
    about = _Move(((x - 1, y, z - 1), (x + 1, y + 1, z + 1)), ((x - 1, y, z - 1), (x + 1, y + 1, z + 1)))
    lights = {key: about.light(light, degrees) for key, light in scene.lights.items()}
    return scene.model_copy(update={"lights": lights, "environment": _turned(scene.environment, degrees)})


def _turned(environment: Environment, degrees: float) -> Environment:
    rotation = (environment.rotation + degrees + 180.0) % 360.0 - 180.0
    return environment.model_copy(update={"rotation": round(rotation, 4)})


class _Move:
    """From about one box to about another: both stand on their lowest level."""

    def __init__(self, old: Box, new: Box) -> None:
        self.scale = size_of(new) / size_of(old)
        self._here, self._there = _foot(old), _foot(new)

    def light(self, light: Light, degrees: float) -> Light:
        """A light moved, sized, and turned counter-clockwise about the middle, seen from above."""
        s, c = math.sin(math.radians(degrees)), math.cos(math.radians(degrees))

        def place(point: Sequence[float]) -> tuple[float, ...]:
            x, y, z = ((p - h) * self.scale for p, h in zip(point, self._here, strict=True))
            turned = c * x + s * z, y, c * z - s * x
            return tuple(float(f"{a + b:.7g}") for a, b in zip(turned, self._there, strict=True))

        placed: dict[str, Any] = {"position": place(light.position), "target": place(light.target)}
        if abs(self.scale - 1) > 1e-9:
            placed |= {name: float(f"{value:.4g}") for name, value in scaled_fields(light, self.scale).items()}
        return light.model_copy(update=placed)


def _foot(box: Box) -> tuple[float, float, float]:
    (x0, y0, z0), (x1, _, z1) = box
    return (x0 + x1) / 2, y0, (z0 + z1) / 2
