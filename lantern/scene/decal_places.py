"""Decals when the parts that they lie on are sized, copied, put together, cut apart, or left behind.

In: decals, what becomes of their parts. Out: decals. Called by `standing`, `starts`, `copying`, `strewing` and
`engine.cutting`.
"""

from collections.abc import Collection, Mapping

import numpy as np

from lantern.scene.decals import Decal
from lantern.scene.fields import FAR

LEAST, MOST = 1e-6, 1e4
"""Lengths [m] that the fields of a decal allow."""


def scaled_decal(decal: Decal, ratio: float) -> Decal:
    """The same on a part so many times as large, as far as the fields allow it."""
    lengths = {name: min(max(getattr(decal, name) * ratio, LEAST), MOST) for name in ("width", "depth")}
    raised = min(max(decal.raised * ratio, -0.1), 0.1)
    return decal.model_copy(update={**lengths, "raised": raised, "middle": _place(np.array(decal.middle) * ratio)})


def decals_of(decals: Mapping[str, Decal], became: Mapping[str, str]) -> dict[str, Decal]:
    """Those that such parts carry, each on what has become of the parts that it lies on; it leaves the others."""
    return {
        key: decal.model_copy(update={"parts": tuple(became[part] for part in decal.parts if part in became)})
        for key, decal in decals.items()
        if decal.parts and decal.parts[0] in became
    }


def kept_decals(decals: Mapping[str, Decal], parts: Collection[str]) -> dict[str, Decal]:
    """Those that some parts carry, without others that they lie on."""
    return decals_of(decals, {key: key for key in parts})


def in_other_space(decal: Decal, across: np.ndarray, unit: float, other: float) -> Decal:
    """A decal where it is, said in the space of another part.

    `across` (4, 4) leads from the space of the one that carried it, a unit of which is `unit` m, to that of the other,
    whose unit is `other` m.
    """
    linear = across[:3, :3]
    grown = abs(float(np.linalg.det(linear))) ** (1 / 3) * other / unit
    middle = (linear @ (np.array(decal.middle) / unit) + across[:3, 3]) * other
    # Directions are gradients of planes in the space of a part.
    turned = np.linalg.inv(linear).T
    changes = {
        "middle": _place(middle),
        "facing": _direction(turned @ np.array(decal.facing)),
        "upright": _direction(turned @ np.array(decal.upright)),
    }
    sized = scaled_decal(decal, grown)
    return decal.model_copy(update={**changes, "width": sized.width, "depth": sized.depth})


def _place(point: np.ndarray) -> tuple[float, ...]:
    return tuple(float(f"{min(max(v, -FAR), FAR):.9g}") for v in point.tolist())


def _direction(direction: np.ndarray) -> tuple[float, ...]:
    return tuple((direction / max(float(np.linalg.norm(direction)), 1e-12)).round(6).tolist())
