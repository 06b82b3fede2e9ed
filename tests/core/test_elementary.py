"""The polynomials stay within the error bounds that their docstrings state."""

from pathlib import Path

import numpy as np
import pytest
from numba import njit

from lantern.kernel import cache, points
from lantern.kernel.elementary import arccos, arctan2, sincos_turn
from lantern.kernel.random import path_key, uniform
from lantern.pattern.images import srgb_to_linear
from lantern.picture.look import bright, grain


def test_arctan2_is_within_its_bound_in_every_quadrant():
    angles = np.linspace(-np.pi, np.pi, 20001)[1:-1]
    x, y = np.cos(angles).astype(np.float32), np.sin(angles).astype(np.float32)
    found = np.array([arctan2(b, a) for a, b in zip(x, y, strict=True)])
    assert np.abs(found - angles).max() < 4e-6
    assert arctan2(np.float32(0), np.float32(0)) == 0


def test_arccos_is_within_its_bound_and_clamps():
    x = np.linspace(-1, 1, 20001).astype(np.float32)
    found = np.array([arccos(v) for v in x])
    assert np.abs(found - np.arccos(x.astype(np.float64))).max() < 1e-6
    assert arccos(np.float32(1.5)) == 0


def test_sincos_is_within_its_bound():
    u = np.linspace(-1, 2, 30001).astype(np.float32)
    found = np.array([sincos_turn(v) for v in u])
    angle = 2 * np.pi * u.astype(np.float64)
    assert np.abs(found - np.stack([np.sin(angle), np.cos(angle)], 1)).max() < 4e-7


def test_srgb_decoding_follows_the_standard():
    encoded = np.linspace(0, 1, 4097)
    exact = np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)
    found = np.array([srgb_to_linear(np.float32(v)) for v in encoded])
    assert np.abs(found[1:] / exact[1:] - 1).max() < 5e-5


@njit
def _draw(count, dimension):
    out = np.empty(count, np.float32)
    for i in range(count):
        out[i] = uniform(path_key(i, 3, 1), dimension)
    return out


@pytest.mark.parametrize("dimension", [0, 1, 7, 100])
def test_random_numbers_are_uniform_and_independent_over_pixels(dimension):
    drawn = _draw(1 << 16, dimension)
    counts = np.histogram(drawn, 64, (0, 1))[0]
    chi_square = ((counts - 1024) ** 2 / 1024).sum()
    assert drawn.min() >= 0 and drawn.max() < 1
    assert chi_square < 63 + 6 * np.sqrt(2 * 63)
    assert abs(np.corrcoef(drawn[:-1], drawn[1:])[0, 1]) < 6 / 256
    other = _draw(1 << 16, dimension + 1)
    assert abs(np.corrcoef(drawn, other)[0, 1]) < 6 / 256


def test_every_room_with_compiled_code_counts_for_what_is_kept_compiled():
    """A kernel that was compiled before another room's tables changed would read them wrongly."""
    root = Path(cache.__file__).parent.parent
    compiled = [path.relative_to(root) for path in root.rglob("*.py") if "numba import" in path.read_text()]
    counted = {*cache.TRACING, *cache.FINISHING}
    assert {room for path in compiled for room in counted if path.is_relative_to(room)} == counted
    assert all(any(path.is_relative_to(room) for room in counted) for path in compiled)


def test_kernels_of_the_look_are_kept_apart_from_those_that_trace():
    """An edit of an effect must not have the big kernels compiled anew, which takes minutes."""
    assert cache.folder() != cache.folder(cache.FINISHING)
    places = {Path(f.stats.cache_path).parent for f in (grain._add, bright.take_bright)}
    assert places == {cache.folder(cache.FINISHING)}
    assert Path(points._fill_points.stats.cache_path).parent == cache.folder()
