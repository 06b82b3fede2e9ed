"""What lies around an asset: the environment with its cards, sun and sky, backdrop, ground and air.

Lengths in metres, angles in degrees, colours in linear Rec. 709, light in cd/m². Directions are by azimuth, from north
(−Z) over east (+X), and elevation above the horizon.
"""

import math
from datetime import date as Date
from typing import Annotated, Literal

from pydantic import AfterValidator, Field, model_validator

from lantern.scene.fields import LightColor, Tint, Vector, choice, color, optional_quantity, place, quantity
from lantern.scene.model import FileRef, Key, Model, Name

MOST_CARDS = 64


class Graded(Model):
    """Light that changes from the zenith over the horizon to the ground, without a map; for intensity 1."""

    zenith: LightColor = color((0.55, 0.7, 1.0), "Zenith")
    horizon: LightColor = color((1.0, 0.95, 0.9), "Horizon")
    ground: LightColor = color((0.2, 0.18, 0.16), "Ground")
    horizon_height: float = quantity(30.0, "Height of the horizon", "°", (0.5, 90), (5, 90), 1)


class Card(Model):
    """A lit, or a dark, shape painted onto the environment where its reflection is wanted."""

    name: Name
    enabled: bool = choice(True, "On")
    solo: bool = choice(False, "Alone")
    shape: Literal["rectangle", "round", "ring", "strip", "window", "image"] = choice(
        "rectangle",
        "Shape",
        {
            "rectangle": "Rectangle", "round": "Round", "ring": "Ring", "strip": "Strip", "window": "Window",
            "image": "Image",
        },
    )  # fmt: skip
    image: FileRef | None = None
    azimuth: float = quantity(0.0, "Azimuth", "°", (-3600, 3600), (-180, 180), 1)
    elevation: float = quantity(30.0, "Elevation", "°", (-90, 90), step=1)
    width: float = quantity(30.0, "Width", "°", (0.5, 170), (2, 90), 0.5)
    height: float = quantity(30.0, "Height", "°", (0.5, 170), (2, 90), 0.5)
    roll: float = quantity(0.0, "Roll", "°", (-360, 360), (-180, 180), 1)
    edge: float = quantity(0.1, "Soft edge", "", (0, 1), step=0.01)
    fall_off: float = quantity(0.0, "Fall-off from the middle", "", (0, 1), step=0.01)
    luminance: float = quantity(20.0, "Luminance", "cd/m²", (0, 1e6), (0.1, 1000), 0.1)
    color: LightColor = color((1, 1, 1), "Colour")
    temperature: float | None = optional_quantity(
        "Temperature", "K", (500, 20000), (1500, 10000), 50, on=5600.0, off="as the colour"
    )
    blend: Literal["add", "replace", "darken"] = choice(
        "add", "Lies", {"add": "Added", "replace": "In its place", "darken": "Darkening"}
    )


class Environment(Model):
    """The HDR light all around: a map, graded light, or even white of 1 cd/m²; all times the intensity."""

    map: FileRef | None = None
    graded: Graded | None = Field(None, title="Graded light, in place of a map")
    rotation: float = quantity(0.0, "Rotation", "°", (-3600, 3600), (-180, 180), 1)
    tilt: float = quantity(0.0, "Tilt", "°", (-180, 180), (-90, 90), 1)
    mirrored: bool = choice(False, "Mirrored")
    intensity: float = quantity(1.0, "Intensity", "×", (0, 1e6), (0, 4), 0.01)
    tint: LightColor = color((1, 1, 1), "Tint")
    temperature: float | None = optional_quantity(
        "Temperature", "K", (1500, 40000), (2500, 15000), 50, on=6500.0, off="as it is"
    )
    saturation: float = quantity(1.0, "Saturation", "", (0, 4), (0, 2), 0.01)
    blur: float = quantity(0.0, "Blur", "°", (0, 60), (0, 30), 0.5)
    reflection_blur: float | None = optional_quantity(
        "Blur in reflections", "°", (0, 60), (0, 30), 0.5, on=0.0, off="as its light"
    )
    contrast: float | None = optional_quantity(
        "Highlights stretched", "stops", (0.1, 20), (1, 10), 0.1, on=5.0, off="as they are"
    )
    grounded: float | None = optional_quantity("Grounded from", "m", (0.001, 1000), (0.05, 5), 0.01, on=1.5, off="not")
    cards: dict[Key, Card] = Field({}, max_length=MOST_CARDS, title="Cards")


def _a_day(text: str) -> str:
    try:
        return Date.fromisoformat(text).isoformat()
    except ValueError:
        raise ValueError(f"a date is written as 2026-06-21, not {text!r}") from None


Day = Annotated[str, AfterValidator(_a_day)]


class SunPlace(Model):
    """Where and when the sun is looked up: north latitude and east longitude are positive."""

    name: Name = Field("Somewhere", title="Name of the place")
    latitude: float = quantity(50.0, "Latitude", "°", (-90, 90), step=0.1)
    longitude: float = quantity(10.0, "Longitude", "°", (-180, 180), step=0.1)
    zone: float = quantity(1.0, "Ahead of UTC", "h", (-12, 14), step=0.25)
    date: Day = Field("2026-06-21", title="Date")
    hour: float = quantity(16.0, "Hour", "h", (0, 24), step=0.05)
    north: float = quantity(0.0, "North turned", "°", (-360, 360), (-180, 180), 1)


SkyKind = Literal["clear", "overcast", "brighter_overcast", "even", "partly_cloudy", "white_blue", "cie_clear", "hazy"]


class Sky(Model):
    """A sky computed from the sun's place; while it is on, it stands in for the environment map."""

    enabled: bool = choice(False, "Sky")
    kind: SkyKind = choice(
        "clear",
        "Kind",
        {
            "clear": "Clear, by turbidity",
            "overcast": "Overcast (CIE 1)",
            "brighter_overcast": "Overcast, brighter at the sun (CIE 2)",
            "even": "Even (CIE 5)",
            "partly_cloudy": "Partly cloudy (CIE 7)",
            "white_blue": "White-blue (CIE 11)",
            "cie_clear": "Clear (CIE 12)",
            "hazy": "Cloudless and hazy (CIE 14)",
        },
    )
    azimuth: float = quantity(150.0, "Sun azimuth, from north to east", "°", (-360, 720), (0, 360), 1)
    elevation: float = quantity(40.0, "Sun elevation", "°", (0, 90), step=0.5)
    place: SunPlace | None = Field(None, title="Place and time, which put the sun where it stands then")
    turbidity: float = quantity(2.5, "Turbidity", "", (1.9, 10), step=0.1)
    sun: bool = choice(True, "Sun disk")
    ground_albedo: Tint = color((0.2, 0.2, 0.2), "Ground of the sky")


class Box(Model):
    """A box along the axes of the scene."""

    low: Vector = place((-1, 0, -1), "Corner")
    high: Vector = place((1, 2, 1), "Opposite corner")

    @model_validator(mode="after")
    def _has_room(self) -> "Box":
        if not all(a < b for a, b in zip(self.low, self.high, strict=True)):
            raise ValueError(f"each number of the corner {self.low} must lie below that of {self.high}")
        return self


FREE_PATHS_OF_SIGHT = math.log(1 / 0.02)
"""Mean free paths of a ray to where dark things have lost all but 2 % of their contrast with the horizon.

Koschmieder, "Theorie der horizontalen Sichtweite", 1924; the visual range of CIE S 017.
"""


class Haze(Model):
    """Air that scatters: in a box, or everywhere; as dense all over, or thinning out with height.

    Its density is said by how far one sees in it.
    """

    enabled: bool = choice(False, "Haze")
    sight: float = quantity(20.0, "Sight", "m", (0.001, 1e7), (0.5, 200), 0.1)
    color: Tint = color((0.9, 0.9, 0.9), "Share scattered rather than absorbed")
    anisotropy: float = quantity(0.0, "Scattering forwards", "", (-0.99, 0.99), step=0.01)
    falls_off: float | None = optional_quantity(
        "Thins to 37 % within", "m", (0.001, 1e5), (0.05, 100), 0.1, on=1.0, off="as dense all over"
    )
    box: Box | None = Field(None, title="Only in a box")


class Backdrop(Model):
    """What the camera sees behind the asset; the light does not change with it."""

    kind: Literal["environment", "color", "gradient", "map", "photograph"] = choice(
        "color",
        "Backdrop",
        {
            "environment": "Environment", "color": "Plain colour", "gradient": "Graded", "map": "Another map",
            "photograph": "Photograph",
        },
    )  # fmt: skip
    upper: LightColor = color((0.05, 0.05, 0.06), "Upper colour")
    middle: float = quantity(0.5, "Middle of the grading", "", (0, 1), step=0.01)
    glow: float = quantity(0.0, "Glow behind the asset", "", (0, 4), (0, 2), 0.01)
    file: FileRef | None = None
    exposure: float = quantity(0.0, "Exposure of the backdrop", "EV", (-30, 30), (-6, 6), 0.1)
    rotation: float = quantity(0.0, "Turn of the backdrop", "°", (-3600, 3600), (-180, 180), 1)
    fit: Literal["cover", "contain", "stretch"] = choice(
        "cover", "Fit", {"cover": "Fills the frame", "contain": "Wholly seen", "stretch": "Stretched"}
    )
    blur: float = quantity(0.0, "Blur of the backdrop", "°", (0, 60), (0, 30), 0.5)
    color: LightColor = color((0.18, 0.18, 0.18), "Backdrop colour")
    graded: bool = choice(True, "Graded with the rest")
    color_exposure: float = quantity(0.0, "Exposure of its colours", "EV", (-30, 30), (-6, 6), 0.1)


class Ground(Model):
    """A level plane that catches shadow and, when polished, reflections, and that reflects light back."""

    enabled: bool = choice(True, "Ground")
    height: float = quantity(0.0, "Height", "m", (-1000, 1000), (-0.5, 0.5), 0.001)
    reflectance: Tint = color((0.4, 0.4, 0.4), "Ground colour")
    reflection: float = quantity(0.0, "Reflection", "", (0, 1), (0, 0.3), 0.01)
    reflection_roughness: float = quantity(0.15, "Reflection roughness", "", (0, 1), step=0.01)
