"""Units as people write them, and which of them fits a value.

In: units of fields. Out: words and factors. Generated into the front end, which reads and shows numbers by them.
"""

WORDS: dict[str, dict[str, float]] = {
    "m": {"km": 1e3, "m": 1.0, "cm": 1e-2, "mm": 1e-3, "µm": 1e-6, "um": 1e-6, "in": 0.0254, '"': 0.0254, "ft": 0.3048},
    "mm": {"m": 1e3, "cm": 10.0, "mm": 1.0, "µm": 1e-3, "um": 1e-3, "in": 25.4, '"': 25.4},
    "µm": {"mm": 1e3, "µm": 1.0, "um": 1.0, "nm": 1e-3},
    "s": {"h": 3600.0, "min": 60.0, "s": 1.0, "ms": 1e-3},
    "°": {"°": 1.0, "deg": 1.0, "rad": 57.29577951308232},
    "EV": {"EV": 1.0, "ev": 1.0, "stops": 1.0, "stop": 1.0},
    "K": {"K": 1.0, "k": 1.0, "kK": 1e3},
    "%": {"%": 1.0},
    "×": {"×": 1.0, "x": 1.0},
    "px": {"px": 1.0},
    "f/": {},
    "stops": {"stops": 1.0, "stop": 1.0, "EV": 1.0, "ev": 1.0},
    "h": {"h": 1.0, "min": 1 / 60},
    "W": {"W": 1.0, "w": 1.0, "kW": 1e3, "mW": 1e-3},
    "lm/W": {"lm/W": 1.0},
    "lm": {"lm": 1.0, "klm": 1e3},
    "cd": {"cd": 1.0, "kcd": 1e3},
    "lx": {"lx": 1.0, "klx": 1e3},
    "cd/m²": {"cd/m²": 1.0, "cd/m2": 1.0, "kcd/m²": 1e3, "kcd/m2": 1e3},
}
"""What may be typed behind a number of a field, and how many of the field's unit it is (SI brochure, 9th edition; inch
and foot as of 1959)."""

PREFIXES: dict[str, str] = {"f/": "f/"}
"""What stands before a number instead."""

FITTING: dict[str, dict[str, float]] = {"m": {"km": 1e3, "m": 0.1, "mm": 1e-4, "µm": 0.0}}
"""The words by which values of a unit are shown, and from how many of that unit on; the largest first."""

FILE_UNITS: dict[str, float] = {"mm": 0.001, "cm": 0.01, "m": 1.0, "km": 1000.0, "in": 0.0254, "ft": 0.3048}
"""Metres of what one of a file's units may be."""
_USUAL = (0.02, 15.0)
"""Longest sides [m] of what is put before a camera like this: a bottle cap to a car with a trailer."""
_GUESSES = {"metres": 1.0, "centimetres": 0.01, "millimetres": 0.001, "kilometres": 1000.0}


def likely_unit(size: float, scale: float = 1.0) -> tuple[str, float] | None:
    """(word, metres) of what a file's units may have been that is `size` [m] long when they are taken as `scale` m.

    None when the size is a usual one, or no unit makes it one.
    """
    if _USUAL[0] <= size <= _USUAL[1]:
        return None
    sizes = ((word, metres, size / scale * metres) for word, metres in _GUESSES.items())
    return next(((word, metres) for word, metres, long in sizes if _USUAL[0] <= long <= _USUAL[1]), None)
