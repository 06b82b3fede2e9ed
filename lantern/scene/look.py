"""The look: what is done to the light of a film until it is a picture. Changing it traces no ray.

Shares of the frame are of its height [%], stops are about 1.0, the light of a matt white once exposed. Effects are told
in the order in which they are applied (`EFFECTS`); one that is off, or of amount 0, leaves the picture as it is.
"""

import itertools
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field

from lantern.scene.fields import LightColor, choice, color, count, optional_count, optional_quantity, quantity
from lantern.scene.model import FileRef, Key, Model, Name

MOST_POINTS = 16
"""Of a curve."""
MOST_LOCALS = 8
CurvePoint = tuple[Annotated[float, Field(ge=0, le=1)], Annotated[float, Field(ge=0, le=1)]]


def _rising(points: tuple[CurvePoint, ...]) -> tuple[CurvePoint, ...]:
    for before, after in itertools.pairwise(points):
        if after[0] <= before[0]:
            raise ValueError(f"points of a curve must go to the right: {after[0]} follows {before[0]}")
    return points


Points = Annotated[tuple[CurvePoint, ...], Field(max_length=MOST_POINTS), AfterValidator(_rising)]


def points(label: str) -> Any:
    """A curve by its points from left to right; without any it changes nothing."""
    return Field((), title=label, json_schema_extra={"unit": "curve"})


def share(default: float, label: str, hard: tuple[float, float], soft: tuple[float, float], step: float) -> float:
    """A length as a share of the frame's height."""
    value: float = quantity(default, label, "%", hard, soft, step, scale="logarithmic" if soft[0] > 0 else "linear")
    return value


class Toned(Model):
    """How bright a picture is, and which light looks white in it."""

    exposure: float = quantity(0.0, "Exposure", "EV", (-30, 30), (-6, 6), 0.1)
    white_temperature: float | None = optional_quantity(
        "Light that is to look white", "K", (1500, 40000), (2000, 12000), 50, on=5600.0, off="as rendered"
    )
    white_tint: float = quantity(0.0, "Green to magenta", "", (-100, 100), (-30, 30), 0.5)


class Effect(Model):
    """One step to the picture."""

    enabled: bool = choice(False, "On")
    amount: float = quantity(1.0, "Amount", "", (0, 1), step=0.01)

    @property
    def strength(self) -> float:
        """How much of it there is [0, 1]."""
        return self.amount if self.enabled else 0.0


class Scattering(Effect):
    """Light of bright places that the lens spreads over others; none is lost or made."""

    above: float = quantity(0.0, "Only of light above", "stops", (-12, 12), (-6, 6), 0.1)


class Bloom(Scattering):
    """A soft glow around what is bright."""

    amount: float = quantity(0.12, "Amount", "", (0, 1), (0, 0.5), 0.01)
    size: float = share(5.0, "Size", (0.05, 100), (0.5, 40), 0.1)


class Glare(Scattering):
    """What the aperture does to a point of light: its diffraction, in all wavelengths."""

    amount: float = quantity(0.35, "Amount", "", (0, 1), step=0.01)
    ring: float = share(0.5, "First dark ring, of green light", (0.02, 20), (0.1, 5), 0.01)
    blades: int | None = optional_count("Aperture blades", "", (3, 24), (3, 12), on=6, off="as the lens")
    roundness: float = quantity(0.0, "Roundness of the blades", "", (0, 1), step=0.01)
    turn: float = quantity(0.0, "Turn of the blades", "°", (-360, 360), (-90, 90), 1)
    scratches: int = count(0, "Scratches", "", (0, 200), (0, 60))
    dust: int = count(0, "Specks of dust", "", (0, 400), (0, 100))
    seed: int = count(1, "Another arrangement", "", (0, 9999), (0, 99))
    image: FileRef | None = Field(None, title="Image of an aperture, in place of blades")


class Streaks(Scattering):
    """Long lines of light through what is bright."""

    amount: float = quantity(0.1, "Amount", "", (0, 1), (0, 0.5), 0.01)
    arms: int = count(2, "Arms", "", (1, 16), (1, 8))
    angle: float = quantity(0.0, "Angle", "°", (-360, 360), (-90, 90), 1)
    length: float = share(30.0, "Length", (0.5, 200), (2, 100), 0.5)
    spread: float = quantity(0.3, "Spread of colour", "", (0, 1), step=0.01)


class Halo(Scattering):
    """A ring of light around what is bright."""

    amount: float = quantity(0.06, "Amount", "", (0, 1), (0, 0.5), 0.01)
    radius: float = share(16.0, "Radius", (0.5, 100), (2, 60), 0.5)
    width: float = share(2.0, "Width", (0.1, 50), (0.3, 20), 0.1)
    spread: float = quantity(0.35, "Spread of colour", "", (0, 1), step=0.01)


class Ghosts(Scattering):
    """Pictures of what is bright, mirrored between the lens's surfaces, along the line through the middle."""

    amount: float = quantity(0.05, "Amount", "", (0, 1), (0, 0.3), 0.005)
    above: float = quantity(1.0, "Only of light above", "stops", (-12, 12), (-6, 6), 0.1)
    number: int = count(6, "Ghosts", "", (1, 12), (1, 12))
    size: float = share(4.0, "Size", (0.2, 40), (0.5, 20), 0.1)
    spread: float = quantity(0.4, "Spread of colour", "", (0, 1), step=0.01)
    seed: int = count(1, "Another arrangement", "", (0, 9999), (0, 99))


class Veil(Effect):
    """Light that a lens spreads evenly over all of the frame."""

    amount: float = quantity(0.04, "Amount", "", (0, 1), (0, 0.3), 0.005)


class Fringe(Effect):
    """Lateral colour: red and blue are drawn larger or smaller than green."""

    red: float = quantity(0.12, "Red, at the corner", "%", (-5, 5), (-1, 1), 0.01)
    blue: float = quantity(-0.12, "Blue, at the corner", "%", (-5, 5), (-1, 1), 0.01)


class Softness(Effect):
    """Less sharp towards the corners."""

    blur: float = share(0.5, "Blur at the corner", (0.01, 10), (0.05, 3), 0.01)
    begins: float = quantity(0.35, "Begins at", "", (0, 0.99), step=0.01)


class Distortion(Effect):
    """Lines bend outwards (barrel) or inwards (pincushion); corners stay where they are."""

    bend: float = quantity(0.04, "Pincushion to barrel", "", (-0.4, 0.4), (-0.2, 0.2), 0.005)


class Vignette(Effect):
    """Darker towards the corners."""

    natural: float = quantity(0.0, "By the angle of the light (cos⁴)", "", (0, 1), step=0.01)
    edge: float = quantity(-0.6, "At the corners", "stops", (-6, 3), (-3, 1), 0.05)
    begins: float = quantity(0.3, "Begins at", "", (0, 0.99), step=0.01)
    roundness: float = quantity(0.6, "Frame to circle", "", (0, 1), step=0.01)


class Shafts(Effect):
    """Shafts of light from bright places, drawn by the picture and not traced; they add light."""

    amount: float = quantity(0.4, "Amount", "", (0, 1), step=0.01)
    above: float = quantity(0.0, "Only of light above", "stops", (-12, 12), (-6, 6), 0.1)
    x: float = quantity(50.0, "They come from, across", "%", (-200, 300), (0, 100), 1)
    y: float = quantity(0.0, "They come from, down", "%", (-200, 300), (0, 100), 1)
    length: float = quantity(60.0, "Length, of the way", "%", (1, 100), (1, 100), 1)
    behind: float | None = optional_quantity(
        "Only of what is further than", "m", (0, 1e6), (0.05, 20), 0.05, on=1.0, off="all"
    )


class Contrast(Effect):
    """More or less contrast about a pivot, in stops."""

    contrast: float = quantity(1.15, "Contrast", "×", (0.1, 4), (0.5, 2), 0.01, scale="logarithmic")
    pivot: float = quantity(-2.47, "Pivot", "stops", (-12, 8), (-6, 2), 0.1)


class Levels(Effect):
    """Which light is black, and which is white, before the display."""

    black: float = quantity(0.0, "Black point", "", (-0.5, 0.5), (-0.1, 0.1), 0.001)
    white: float = quantity(0.0, "White point", "stops", (-6, 6), (-2, 2), 0.05)


Triple = tuple[
    Annotated[float, Field(ge=-2, le=10)], Annotated[float, Field(ge=-2, le=10)], Annotated[float, Field(ge=-2, le=10)]
]


def _never_falling(points: tuple[CurvePoint, ...]) -> tuple[CurvePoint, ...]:
    for before, after in itertools.pairwise(points):
        if after[1] < before[1]:
            raise ValueError(f"a tone curve must not fall: {after[1]} follows {before[1]}")
    return points


TonePoints = Annotated[Points, AfterValidator(_never_falling)]


def _positive(values: tuple[float, float, float]) -> tuple[float, float, float]:
    if min(values) <= 0:
        raise ValueError(f"the power of a colour decision must be above 0, not {min(values)}")
    return values


def _not_below_zero(values: tuple[float, float, float]) -> tuple[float, float, float]:
    if min(values) < 0:
        raise ValueError(f"the slope of a colour decision must not be below 0, not {min(values)}")
    return values


class ToneCurve(Effect):
    """Curves over the logarithm of light, of all channels and of each; they never turn back."""

    master: TonePoints = points("All")
    red: TonePoints = points("Red")
    green: TonePoints = points("Green")
    blue: TonePoints = points("Blue")


class ColorDecision(Effect):
    """ASC CDL version 1.2: slope, offset, power, saturation, on values coded as ACEScct."""

    slope: Annotated[Triple, AfterValidator(_not_below_zero)] = Field((1, 1, 1), title="Slope")
    offset: Triple = Field((0, 0, 0), title="Offset")
    power: Annotated[Triple, AfterValidator(_positive)] = Field((1, 1, 1), title="Power")
    saturation: float = quantity(1.0, "Saturation", "", (0, 4), (0, 2), 0.01)


class Saturation(Effect):
    """How strong colours are; vibrance moves the weak ones."""

    saturation: float = quantity(1.1, "Saturation", "", (0, 4), (0, 2), 0.01)
    vibrance: float = quantity(0.0, "Vibrance", "", (-1, 1), step=0.01)


class HueCurves(Effect):
    """By the hue that is there: another hue, saturation or lightness. In the middle of a curve nothing changes."""

    hue: Points = points("Hue")
    saturation: Points = points("Saturation")
    lightness: Points = points("Lightness")


class SplitTint(Effect):
    """One colour for what is dark and another for what is bright."""

    amount: float = quantity(0.3, "Amount", "", (0, 1), step=0.01)
    shadows: LightColor = color((0.5, 0.7, 1.0), "Dark")
    highlights: LightColor = color((1.0, 0.8, 0.55), "Bright")
    balance: float = quantity(0.0, "Balance", "stops", (-6, 6), (-4, 4), 0.1)


class Monochrome(Effect):
    """Greys, as a film behind a colour filter sees them, toned."""

    filter: LightColor = color((0.2126, 0.7152, 0.0722), "Colour filter")
    tone: LightColor = color((1.0, 1.0, 1.0), "Tone")


class GradientMask(Model):
    """From none to all between two places of the frame."""

    kind: Literal["gradient"] = "gradient"
    x: float = quantity(50.0, "From, across", "%", (-100, 200), (0, 100), 1)
    y: float = quantity(70.0, "From, down", "%", (-100, 200), (0, 100), 1)
    angle: float = quantity(90.0, "Towards", "°", (-360, 360), (-180, 180), 1)
    length: float = share(40.0, "Length", (0.5, 400), (5, 100), 1)


class EllipseMask(Model):
    """All within an ellipse, none outside of it."""

    kind: Literal["ellipse"] = "ellipse"
    x: float = quantity(50.0, "Middle, across", "%", (-100, 200), (0, 100), 1)
    y: float = quantity(50.0, "Middle, down", "%", (-100, 200), (0, 100), 1)
    width: float = share(50.0, "Width", (1, 400), (5, 150), 1)
    height: float = share(50.0, "Height", (1, 400), (5, 150), 1)
    turn: float = quantity(0.0, "Turn", "°", (-360, 360), (-90, 90), 1)
    feather: float = quantity(0.5, "Soft edge", "", (0, 1), step=0.01)


class PartMask(Model):
    """Where the camera sees certain parts."""

    kind: Literal["parts"] = "parts"
    parts: tuple[Key, ...] = Field((), title="Parts")


class LocalGrade(Effect):
    """A grade of one place of the picture, or of certain parts."""

    enabled: bool = choice(True, "On")
    name: Name
    mask: GradientMask | EllipseMask | PartMask = Field(discriminator="kind")
    inverted: bool = choice(False, "Everywhere else")
    exposure: float = quantity(0.0, "Exposure here", "EV", (-10, 10), (-2, 2), 0.05)
    contrast: float = quantity(1.0, "Contrast", "×", (0.1, 4), (0.5, 2), 0.01, scale="logarithmic")
    saturation: float = quantity(1.0, "Saturation", "", (0, 4), (0, 2), 0.01)
    tint: LightColor = color((1.0, 1.0, 1.0), "Tint")


class LookupTable(Effect):
    """A table of somebody else's (`.cube`), on values coded as it expects them."""

    file: FileRef | None = Field(None, title="File")
    space: Literal["display", "acescct", "linear"] = choice(
        "display", "It expects", {"display": "sRGB of a display", "acescct": "ACEScct", "linear": "Linear Rec. 709"}
    )


class OwnTransform(Model):
    """A display transform of somebody's own OpenColorIO configuration (`.ocio` or `.ocioz`), by its names."""

    file: FileRef
    display: Name = Field(title="Display")
    view: Name = Field(title="View")
    look: str = Field("", max_length=200, title="Look")


class Sharpening(Effect):
    """More contrast of fine detail, of luminance alone."""

    amount: float = quantity(0.35, "Amount", "", (0, 1), step=0.01)
    radius: float = share(0.12, "Radius", (0.02, 5), (0.05, 1), 0.01)


class Grain(Effect):
    """Grain of film by its density: strongest between black and white, and the same in each frame."""

    amount: float = quantity(0.25, "Amount", "", (0, 1), step=0.01)
    size: float = share(0.2, "Size", (0.02, 5), (0.05, 1), 0.01)
    color: float = quantity(0.3, "In colour", "", (0, 1), step=0.01)
    seed: int = count(1, "Another arrangement", "", (0, 9999), (0, 99))


class Border(Effect):
    """An even border inside the frame."""

    width: float = share(3.0, "Width", (0.05, 45), (0.2, 15), 0.1)
    color: LightColor = color((0.9, 0.9, 0.88), "Colour")


class Look(Toned):
    """From scene-linear light to the picture, step after step."""

    bloom: Bloom = Bloom()
    glare: Glare = Glare()
    streaks: Streaks = Streaks()
    halo: Halo = Halo()
    ghosts: Ghosts = Ghosts()
    veil: Veil = Veil()
    fringe: Fringe = Fringe()
    distortion: Distortion = Distortion()
    softness: Softness = Softness()
    vignette: Vignette = Vignette()
    shafts: Shafts = Shafts()
    contrast: Contrast = Contrast()
    levels: Levels = Levels()
    curve: ToneCurve = ToneCurve()
    decision: ColorDecision = ColorDecision()
    saturation: Saturation = Saturation()
    hues: HueCurves = HueCurves()
    split: SplitTint = SplitTint()
    monochrome: Monochrome = Monochrome()
    locals: dict[Key, LocalGrade] = Field(default_factory=dict, max_length=MOST_LOCALS, title="Places of the picture")
    table: LookupTable = LookupTable()
    view: Literal["filmic", "plain"] = choice("filmic", "Display transform", {"filmic": "Filmic", "plain": "Plain"})
    encoding: Literal["srgb", "p3", "rec1886"] = choice(
        "srgb", "Display", {"srgb": "sRGB", "p3": "Display P3", "rec1886": "Rec. 1886"}
    )
    compresses_gamut: bool = choice(False, "Bring colours beyond the display within it")
    own_transform: OwnTransform | None = Field(None, title="Display transform of one's own")
    press_profile: FileRef | None = Field(None, title="ICC profile of the press, by which colours are marked")
    sharpening: Sharpening = Sharpening()
    grain: Grain = Grain()
    border: Border = Border()


LENS = (
    "bloom", "glare", "streaks", "halo", "ghosts", "veil", "fringe", "distortion", "softness", "vignette",
)  # fmt: skip
SCATTERING = ("bloom", "glare", "streaks", "halo")
GRADE = ("contrast", "levels", "curve", "decision", "saturation", "hues", "split", "monochrome")
FINISH = ("sharpening", "grain", "border")
EFFECTS = (*LENS, "shafts", *GRADE, "table", *FINISH)
"""Fields of the look that are effects, in the order in which they are applied."""
DISPLAY = ("view", "encoding", "compresses_gamut", "own_transform")
"""Fields that say how light becomes what a display is sent: neither on nor off."""
LABELS = {
    "bloom": "Bloom", "glare": "Glare of the aperture", "streaks": "Streaks", "halo": "Halo", "ghosts": "Ghosts",
    "veil": "Veil", "fringe": "Colour fringe", "distortion": "Distortion", "softness": "Soft corners",
    "vignette": "Vignette", "shafts": "Shafts of light", "contrast": "Contrast", "levels": "Black and white",
    "curve": "Tone curve", "decision": "Slope, offset, power", "saturation": "Saturation", "hues": "By hue",
    "split": "Split tint", "monochrome": "Monochrome", "table": "Look-up table", "sharpening": "Sharpening",
    "grain": "Grain", "border": "Border",
}  # fmt: skip


def effect_of(look: Look, name: str) -> Effect:
    """One of the effects of a look, by its field."""
    effect: Effect = getattr(look, name)
    return effect


def without_effects(look: Look) -> Look:
    """The picture before its look: exposure, white and display transform alone."""
    return Look(**{name: getattr(look, name) for name in (*Toned.model_fields, *DISPLAY)})


def only_effect(look: Look, name: str) -> Look:
    """The look with one of its effects alone."""
    return without_effects(look).model_copy(update={name: getattr(look, name)})
