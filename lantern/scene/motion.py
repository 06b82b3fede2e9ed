"""What moves in a document, and when: the models. Times in seconds from the beginning of the time line.

Evaluated by `motion.moving`, made by `scene.movements`.
"""

from itertools import pairwise
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, model_validator

from lantern.scene.fields import Finite, Vector, choice, quantity
from lantern.scene.model import Key, Model, Name

MOST_MOVES = 200
MOST_KEYS = 10_000
LONGEST_SECONDS = 3600.0
Pace = Literal["even", "soft", "in", "out"]
PACES = {"even": "Even", "soft": "Soft at both ends", "in": "Gathers speed", "out": "Comes to rest"}


class Move(Model):
    """Something that happens between two moments: before it, all is as at its beginning, after it, as at its end."""

    name: Name
    enabled: bool = choice(True, "On")
    start: float = quantity(0.0, "Begins at", "s", (0, LONGEST_SECONDS), (0, 20), 0.1)
    seconds: float = quantity(4.0, "Lasts", "s", (0.01, LONGEST_SECONDS), (0.5, 20), 0.1)
    pace: Pace = choice("even", "Pace", PACES)


class Turntable(Move):
    """The camera, the asset or the light turns about an upright axis."""

    kind: Literal["turntable"] = "turntable"
    turns: Literal["camera", "asset", "light"] = choice(
        "camera", "What turns", {"camera": "The camera", "asset": "The asset", "light": "The light"}
    )
    degrees: float = quantity(360.0, "By", "°", (-36000, 36000), (-720, 720), 5)
    pivot: Vector = Field((0.0, 0.0, 0.0), title="About", json_schema_extra={"unit": "m"})


class Exploded(Move):
    """Parts leave their places, each its own way, at once or one after the other."""

    kind: Literal["exploded"] = "exploded"
    ways: dict[Key, Vector] = Field(default_factory=dict, max_length=200_000, title="Ways of the parts, in order [m]")
    amount: float = quantity(1.0, "How far", "", (-5, 5), (0, 2), 0.05)
    stagger: float = quantity(0.0, "One after the other", "", (0, 1), step=0.05)
    returns: bool = choice(False, "And together again")


class Travel(Move):
    """The camera goes from one shot to another, on an arc about what it looks at, with lens and focus.

    Of several the one counts that has begun last: one after the other they are a sequence, cut where the next begins.
    """

    kind: Literal["travel"] = "travel"
    first: Key = Field(title="From the shot")
    last: Key = Field(title="To the shot")
    dissolve: float = quantity(0.0, "Dissolves from the shot before in", "s", (0, LONGEST_SECONDS), (0, 3), 0.1)


class Relight(Move):
    """The light goes from one kept state to another: lamps and air by what they are, what is all around by dissolving.

    Of several the one counts that has begun last.
    """

    kind: Literal["relight"] = "relight"
    first: Key = Field(title="From the conditions")
    last: Key = Field(title="To the conditions")


class ClipPlay(Move):
    """The asset moves as its clip says from one moment of it to another, by its pace, once or again and again.

    Of several the one counts that has begun last. Without any, the moments of the clip are those of the time line.
    """

    kind: Literal["clip"] = "clip"
    first: float = quantity(0.0, "Clip from", "s", (-LONGEST_SECONDS, LONGEST_SECONDS), (0, 20), 0.05)
    last: float = quantity(1.0, "Clip to", "s", (-LONGEST_SECONDS, LONGEST_SECONDS), (0, 20), 0.05)
    speed: float = quantity(1.0, "Speed", "×", (0.001, 1000), (0.1, 10), 0.05)
    then: Literal["holds", "again", "back"] = choice(
        "again", "At its end", {"holds": "It rests", "again": "From its beginning", "back": "To and fro"}
    )


Bezier = tuple[
    Annotated[Finite, Field(ge=0, le=1)],
    Annotated[Finite, Field(ge=0, le=1)],
    Annotated[Finite, Field(ge=0, le=1)],
    Annotated[Finite, Field(ge=0, le=1)],
]
"""x and y of two inner points of a curve from (0, 0) to (1, 1), as in CSS Easing Functions Level 1, section 2.2, whose
y stays within the keys, so that no value leaves its bounds."""


class ValueKey(Model):
    """A value at a moment, and how it goes on to the next: holds, goes straight, or along a curve."""

    time: Finite = Field(title="Time", json_schema_extra={"unit": "s"})
    value: bool | Finite | tuple[Finite, ...]
    to_next: Literal["hold", "line"] | Bezier = "line"


def kind_of(value: bool | float | tuple[float, ...]) -> str:
    """What sort of value a key has: a switch, a number, or so many numbers together."""
    if isinstance(value, tuple):
        return f"{len(value)} numbers"
    return "switch" if isinstance(value, bool) else "number"


def _one_kind(keys: tuple[ValueKey, ...]) -> tuple[ValueKey, ...]:
    times = [key.time for key in keys]
    if any(b <= a for a, b in pairwise(times)):
        raise ValueError(f"the times of keys must rise, not {times[:5]}")
    if len({kind_of(key.value) for key in keys}) > 1:
        raise ValueError("all keys of one value must be of one kind")
    return keys


class Keyed(Model):
    """Any number, colour, place or switch of the document, by keys."""

    kind: Literal["keyed"] = "keyed"
    name: Name
    enabled: bool = choice(True, "On")
    path: str = Field(pattern=r"^(/[^/]+)+$", max_length=500, title="Place in the document, as a JSON Pointer")
    keys: Annotated[tuple[ValueKey, ...], AfterValidator(_one_kind)] = Field(min_length=1, max_length=MOST_KEYS)

    @model_validator(mode="after")
    def _moves_no_motion(self) -> "Keyed":
        if self.path.split("/")[1] in ("motion", "shutter", "schema_version"):
            raise ValueError(f"{self.path} cannot move: it says what moves")
        return self


AnyMove = Annotated[Turntable | Exploded | Travel | Relight | ClipPlay | Keyed, Field(discriminator="kind")]
MOVE_KINDS: dict[str, type[Any]] = {
    "turntable": Turntable, "exploded": Exploded, "travel": Travel, "relight": Relight, "clip": ClipPlay,
    "keyed": Keyed,
}  # fmt: skip


class Motion(Model):
    """The time line: its length and rate, and what moves."""

    rate: float = quantity(25.0, "Frames a second", "1/s", (1, 240), (12, 60), 1)
    seconds: float = quantity(4.0, "Length", "s", (0.04, LONGEST_SECONDS), (1, 30), 0.5)
    loop: bool = choice(True, "Again and again")
    moves: dict[Key, AnyMove] = Field(default_factory=dict, max_length=MOST_MOVES)

    @property
    def frames(self) -> int:
        """Frames of the whole: the first shows its beginning, the last is one before its end, so that loops close."""
        return max(1, round(self.seconds * self.rate))
