"""Decals: pictures and lettering that lie on parts, each with a frame, a depth and a finish of its own.

A decal stands in the space of the first of its parts, its unit as the file has it made metres: it goes where that goes,
and grows with it. One of a higher order lies over others.
"""

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from lantern.scene.fields import Tint, Vector, choice, color, place, quantity
from lantern.scene.model import FileRef, Key, Model, Name

MOST_DECALS = 6
"""On one part."""
MOST_PARTS = 64
"""That one lies on."""
Words = Annotated[str, StringConstraints(min_length=1, max_length=300, pattern=r"^[^\x00]+$")]


DecalKind = Literal["text", "foil", "picture"]
"""What a new one may be."""


class PictureContent(Model):
    """An image of one's own, seen where its alpha says; None for none yet."""

    kind: Literal["picture"] = "picture"
    file: FileRef | None = None


class TextContent(Model):
    """Lettering in one of the fonts that the program brings; its lines are set in the middle."""

    kind: Literal["text"] = "text"
    text: Words = Field("Velvet", title="Text")
    face: Literal["sans", "serif"] = choice("serif", "Face", {"sans": "Sans", "serif": "Serif"})
    weight: float = quantity(600.0, "Weight", "", (300, 900), (300, 900), 10)
    spacing: float = quantity(0.0, "Letters apart", "em", (-0.2, 2), (-0.05, 0.6), 0.01)
    leading: float = quantity(1.15, "Lines apart", "em", (0.5, 4), (0.8, 2), 0.01)


Content = Annotated[PictureContent | TextContent, Field(discriminator="kind")]


class Decal(Model):
    """Something that lies on parts."""

    name: Name
    enabled: bool = choice(True, "Shown")
    order: int = Field(0, ge=0, lt=1 << 31)
    content: Content = TextContent()
    parts: tuple[Key, ...] = Field((), max_length=MOST_PARTS, title="Parts, the first carries it")
    middle: Vector = place((0, 0, 0), "Middle")
    facing: Vector = (0, 0, 1)
    upright: Vector = (0, 1, 0)
    turn: float = quantity(0.0, "Turn", "°", (-360, 360), (-180, 180), 1)
    width: float = quantity(0.05, "Width", "m", (1e-6, 1e4), (0.002, 0.5), 0.001)
    stretch: float = quantity(1.0, "Height, of its own", "×", (0.01, 100), (0.2, 5), 0.01)
    depth: float = quantity(0.05, "Reaches through", "m", (1e-6, 1e4), (0.001, 0.5), 0.001)
    wraps: bool = choice(True, "Bends with the surface")
    both_sides: bool = choice(False, "On the back too")
    opacity: float = quantity(1.0, "Opacity", "", (0, 1), step=0.01)
    color: Tint = color((1, 1, 1), "Colour")
    metalness: float = quantity(0.0, "Metalness", "", (0, 1), step=0.01)
    roughness: float = quantity(0.4, "Roughness", "", (0, 1), step=0.01)
    coat: float = quantity(0.0, "Coat", "", (0, 1), step=0.01)
    raised: float = quantity(0.0, "Raised by", "m", (-0.1, 0.1), (-0.001, 0.001), 0.00002)
