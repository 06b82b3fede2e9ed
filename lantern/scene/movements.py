"""Making what moves: from the boxes of parts, and following the document when it is sized or changes its asset.

In: boxes [m], documents. Out: moves of the time line. Called by the render host and by set-ups.
"""

from collections.abc import Callable, Mapping, Sequence
from typing import Literal

import numpy as np

from lantern.scene.document import Scene
from lantern.scene.fields import FAR, Box
from lantern.scene.motion import AnyMove, ClipPlay, Exploded, Keyed, Travel, Turntable, ValueKey

GAP_SHARE = 0.12
"""Of the largest side of all parts: the air between two that have left along an axis."""
STEP, FARTHEST = 0.25, 6.0
"""How much further parts leave from the middle until none is in another's way, and the furthest."""
Along = Literal["out", "x", "y", "z"]
DAY_HOURS = 5.0, 21.0


def whole_box(boxes: Mapping[str, Box]) -> Box:
    """The box around all boxes."""
    low, high = np.array([box[0] for box in boxes.values()]), np.array([box[1] for box in boxes.values()])
    return _triple(low.min(axis=0)), _triple(high.max(axis=0))


def turntable_about(box: Box, turns: Literal["camera", "asset", "light"], target: Sequence[float]) -> Turntable:
    """A whole turn about the middle of a box; of a camera about what it looks at, so that it keeps its framing."""
    middle = target if turns == "camera" else [(a + b) / 2 for a, b in zip(*box, strict=True)]
    return Turntable(name=f"Turntable of the {turns}", turns=turns, pivot=_triple(middle))


def day_of_the_sun(seconds: float) -> Keyed:
    """The hour of a sky at a place, from before most sunrises to after most sunsets."""
    first, last = DAY_HOURS
    keys = (ValueKey(time=0.0, value=first), ValueKey(time=seconds, value=last))
    return Keyed(name="The sun through its day", path="/sky/place/hour", keys=keys)


def clip_whole(scene: Scene, span: tuple[float, float]) -> ClipPlay:
    """The clip of a document's asset from its first moment to its last [s], again and again."""
    name = (scene.asset.clip if scene.asset else None) or "Clip"
    return ClipPlay(name=name, first=round(span[0], 4), last=round(span[1], 4))


def sequence(shots: Mapping[str, str], seconds: float, dissolve: float) -> list[Travel]:
    """Shots by their names one after the other, each so long [s] and still, cut or dissolved in so many seconds."""
    return [
        Travel(
            name=name, first=key, last=key, start=place * seconds, seconds=seconds, dissolve=dissolve if place else 0
        )
        for place, (key, name) in enumerate(shots.items())
    ]


def exploded(boxes: Mapping[str, Box], along: Along) -> Exploded:
    """Parts that leave so far that no box is in the way of another: along an axis in their order, or from the middle.

    Those that share their middle with all cannot be told apart by it, and stay.
    """
    ways = _from_the_middle(boxes) if along == "out" else _in_a_row(boxes, "xyz".index(along))
    words = "from the middle" if along == "out" else f"along {along.upper()}"
    return Exploded(name=f"Exploded {words}", ways=ways)


def _in_a_row(boxes: Mapping[str, Box], axis: int) -> dict[str, tuple[float, float, float]]:
    """The lowest stays; each other one goes to where it is free of the one before."""
    low, high = whole_box(boxes)
    gap = GAP_SHARE * max(b - a for a, b in zip(low, high, strict=True))
    ordered = sorted(boxes, key=lambda key: (boxes[key][0][axis] + boxes[key][1][axis], boxes[key][0][axis], key))
    ways, reached = {}, -np.inf
    for key in ordered:
        begin, end = boxes[key][0][axis], boxes[key][1][axis]
        shift = max(reached + gap - begin, 0.0) if np.isfinite(reached) else 0.0
        way = np.zeros(3)
        way[axis] = shift
        ways[key] = _triple(way)
        reached = end + shift
    return ways


def _from_the_middle(boxes: Mapping[str, Box]) -> dict[str, tuple[float, float, float]]:
    keys = list(boxes)
    low, high = (np.array([boxes[key][side] for key in keys]) for side in (0, 1))
    middle = (low.min(axis=0) + high.max(axis=0)) / 2
    out = (low + high) / 2 - middle
    share = STEP
    while share < FARTHEST and _in_the_way(low + share * out, high + share * out, out):
        share += STEP
    order = np.argsort(-np.linalg.norm(out, axis=1), kind="stable")  # the outermost leave first
    return {keys[k]: _triple(share * out[k]) for k in order}


def _in_the_way(low: np.ndarray, high: np.ndarray, out: np.ndarray) -> bool:
    """Whether boxes (n, 3) overlap that go different ways: each is compared with those that begin, along X, before it
    ends."""
    order = np.argsort(low[:, 0], kind="stable")
    low, high, out = low[order], high[order], out[order]
    last = np.searchsorted(low[:, 0], high[:, 0], side="left")
    own = 1e-6 + 0.02 * np.linalg.norm(high - low, axis=1)
    for k in range(len(low) - 1):
        near = slice(k + 1, last[k])
        overlaps = (low[k, 1:] < high[near, 1:]).all(axis=1) & (low[near, 1:] < high[k, 1:]).all(axis=1)
        if overlaps.any() and (np.linalg.norm(out[near] - out[k], axis=1) > own[k])[overlaps].any():
            return True
    return False


def without_parts(moves: Mapping[str, AnyMove]) -> dict[str, AnyMove]:
    """Moves that are of no single parts, for another asset."""
    return {
        key: move
        for key, move in moves.items()
        if not isinstance(move, Exploded) and not (isinstance(move, Keyed) and move.path.startswith("/parts/"))
    }


def placed_move(move: AnyMove, place: Callable[[Sequence[float]], tuple[float, ...]], scale: float) -> AnyMove:
    """A move of something that stands elsewhere, and is so many times as large."""
    if isinstance(move, Turntable):
        return move.model_copy(update={"pivot": place(move.pivot)})
    if isinstance(move, Exploded):
        ways = {key: _triple(np.array(way) * scale) for key, way in move.ways.items()}
        return move.model_copy(update={"ways": ways})
    return move


def _triple(values: Sequence[float] | np.ndarray) -> tuple[float, float, float]:
    x, y, z = (float(f"{max(min(float(v), FAR), -FAR):.9g}") for v in values)
    return x, y, z
