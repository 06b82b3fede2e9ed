"""Each pattern by itself: its range, its seed, its repeats, its edges, and what it is by its definition."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numba import njit
from numpy import float32 as f32

from lantern.pattern.cells import BORDERS, EACH, MIDDLES, cells_pattern
from lantern.pattern.made import knit_pattern, knurl_pattern, leather_pattern
from lantern.pattern.natural import brushed_pattern, marble_pattern, wood_pattern
from lantern.pattern.noise import fractal_noise, gradient_noise, noise_pattern
from lantern.pattern.regular import (
    checks_pattern,
    dots_pattern,
    gradient_pattern,
    smooth_step,
    stripes_pattern,
    tiles_pattern,
)
from lantern.pattern.weave import PLAIN, SATIN, TWILL, warp_is_over, weave_pattern
from lantern.pattern.worn import (
    dents_pattern,
    drops_pattern,
    fingerprints_pattern,
    flakes_pattern,
    scratches_pattern,
    smudges_pattern,
)

H = f32(0.5)


@njit
def _each(kind, x, y, z, seed):
    found = np.empty(len(x), np.float32)
    for i in range(len(x)):
        if kind == 0:
            found[i] = noise_pattern(x[i], y[i], z[i], seed, 4, H, f32(1.0))
        elif kind == 1:
            found[i] = cells_pattern(x[i], y[i], z[i], seed, MIDDLES, f32(1.0))
        elif kind == 2:
            found[i] = cells_pattern(x[i], y[i], z[i], seed, BORDERS, f32(1.0))
        elif kind == 3:
            found[i] = cells_pattern(x[i], y[i], z[i], seed, EACH, f32(1.0))
        elif kind == 4:
            found[i] = wood_pattern(x[i], y[i], z[i], seed, f32(0.3), f32(0.3))
        elif kind == 5:
            found[i] = marble_pattern(x[i], y[i], z[i], seed, f32(1.5), f32(2.0))
        elif kind == 6:
            found[i] = brushed_pattern(x[i], y[i], seed, f32(40.0), 0)
        elif kind == 7:
            found[i] = brushed_pattern(x[i], y[i], seed, f32(40.0), 1)
        elif kind == 8:
            found[i] = tiles_pattern(x[i], y[i], seed, (f32(0.05), f32(0.05), H, f32(0.5)))
        elif kind == 9:
            found[i] = gradient_pattern(x[i], 1)
        elif kind == 10:
            found[i] = checks_pattern(x[i], y[i])
        elif kind == 11:
            found[i] = stripes_pattern(x[i], H, f32(0.1))
        elif kind == 12:
            found[i] = dots_pattern(x[i], y[i], f32(0.3), f32(0.1), 1)
        elif kind == 13:
            found[i] = weave_pattern(x[i], y[i], PLAIN, f32(0.06), f32(0.8))
        elif kind == 14:
            found[i] = weave_pattern(x[i], y[i], TWILL, f32(0.06), f32(0.8))
        elif kind == 15:
            found[i] = weave_pattern(x[i], y[i], SATIN, f32(0.06), f32(0.8))
        elif kind == 18:
            found[i] = scratches_pattern(x[i], y[i], seed, f32(0.05), f32(0.6), f32(1.0))
        elif kind == 19:
            found[i] = smudges_pattern(x[i], y[i], z[i], seed, f32(0.4), f32(0.3))
        elif kind == 20:
            found[i] = fingerprints_pattern(x[i], y[i], seed, f32(0.6), f32(34.0))
        elif kind == 21:
            found[i] = dents_pattern(x[i], y[i], z[i], seed, H, f32(0.8))
        elif kind == 22:
            found[i] = drops_pattern(x[i], y[i], z[i], seed, H, f32(0.8))
        elif kind == 23:
            found[i] = flakes_pattern(x[i], y[i], z[i], seed, f32(1.0))
        elif kind == 24:
            found[i] = leather_pattern(x[i], y[i], z[i], seed, f32(0.35), f32(0.3))
        elif kind == 25:
            found[i] = knurl_pattern(x[i], y[i], 0, f32(0.2))
        elif kind == 26:
            found[i] = knit_pattern(x[i], y[i], f32(0.6), f32(0.1))
        elif kind == 16:
            found[i] = gradient_noise(x[i], y[i], z[i], seed)
        else:
            found[i] = fractal_noise(x[i], y[i], z[i], seed, 5, H)
    return found


NAMES = (
    "noise", "middles", "borders", "each", "wood", "marble", "brushed", "radial", "tiles", "gradient", "checks",
    "stripes", "dots", "plain", "twill", "satin", "raw noise", "fractal", "scratches", "smudges", "fingerprints",
    "dents", "drops", "flakes", "leather", "knurl", "knit",
)  # fmt: skip
PATTERNS = [name for name in NAMES if name not in ("raw noise", "fractal")]
SEEDED = [*NAMES[:9], *NAMES[18:25]]
JUMPING = ("flakes", "drops", "knit", "each", "checks", "wood", "tiles", "satin", "twill", "plain")
"""Whose values may leap from one place to the next."""


def values(name, places, seed=1):
    columns = [np.ascontiguousarray(places[:, i], np.float32) for i in range(3)]
    return _each(NAMES.index(name), *columns, seed)


def scattered(count=20_000, size=40.0, seed=3):
    return np.random.default_rng(seed).uniform(-size, size, (count, 3))


@pytest.mark.parametrize("name", PATTERNS)
def test_values_lie_within_0_and_1_and_use_much_of_it(name):
    found = values(name, scattered())
    assert found.min() >= 0.0 and found.max() <= 1.0
    assert np.ptp(found) > 0.5


@pytest.mark.parametrize("name", SEEDED)
def test_another_seed_is_another_pattern_of_the_same_kind(name):
    places = scattered()
    one, other = values(name, places, 1), values(name, places, 2)
    assert (values(name, places, 1) == one).all()
    assert np.abs(one - other).mean() > 0.01
    assert one.mean() == pytest.approx(other.mean(), abs=0.06)


@pytest.mark.parametrize("name", sorted(set(NAMES) - set(JUMPING)))
def test_neighbouring_places_have_neighbouring_values(name):
    places = scattered(size=8.0)
    step = 1e-3
    for axis in range(3):
        moved = places.copy()
        moved[:, axis] += step
        assert np.abs(values(name, moved) - values(name, places)).max() < 200 * step


@pytest.mark.parametrize(
    ("name", "shift"),
    [("checks", (1, 0)), ("checks", (0, 1)), ("stripes", (1, 0)), ("stripes", (0, 0.37)), ("dots", (1, 0)),
     ("dots", (0, 2)), ("gradient", (2, 0)), ("plain", (1, 1)), ("plain", (2, 0)), ("twill", (4, 0)),
     ("twill", (1, -1)), ("satin", (5, 0)), ("satin", (-2, 1)), ("satin", (0, 5)),
     ("knurl", (1, 0)), ("knurl", (0, 1)), ("knurl", (0.5, 0.5)), ("knit", (1, 0)), ("knit", (0, 1))],
)  # fmt: skip
def test_regular_patterns_repeat(name, shift):
    places = np.floor(scattered(2000, 10.0) * 64) / 64 + 1 / 256
    moved = places + np.array([*shift, 0.0])
    assert values(name, moved) == pytest.approx(values(name, places), abs=2e-4)


def test_gradient_noise_is_0_at_lattice_points_and_its_mean_is_0():
    lattice = np.round(scattered(500))
    assert np.abs(values("raw noise", lattice)).max() == 0.0
    found = values("raw noise", scattered(100_000))
    assert abs(found.mean()) < 0.01 and 0.2 < found.std() < 0.35 and np.abs(found).max() <= 1.0


def test_far_places_have_noise_as_near_ones():
    near, far = values("raw noise", scattered()), values("raw noise", scattered() + 5000.0)
    assert far.std() == pytest.approx(near.std(), rel=0.05)


def test_the_second_octave_is_twice_as_fine():
    """Where two octaves are summed, the sum less the first is the second, of half the size and another seed."""

    @njit
    def both(x, y, z):
        one, two = np.empty(len(x), np.float32), np.empty(len(x), np.float32)
        for i in range(len(x)):
            one[i] = fractal_noise(x[i], y[i], z[i], 1, 1, H)
            two[i] = fractal_noise(x[i], y[i], z[i], 1, 2, H)
        return one, two

    columns = [np.ascontiguousarray(c, np.float32) for c in scattered(50_000).T]
    one, two = both(*columns)
    second = two * 1.5 - one
    assert second.std() == pytest.approx(0.5 * one.std(), rel=0.05)
    assert abs(np.corrcoef(one, second)[0, 1]) < 0.02


@settings(deadline=None, max_examples=60)
@given(st.floats(-50, 50), st.floats(-50, 50), st.floats(-50, 50))
def test_the_middle_of_a_cell_is_found_by_looking_at_many_more_cells(x, y, z):
    """The nearest of the points of 27 cubes is the nearest of all; a regular lattice has it in the middle."""
    place = np.array([[x, y, z]], np.float32)
    distance = np.linalg.norm(place[0] - np.floor(place[0]) - 0.5)

    @njit
    def regular(a, b, c):
        return cells_pattern(a, b, c, 1, MIDDLES, f32(0.0))

    assert regular(*place[0]) == pytest.approx(max(1 - distance, 0.0), abs=1e-5)


def test_half_of_a_plain_cloth_is_warp_and_its_bindings_float_as_the_trade_says():
    def over(binding):
        return np.array([[warp_is_over(c, r, binding) for c in range(20)] for r in range(20)])

    assert over(PLAIN).mean() == 0.5 and over(TWILL).mean() == 0.5 and over(SATIN).mean() == 0.8
    for binding, longest in ((PLAIN, 1), (TWILL, 2), (SATIN, 4)):
        column = "".join("x" if v else " " for v in over(binding)[:, 0])
        assert max(map(len, column.split())) == longest
    satin = ~over(SATIN)
    assert not (satin & np.roll(satin, 1, 0)).any() and not (satin & np.roll(satin, 1, 1)).any(), "no two touch"


def test_lines_run_along_their_length():
    rng = np.random.default_rng(1)
    places = rng.uniform(-5, 5, (5000, 3))
    along, across = places + np.array([0, 0.25, 0]), places + np.array([0.25, 0, 0])
    assert np.abs(values("brushed", along) - values("brushed", places)).mean() < 0.03
    assert np.abs(values("brushed", across) - values("brushed", places)).mean() > 0.08
    angle, radius = rng.uniform(0, 2 * np.pi, 5000), rng.uniform(1, 5, 5000)

    def polar(r, a):
        return np.stack([r * np.cos(a), r * np.sin(a), 0 * r], axis=1)

    here = values("radial", polar(radius, angle))
    assert np.abs(values("radial", polar(radius, angle + 0.25 / radius)) - here).mean() < 0.03
    assert np.abs(values("radial", polar(radius + 0.25, angle)) - here).mean() > 0.08


def test_tiles_have_joints_of_their_width():
    x = np.linspace(0, 40, 400_001, endpoint=False)
    row = np.stack([x, np.full_like(x, 0.5), np.zeros_like(x)], axis=1)
    # Half of the bevel of 0.05 on each side of a joint is below a half.
    assert (values("tiles", row) == 0).mean() == pytest.approx(0.05, abs=2e-3)


def test_scratches_and_drops_and_dents_leave_most_of_a_surface_alone_when_they_are_few():
    @njit
    def few(x, y, z):
        found = np.empty((len(x), 3), np.float32)
        for i in range(len(x)):
            found[i, 0] = scratches_pattern(x[i], y[i], 1, f32(0.01), f32(0.3), f32(1.0))
            found[i, 1] = dents_pattern(x[i], y[i], z[i], 1, f32(0.05), f32(0.5))
            found[i, 2] = drops_pattern(x[i], y[i], z[i], 1, f32(0.05), f32(0.5))
        return found

    columns = [np.ascontiguousarray(c, np.float32) for c in scattered(50_000).T]
    found = few(*columns)
    assert [np.median(found[:, i]) for i in range(3)] == [1.0, 1.0, 0.0]
    # Balls of radii evenly within 0.2 and 0.5 of 0.5, one in twenty cells: 0.05 · 4/3 π mean(r³).
    radii = np.linspace(0.1, 0.5, 10_001)
    assert (found[:, 2] > 0).mean() == pytest.approx(0.05 * 4 / 3 * np.pi * (radii**3).mean(), rel=0.1)


def test_scratches_lie_along_y_when_they_have_no_other_direction():
    @njit
    def straight(x, y):
        found = np.empty(len(x), np.float32)
        for i in range(len(x)):
            found[i] = scratches_pattern(x[i], y[i], 3, f32(0.05), f32(1.0), f32(0.0))
        return found

    places = scattered(50_000, 20.0).astype(np.float32)
    x, y = np.ascontiguousarray(places[:, 0]), np.ascontiguousarray(places[:, 1])
    here = straight(x, y)
    along, across = np.abs(straight(x, y + f32(0.05)) - here).mean(), np.abs(straight(x + f32(0.05), y) - here).mean()
    assert across > 5 * along


def test_a_flake_is_a_plane_that_is_tilted_as_a_whole():
    places = scattered(20_000, 10.0)
    step = 1e-2
    here, one, two = (values("flakes", places + np.array([k * step, 0, 0])) for k in range(3))
    bend = np.abs(two - 2 * one + here)
    assert np.median(bend) < 1e-5, "within a flake the height changes evenly"
    within = bend < 1e-4
    assert np.std((one - here)[within] / step) == pytest.approx(0.5 / 3**0.5, rel=0.1), "directions even over a sphere"


def test_a_knurl_has_pyramids_whose_tops_are_cut():
    rng = np.random.default_rng(1)
    found = values("knurl", rng.uniform(0, 8, (100_000, 3)))
    # The lower of two flanks is above 0.8 on 0.2² of the surface.
    assert (found == 1.0).mean() == pytest.approx(0.04, abs=3e-3)


def test_smooth_step_is_a_half_in_the_middle_and_flat_at_both_ends():
    assert [float(smooth_step(f32(t))) for t in (-1.0, 0.0, 0.5, 1.0, 2.0)] == [0.0, 0.0, 0.5, 1.0, 1.0]
    assert float(smooth_step(f32(1e-3))) < 4e-6
