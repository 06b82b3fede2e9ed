"""Meshes as far as their motion goes: points, which may be elsewhere at other moments."""

from collections.abc import Sequence
from typing import Protocol

import numpy as np


class Shapes(Protocol):
    """Where the vertices of a deforming mesh are at some moments."""

    @property
    def times(self) -> Sequence[float]: ...

    @property
    def positions(self) -> np.ndarray: ...


class Points(Protocol):
    """A mesh, as far as its size goes."""

    @property
    def positions(self) -> np.ndarray: ...

    @property
    def shapes(self) -> Shapes | None: ...
