"""The standard's procedural nodes as our patterns, where we have the like (MaterialX 1.39, "Procedural Nodes").

In: a node, how its coordinates lie, its constants. Out: an input of ours. Called by `values`. What is random lies
elsewhere than in other programs: its size, its range and its kind are kept.
"""

from collections.abc import Callable, Mapping

import numpy as np

from lantern.scene.inputs import MOST_STOPS, MaterialInput, Placement, Ramp, Stop
from lantern.scene.sources import CellsSource, ChecksSource, GradientSource, NoiseSource

Numbers = tuple[float, ...]
Said = Callable[[str, Numbers], Numbers]
"""The constant of an input of a node by its name, or what it is without one."""
_PERLIN = 0.982
"""Of the standard's implementation: what its gradients are multiplied by."""
_HALF = 0.625
"""Contrast of ours at which one octave goes from 0 to 1 as the standard's does from -1 to 1."""
_PERLIN_KIND, _CELL_KIND, _WORLEY_KIND, _FRACTAL_KIND = range(4)
"""`type` of unified noise."""


def laid_in_space(scale: Numbers, shift: Numbers) -> Placement:
    """The placement of places [m] of a part times `scale`, of which the first counts, plus `shift`."""
    size = 1.0 / max(abs(scale[0]), 1e-6)
    return Placement(kind="box", size=size, offset=tuple(-float(v) * size for v in np.resize(shift, 3)))


def _noise(said: Said) -> MaterialInput:
    reach, pivot = said("amplitude", (1.0,))[0] * _PERLIN, said("pivot", (0.0,))[0]
    source = NoiseSource(octaves=1, contrast=_HALF)
    return MaterialInput(source=source, low=pivot - reach, high=pivot + reach)


def _fractal(said: Said) -> MaterialInput:
    octaves = int(min(max(said("octaves", (3.0,))[0], 1), 8))
    gain = min(max(said("diminish", (0.5,))[0], 0.0), 1.0)
    reach = said("amplitude", (1.0,))[0] * _PERLIN * sum(gain**n for n in range(octaves))
    return MaterialInput(source=NoiseSource(octaves=octaves, gain=gain, contrast=_HALF), low=-reach, high=reach)


def _cells(said: Said) -> MaterialInput:
    return MaterialInput(source=CellsSource(shows="cells", irregularity=0.0))


def _worley(said: Said) -> MaterialInput:
    jitter = min(max(said("jitter", (1.0,))[0], 0.0), 1.0)
    if said("style", (0.0,))[0] != 0:
        return MaterialInput(source=CellsSource(shows="cells", irregularity=jitter))
    # Ours is 1 where the standard's distance is 0.
    return MaterialInput(source=CellsSource(shows="middles", irregularity=jitter), low=1.0, high=0.0)


def _unified(said: Said) -> MaterialInput:
    kind = int(said("type", (0.0,))[0])
    low, high = said("outmin", (0.0,))[0], said("outmax", (1.0,))[0]
    if kind == _CELL_KIND:
        one = _cells(said)
    elif kind == _WORLEY_KIND:
        one = _worley(said)
        return one.model_copy(update={"low": low + (high - low) * one.low, "high": low + (high - low) * one.high})
    elif kind == _FRACTAL_KIND:
        one = _fractal(said)
        # What is below 0 is cut, and so is what is above 1: only a ramp does that.
        return shaped(one, lambda value: low + (high - low) * np.clip(value, 0.0, 1.0), straight=False)
    else:
        one = _noise(said)
    return one.model_copy(update={"low": low, "high": high})


def _checks(said: Said) -> MaterialInput:
    return _between(ChecksSource(), said("color2", (0.0,)), said("color1", (1.0,)))


def _ramp_of_two(first: str, last: str) -> Callable[[Said], MaterialInput]:
    return lambda said: _between(GradientSource(), said(first, (0.0,)), said(last, (0.0,)))


def _split(first: str, last: str) -> Callable[[Said], MaterialInput]:
    def made(said: Said) -> MaterialInput:
        middle = min(max(said("center", (0.5,))[0], 0.0), 1.0)
        stops = (Stop(at=0.0, color=_color(said(first, (0.0,)))), Stop(at=middle, color=_color(said(last, (0.0,)))))
        return MaterialInput(source=GradientSource(), ramp=Ramp(stops=stops, blend="steps"))

    return made


def _ramp(said: Said) -> MaterialInput:
    count = int(min(max(said("num_intervals", (2.0,))[0], 2), MOST_STOPS))
    found = []
    for n in range(1, count + 1):
        at, color = said(f"interval{n}", (float(n > 1),))[0], said(f"color{n}", (float(n > 1),))
        found.append(Stop(at=min(max(at, 0.0), 1.0), color=_color(color)))
    blend = {0: "linear", 1: "smooth", 2: "steps"}.get(int(said("interpolation", (1.0,))[0]), "linear")
    stops = tuple(sorted(found, key=lambda stop: stop.at))
    return MaterialInput(source=GradientSource(), ramp=Ramp.model_validate({"stops": stops, "blend": blend}))


PATTERNS: Mapping[str, Callable[[Said], MaterialInput]] = {
    "noise2d": _noise, "noise3d": _noise, "fractal2d": _fractal, "fractal3d": _fractal, "cellnoise2d": _cells,
    "cellnoise3d": _cells, "worleynoise2d": _worley, "worleynoise3d": _worley, "unifiednoise2d": _unified,
    "unifiednoise3d": _unified, "checkerboard": _checks, "ramplr": _ramp_of_two("valuel", "valuer"),
    "ramptb": _ramp_of_two("valueb", "valuet"), "splitlr": _split("valuel", "valuer"),
    "splittb": _split("valueb", "valuet"), "ramp": _ramp,
}  # fmt: skip
"""What is made of a node by its category, but for its placement."""
UPWARDS = ("ramptb", "splittb")
"""Those that go along v."""


def own_map(category: str, said: Said) -> np.ndarray:
    """(2, 3) of what a node does to its coordinates itself."""
    if category == "checkerboard":
        # A repeat of ours is two squares.
        (across, up), (x, y) = np.resize(said("uvtiling", (8.0,)), 2) / 2, np.resize(said("uvoffset", (0.0,)), 2) / 2
        return np.array([[across, 0.0, -x], [0.0, up, -y]])
    if category == "unifiednoise2d":
        (across, up), (x, y) = np.resize(said("freq", (1.0,)), 2), np.resize(said("offset", (0.0,)), 2)
        return np.array([[across, 0.0, x], [0.0, up, y]])
    return np.array([[0.0, 1.0, 0.0], [-1.0, 0.0, 0.0]]) if category in UPWARDS else np.eye(2, 3)


def shaped(one: MaterialInput, change: Callable[[np.ndarray], np.ndarray], *, straight: bool) -> MaterialInput:
    """An input after a function of its values (3,); one that is not `straight` goes through stops of a ramp.

    A colour is not below 0: where a straight line would go there, it is bent as finely as a ramp can be.
    """
    if one.ramp is not None:
        places, values = [stop.at for stop in one.ramp.stops], [np.array(stop.color) for stop in one.ramp.stops]
    else:
        places = [n / (MOST_STOPS - 1) for n in range(MOST_STOPS)]
        values = [np.full(3, one.low + (one.high - one.low) * at) for at in places]
    changed = [np.resize(change(value), 3) for value in values]
    if one.ramp is None and straight:
        ends = changed[0], changed[-1]
        if max(np.ptp(end) for end in ends) < 1e-9:
            return one.model_copy(update={"low": float(ends[0][0]), "high": float(ends[1][0])})
        if min(end.min() for end in ends) >= 0:
            places, changed = [0.0, 1.0], list(ends)
    stops = tuple(Stop(at=at, color=_color(tuple(v.tolist()))) for at, v in zip(places, changed, strict=True))
    return one.model_copy(update={"ramp": Ramp(stops=stops, blend=one.ramp.blend if one.ramp else "linear")})


def _between(source: GradientSource | ChecksSource, dark: Numbers, bright: Numbers) -> MaterialInput:
    stops = (Stop(at=0.0, color=_color(dark)), Stop(at=1.0, color=_color(bright)))
    return MaterialInput(source=source, ramp=Ramp(stops=stops))


def _color(value: Numbers) -> tuple[float, float, float]:
    r, g, b = (min(max(float(v), 0.0), 1e6) for v in np.resize(value[:3], 3))
    return r, g, b
