"""Three invented light distributions as IES files (ANSI/IES LM-63-2002, photometry of type C)."""

import math
from collections.abc import Callable
from pathlib import Path

Candela = Callable[[float, float], float]
"""cd at a vertical angle from the axis and a horizontal one, both in radians."""


def _narrow(v: float, h: float) -> float:
    """A reflector with a bright core and a faint rim."""
    if v > math.radians(80):
        return 0.0
    return 2400 * math.exp(-((v / math.radians(14)) ** 2)) + 120 * math.cos(v) ** 2


def _batwing(v: float, h: float) -> float:
    """Most light at 40° to all sides, for an even table."""
    return 260 * max(math.cos(v), 0.0) * (0.35 + 1.65 * math.sin(1.5 * min(v, math.pi / 3)) ** 4)


def _washer(v: float, h: float) -> float:
    """Thrown to one side, up a wall."""
    side = 0.5 + 0.5 * math.cos(h)
    return 1500 * side**3 * math.exp(-(((v - math.radians(38)) / math.radians(20)) ** 2)) + 40 * max(math.cos(v), 0.0)


PROFILES: dict[str, tuple[str, Candela]] = {
    "narrow-reflector": ("Narrow reflector", _narrow),
    "batwing": ("Batwing", _batwing),
    "wall-washer": ("Wall washer", _washer),
}
"""File name without its ending: (name, distribution)."""


def write_profile(key: str, path: Path) -> None:
    """Write one of PROFILES, every 2.5° down and every 15° around."""
    name, candela = PROFILES[key]
    verticals, horizontals = [2.5 * i for i in range(73)], [15.0 * i for i in range(25)]
    lines = [
        "IESNA:LM-63-2002", f"[TEST] {name}, made from a formula", "[MANUFAC] none", "TILT=NONE",
        f"1 -1 1 {len(verticals)} {len(horizontals)} 1 2 0 0 0", "1 1 0",
        " ".join(f"{v:g}" for v in verticals), " ".join(f"{h:g}" for h in horizontals),
    ]  # fmt: skip
    for h in horizontals:
        lines.append(" ".join(f"{candela(math.radians(v), math.radians(h)):.2f}" for v in verticals))
    path.write_text("\n".join(lines) + "\n", encoding="ascii")
