"""Turns: the axis that is up, by right angles, and three angles about the axes of the scene."""

import math
from collections.abc import Sequence
from typing import Literal

import numpy as np

Axis = Literal["+x", "-x", "+y", "-y", "+z", "-z"]
UPRIGHT: dict[str, tuple[tuple[int, int, int], ...]] = {
    "+y": ((1, 0, 0), (0, 1, 0), (0, 0, 1)),
    "-y": ((1, 0, 0), (0, -1, 0), (0, 0, -1)),
    "+z": ((1, 0, 0), (0, 0, 1), (0, -1, 0)),
    "-z": ((1, 0, 0), (0, 0, -1), (0, 1, 0)),
    "+x": ((0, -1, 0), (1, 0, 0), (0, 0, 1)),
    "-x": ((0, 1, 0), (-1, 0, 0), (0, 0, 1)),
}
"""Rows of the turn that brings an axis to +Y, without rounding."""


def turn_matrix(x: float, y: float, z: float) -> np.ndarray:
    """(3, 3) turns about the axes of the scene [degrees], X first, Z last."""
    (a, b, c), (d, e, f) = ([fn(math.radians(angle)) for angle in (x, y, z)] for fn in (math.cos, math.sin))
    about_x = np.array([[1, 0, 0], [0, a, -d], [0, d, a]])
    about_y = np.array([[b, 0, e], [0, 1, 0], [-e, 0, b]])
    about_z = np.array([[c, -f, 0], [f, c, 0], [0, 0, 1]])
    return np.asarray(about_z @ about_y @ about_x)


def turns_of(matrix: np.ndarray) -> tuple[float, float, float]:
    """Angles [degrees] about X, Y and Z of a rotation (3, 3), as `turn_matrix` takes them."""
    sine = -float(matrix[2, 0])
    if abs(sine) > 1 - 1e-12:  # X and Z turn about the same axis: all of it is given to Z
        return 0.0, math.copysign(90.0, sine), math.degrees(math.atan2(-matrix[0, 1], matrix[1, 1]))
    x, z = math.atan2(matrix[2, 1], matrix[2, 2]), math.atan2(matrix[1, 0], matrix[0, 0])
    return math.degrees(x), math.degrees(math.asin(sine)), math.degrees(z)


def mirror_matrix(axis: str) -> np.ndarray:
    """(3, 3) that mirrors along an axis; "none" does not."""
    signs: Sequence[float] = [-1.0 if each == axis else 1.0 for each in "xyz"]
    return np.diag(signs)
