"""Lights of their own shape, a union told apart by `kind`: each has what its kind can have and nothing else.

Photometric units as CIE S 017 defines them: lm, cd, lx, cd/m². Lengths in metres, angles in degrees.
"""

from typing import Annotated, Literal

from pydantic import Field

from lantern.scene.fields import LightColor, Vector, choice, color, optional_quantity, quantity
from lantern.scene.model import FileRef, Key, Model, Name


class LightBase(Model):
    """What every light has. It shines from `position` towards `target`; an amount in lx is what arrives there."""

    name: Name
    enabled: bool = choice(True, "On")
    position: Vector = Field((0.5, 0.8, 0.5), title="Position", json_schema_extra={"unit": "m"})
    target: Vector = Field((0, 0.1, 0), title="Aims at", json_schema_extra={"unit": "m"})
    amount: float = quantity(20.0, "Amount", "", (0, 1e9), (0, 100), 0.1, "logarithmic")
    color: LightColor = color((1, 1, 1), "Colour")
    temperature: float | None = optional_quantity(
        "Temperature", "K", (500, 20000), (1500, 10000), 50, on=5600.0, off="as the colour"
    )
    seen_in_reflections: bool = choice(True, "Seen in reflections")
    casts_shadow: bool = choice(True, "Casts shadow")
    group: Name = Field("lights", title="Light group")
    unlit_parts: tuple[Key, ...] = Field((), title="Parts it does not light")


class SurfaceLight(LightBase):
    """A light with an area, that the camera can see and that has a luminance."""

    unit: Literal["lm", "cd", "lx", "cd/m²"] = choice("lm", "Unit")
    seen_by_camera: bool = choice(False, "Seen by the camera")


class RectangleLight(SurfaceLight):
    kind: Literal["rectangle"] = "rectangle"
    roll: float = quantity(0.0, "Roll", "°", (-360, 360), (-180, 180), 1)
    width: float = quantity(0.3, "Width", "m", (0, 1000), (0, 2), 0.01)
    height: float = quantity(0.3, "Height", "m", (0, 1000), (0, 2), 0.01)


class DiskLight(SurfaceLight):
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


class ProfileLight(LightBase):
    """A light of no size: no luminance, nothing to see; its light may follow a measured distribution."""

    unit: Literal["lm", "cd", "lx"] = choice("lm", "Unit")
    roll: float = quantity(0.0, "Roll", "°", (-360, 360), (-180, 180), 1)
    profile: FileRef | None = None


class PointLight(ProfileLight):
    kind: Literal["point"] = "point"


class SpotLight(ProfileLight):
    kind: Literal["spot"] = "spot"
    cone: float = quantity(40.0, "Cone", "°", (0.1, 180), (5, 120), 1)
    softness: float = quantity(0.2, "Soft edge", "", (0, 1), step=0.01)


class DirectionalLight(LightBase):
    """Light from far away; `spread` is the angle across which its disk is seen. It is measured where it falls."""

    kind: Literal["directional"] = "directional"
    unit: Literal["lx"] = choice("lx", "Unit")
    amount: float = quantity(1000.0, "Amount", "", (0, 1e9), (0, 2000), 10, "logarithmic")
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


def profile_of(light: LightBase) -> FileRef | None:
    """The measured distribution of a light, of those that can have one."""
    return light.profile if isinstance(light, ProfileLight) else None
