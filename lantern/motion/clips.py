"""The clip of an asset on the time line: which of its moments is shown at a moment of the document.

In: the moves of a document, a moment. Out: a moment of the clip. Called by `moving` for parts that the file moves, and
by `poses` for meshes that it bends.
"""

import math
from collections.abc import Iterable, Mapping
from typing import Any

from lantern.motion.cuts import begun_last
from lantern.motion.pacing import paced
from lantern.motion.points import Points
from lantern.scene.document import Scene, Shutter
from lantern.scene.motion import AnyMove, ClipPlay

_ROUNDED = 1e-9


def played_at(moves: Mapping[str, AnyMove], time: float) -> ClipPlay | None:
    """The play that has the clip at a moment [s]; None where the clip's own time is that of the document."""
    there = ((key, move) for key, move in moves.items() if isinstance(move, ClipPlay) and move.enabled)
    key = begun_last(there, time)
    found = moves[key] if key is not None else None
    return found if isinstance(found, ClipPlay) else None


class PlayedShutter(Shutter):
    """The shutter of a document at its moment, for what moves by the clip: of no document that is kept."""

    play: ClipPlay

    def of_clip(self, moment: float) -> float:
        """The moment of the clip [s] at one while the shutter is open.

        Where the clip begins anew while it is open, it rests at that end: nothing is seen to jump.
        """
        play = self.play
        length = abs(play.last - play.first)
        if length == 0.0:
            return play.first
        gone = _gone(play, moment) / length
        match play.then:
            case "holds":
                along = min(gone, 1.0)
            case "back":
                along = 1.0 - abs(gone % 2.0 - 1.0)
            case "again":
                along = min(max(gone - self._round(length), 0.0), 1.0)
        return play.first + (play.last - play.first) * along

    def _round(self, length: float) -> int:
        """Which time the clip is gone through now; one that ends with the play has not begun anew."""
        now = _gone(self.play, self.time) / length
        has_ended = self.time >= self.play.start + self.play.seconds - _ROUNDED
        return max(math.ceil(now - _ROUNDED) - 1, 0) if has_ended else math.floor(now + _ROUNDED)


def _gone(play: ClipPlay, moment: float) -> float:
    """Seconds of the clip that have gone by at a moment."""
    return paced((moment - play.start) / play.seconds, play.pace) * play.seconds * play.speed


def played(shutter: Shutter, moves: Mapping[str, AnyMove]) -> Shutter:
    """A shutter that knows what is played of the clip; itself where nothing is."""
    play = played_at(moves, shutter.time)
    known: dict[str, Any] = dict(shutter)
    return shutter if play is None else PlayedShutter(**known, play=play)


def clip_span(scene: Scene, meshes: Iterable[Points]) -> tuple[float, float] | None:
    """(first, last) moment [s] that the clip has anything to say of; None where nothing moves or bends by it."""
    times = [key.time for part in scene.parts.values() for key in (*part.keys[:1], *part.keys[-1:])]
    times += [float(time) for mesh in meshes if mesh.shapes is not None for time in mesh.shapes.times]
    return (min(times), max(times)) if times and max(times) > min(times) else None
