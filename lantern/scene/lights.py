"""Lights of their own shape, a union told apart by `kind`: each has what its kind can have and nothing else.

Photometric units as CIE S 017 defines them: lm, cd, lx, cd/m². Lengths in metres, angles in degrees.
"""

from typing import Annotated, Any, Literal

from pydantic import Field

from lantern.scene.fields import LightColor, Vector, choice, color, optional_quantity, place, quantity
from lantern.scene.gels import GELS, GelName
from lantern.scene.model import FileRef, Key, Model, Name


def _amount(default: float, soft: tuple[float, float], step: float) -> Any:
    """How much light, in the unit that the light's own field names."""
    extra: dict[str, Any] = {"unit_from": "unit", "soft_minimum": soft[0], "soft_maximum": soft[1], "step": step}
    return Field(
        default, title="Amount", ge=0, le=1e9, allow_inf_nan=False, json_schema_extra=extra | {"scale": "logarithmic"}
    )


class LightBase(Model):
    """What every light has. It shines from `position` towards `target`; an amount in lx is what arrives there."""

    name: Name
    enabled: bool = choice(True, "On")
    solo: bool = choice(False, "Alone")
    locked: bool = choice(False, "Locked")
    position: Vector = place((0.5, 0.8, 0.5), "Position")
    target: Vector = place((0, 0.1, 0), "Aims at")
    amount: float = _amount(20.0, (0, 100), 0.1)
    color: LightColor = color((1, 1, 1), "Colour")
    temperature: float | None = optional_quantity(
        "Temperature", "K", (500, 20000), (1500, 10000), 50, on=5600.0, off="as the colour"
    )
    gel: GelName = choice("none", "Gel", {name: gel.label for name, gel in GELS.items()})
    seen_in_reflections: bool = choice(True, "Seen in reflections")
    casts_shadow: bool = choice(True, "Casts shadow")
    group: Name = Field("lights", title="Light group")
    unlit_parts: tuple[Key, ...] = Field((), title="Parts it does not light")


class Lamp(LightBase):
    """A light that is somewhere: what it gives may be said by what it draws."""

    efficacy: float = quantity(100.0, "Efficacy", "lm/W", (0.1, 683), (10, 200), 1, scale="logarithmic")


class SurfaceLight(Lamp):
    """A light with an area, that the camera can see and that has a luminance."""

    unit: Literal["lm", "cd", "lx", "cd/m²", "W"] = choice("lm", "Unit")
    seen_by_camera: bool = choice(False, "Seen by the camera")


class BarnDoors(Model):
    """Four flaps along the edges of a light, each as long as the light is across; 0° stands straight ahead."""

    upper: float = quantity(45.0, "Upper", "°", (-80, 90), step=1)
    lower: float = quantity(45.0, "Lower", "°", (-80, 90), step=1)
    left: float = quantity(45.0, "Left", "°", (-80, 90), step=1)
    right: float = quantity(45.0, "Right", "°", (-80, 90), step=1)


class FlatLight(SurfaceLight):
    """A flat light, before which a grid may hang."""

    grid: float | None = optional_quantity("Grid", "°", (5, 85), (10, 70), 1, on=40.0, off="none")


class RectangleLight(FlatLight):
    kind: Literal["rectangle"] = "rectangle"
    roll: float = quantity(0.0, "Roll", "°", (-360, 360), (-180, 180), 1)
    width: float = quantity(0.3, "Width", "m", (0, 1000), (0, 2), 0.01)
    height: float = quantity(0.3, "Height", "m", (0, 1000), (0, 2), 0.01)
    doors: BarnDoors | None = Field(None, title="Barn doors")


class DiskLight(FlatLight):
    kind: Literal["disk"] = "disk"
    radius: float = quantity(0.1, "Radius", "m", (0, 1000), (0, 1), 0.005)


class SphereLight(SurfaceLight):
    kind: Literal["sphere"] = "sphere"
    radius: float = quantity(0.1, "Radius", "m", (0, 1000), (0, 1), 0.005)


class TubeLight(SurfaceLight):
    """A lit cylinder without end caps that lies across the aim."""

    kind: Literal["tube"] = "tube"
    roll: float = quantity(0.0, "Roll", "°", (-360, 360), (-180, 180), 1)
    length: float = quantity(0.3, "Length", "m", (0, 1000), (0, 2), 0.01)
    radius: float = quantity(0.1, "Radius", "m", (0, 1000), (0, 1), 0.005)


class ProfileLight(Lamp):
    """A light of no size: no luminance, nothing to see; its light may follow a measured distribution."""

    unit: Literal["lm", "cd", "lx", "W"] = choice("lm", "Unit")
    roll: float = quantity(0.0, "Roll", "°", (-360, 360), (-180, 180), 1)
    profile: FileRef | None = None


class PointLight(ProfileLight):
    kind: Literal["point"] = "point"


class SpotLight(ProfileLight):
    kind: Literal["spot"] = "spot"
    cone: float = quantity(40.0, "Cone", "°", (0.1, 180), (5, 120), 1)
    softness: float = quantity(0.2, "Soft edge", "", (0, 1), step=0.01)
    gobo: FileRef | None = Field(None, title="Image that it throws")


class DirectionalLight(LightBase):
    """Light from far away; `spread` is the angle across which its disk is seen. It is measured where it falls."""

    kind: Literal["directional"] = "directional"
    unit: Literal["lx"] = choice("lx", "Unit")
    amount: float = _amount(1000.0, (0, 2000), 10)
    spread: float = quantity(0.53, "Spread", "°", (0, 90), (0, 10), 0.01)
    seen_by_camera: bool = choice(False, "Seen by the camera")


Light = Annotated[
    RectangleLight | DiskLight | SphereLight | TubeLight | PointLight | SpotLight | DirectionalLight,
    Field(discriminator="kind"),
]
LIGHT_KINDS: dict[str, type[LightBase]] = {
    "rectangle": RectangleLight,
    "disk": DiskLight,
    "sphere": SphereLight,
    "tube": TubeLight,
    "point": PointLight,
    "spot": SpotLight,
    "directional": DirectionalLight,
}


def extents_of(model: type[LightBase]) -> list[str]:
    """Names of the lengths [m] that say how large a light of a kind is."""
    return [name for name in ("width", "height", "length", "radius") if name in model.model_fields]


_GROWING_UNITS = ("lm", "cd", "W")


def scaled_fields(light: LightBase, scale: float) -> dict[str, float]:
    """Extents and amount of a light in a scene that is `scale` times as large, within what a document may hold.

    Amounts in lm, cd and W grow with the square of the scale (inverse-square law): as much light arrives as before.
    """
    values = light.model_dump()
    changed = {name: min(values[name] * scale, 1000.0) for name in extents_of(type(light))}
    if values["unit"] in _GROWING_UNITS:
        changed["amount"] = min(light.amount * scale * scale, 1e9)
    return changed


def profile_of(light: LightBase) -> FileRef | None:
    """The measured distribution of a light, of those that can have one."""
    return light.profile if isinstance(light, ProfileLight) else None


def gobo_of(light: LightBase) -> FileRef | None:
    """The image that a light throws, of those that can throw one."""
    return light.gobo if isinstance(light, SpotLight) else None
