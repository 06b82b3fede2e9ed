"""Environment sampling against brute force; cleaning; the light on open ground."""

import numpy as np
import pytest
from numba import njit
from numpy import float32 as f32
from numpy import uint64 as u64

from lantern.kernel.memory import address
from lantern.kernel.random import path_key, uniform
from lantern.light.environment import (
    clean,
    environment_row,
    open_ground_irradiance,
    sampling_grid,
    stored_pixels,
    turning,
)
from lantern.light.environment_kernels import expect_lookup, radiance_and_pdf, radiance_at, sample_environment


@pytest.fixture(scope="module")
def sky():
    """A dim gradient with one bright small patch, off the grid's edges."""
    pixels = np.linspace(0.1, 0.6, 180, dtype=np.float32)[:, None, None] * np.ones((180, 360, 3), np.float32)
    pixels[41:47, 100:108] = (300.0, 200.0, 100.0)
    return pixels


def blocks(pixels, rotation=0.0, upper_only=False, tilt=0.0, mirrored=False):
    turn = turning(rotation, tilt, mirrored)
    grid = sampling_grid(pixels, upper_only, turn)
    stored, factor = stored_pixels(pixels)
    return environment_row(pixels, grid, turn, 1.0, factor), stored, grid


def addresses(environment, pixels, grid):
    tables = (environment, pixels, grid.row_steps, grid.cell_steps, grid.guides, grid.pdfs, grid.edges)
    return tuple(u64(address(a)) for a in tables)


@njit
def _estimate(environment, pixels, rows, cells, guides, pdfs, edges, count):
    """∫ L max(0, n·ω) dω for n = (0.6, 0.64, 0.48) by the sampler; also worst mismatch of its own pdf."""
    total, worst = 0.0, 0.0
    for i in range(count):
        key = path_key(i, 0, 2)
        d, u, v, pdf = sample_environment(
            environment, rows, cells, guides, pdfs, edges, uniform(key, 0), uniform(key, 1)
        )
        radiance = radiance_at(environment, pixels, u, v)
        total += radiance[0] * max(f32(0.6) * d[0] + f32(0.64) * d[1] + f32(0.48) * d[2], f32(0)) / pdf
        u, v = expect_lookup(environment, pixels, pdfs, d)
        _, again = radiance_and_pdf(environment, pixels, pdfs, u, v)
        if abs(again - pdf) > 1e-3 * pdf:
            worst += 1
    return total / count, worst / count


def brute_force(pixels):
    """The same integral as a sum over bilinear sub-texels with exact solid angles."""
    h, w = pixels.shape[:2]
    k = 4
    v, u = (np.arange(h * k) + 0.5) / (h * k), (np.arange(w * k) + 0.5) / (w * k)
    y, x = v * h - 0.5, u * w - 0.5
    y0, x0 = np.floor(y).astype(int), np.floor(x).astype(int)
    ty, tx = (y - y0)[:, None], (x - x0)[None]
    red = pixels[..., 0].astype(np.float64)

    def at(yy, xx):
        return red[np.clip(yy, 0, h - 1)][:, xx % w]

    light = (at(y0, x0) * (1 - tx) + at(y0, x0 + 1) * tx) * (1 - ty) + (
        at(y0 + 1, x0) * (1 - tx) + at(y0 + 1, x0 + 1) * tx
    ) * ty
    theta, phi = v * np.pi, (u - 0.5) * 2 * np.pi
    d = np.sin(theta)[:, None] * np.sin(phi), np.cos(theta)[:, None], -np.sin(theta)[:, None] * np.cos(phi)
    cosine = np.maximum(0.6 * d[0] + 0.64 * d[1] + 0.48 * d[2], 0)
    edges = np.cos(np.linspace(0, np.pi, h * k + 1))
    return (light * cosine * ((edges[:-1] - edges[1:])[:, None] * 2 * np.pi / (w * k))).sum()


def test_sampling_gives_the_brute_force_integral(sky):
    estimate, mismatch = _estimate(*addresses(*(kept := blocks(sky))), 1 << 19)
    assert estimate == pytest.approx(brute_force(sky), rel=0.01)
    assert mismatch < 0.002, "sampler and lookup must agree on the pdf, but for rounding at cell edges"
    del kept


@njit
def _directions(environment, rows, cells, guides, pdfs, edges, count):
    found = np.empty((count, 3), np.float32)
    for i in range(count):
        key = path_key(i, 0, 4)
        d, _, _, _ = sample_environment(environment, rows, cells, guides, pdfs, edges, uniform(key, 0), uniform(key, 1))
        found[i, 0], found[i, 1], found[i, 2] = d
    return found


@pytest.mark.parametrize("upper_only", [False, True])
def test_sampled_directions_follow_their_density(sky, upper_only):
    """Chi-square over blocks of cells, whose share of all directions is exact: pdf times solid angle."""
    kept = blocks(sky, upper_only=upper_only)
    environment, _, *tables = addresses(*kept)
    grid, count = kept[2], 400_000
    d = _directions(environment, *tables, count).astype(np.float64)
    row = np.minimum((np.arccos(d[:, 1]) / np.pi * grid.rows).astype(int), grid.rows - 1)
    turn = (0.5 + np.arctan2(d[:, 0], -d[:, 2]) / (2 * np.pi)) % 1
    column = np.minimum((turn * grid.columns).astype(int), grid.columns - 1)
    found = np.zeros((grid.rows, grid.columns))
    np.add.at(found, (row, column), 1)
    edges = np.cos(np.linspace(0, np.pi, grid.rows + 1))
    solid_angle = (edges[:-1] - edges[1:])[:, None] * 2 * np.pi / grid.columns
    expected = grid.pdfs.reshape(grid.rows, grid.columns) * solid_angle * count

    def joined(cells):
        return cells.reshape(grid.rows // 4, 4, grid.columns // 8, 8).sum((1, 3))

    found, expected = joined(found), joined(expected)
    used = expected > 20
    freedom = used.sum() - 1
    chi_square = ((found[used] - expected[used]) ** 2 / expected[used]).sum()
    assert used.sum() > 300 and found[~used].sum() < 0.01 * count
    assert chi_square < freedom + 5 * np.sqrt(2 * freedom)


def test_rotation_turns_the_light_counter_clockwise_seen_from_above():
    pixels = np.zeros((64, 128, 3), np.float32)
    pixels[31:33, 63:65] = 1.0  # level, along -Z
    kept = blocks(pixels, rotation=90.0)
    environment, texels, *_, pdfs, _ = addresses(*kept)

    def seen(direction):
        u, v = expect_lookup(environment, texels, pdfs, tuple(f32(x) for x in direction))
        return radiance_and_pdf(environment, texels, pdfs, u, v)[0][0]

    assert seen((-1, 0, 0)) > 0.9
    assert seen((0, 0, -1)) == seen((1, 0, 0)) == 0


def test_pdfs_integrate_to_one(sky):
    for upper_only in (False, True):
        grid = sampling_grid(sky, upper_only)
        edges = np.cos(np.linspace(0, np.pi, grid.rows + 1))
        solid = np.repeat((edges[:-1] - edges[1:]) * 2 * np.pi / grid.columns, grid.columns)
        assert (grid.pdfs * solid).sum() == pytest.approx(1, abs=1e-5)
        lower = grid.pdfs.reshape(grid.rows, -1)[grid.rows // 2 + 1 :]
        assert (lower.max() == 0) == upper_only


def test_a_black_map_can_be_sampled():
    grid = sampling_grid(np.zeros((8, 16, 3), np.float32), upper_only=True)
    assert np.isfinite(grid.pdfs).all() and grid.pdfs.min() > 0


def test_even_light_puts_pi_on_open_ground():
    assert open_ground_irradiance(np.ones((90, 180, 3), np.float32)) == pytest.approx([np.pi] * 3, rel=1e-6)


def test_cleaning_repairs_and_counts():
    pixels = np.ones((4, 8, 3), np.float32)
    pixels[0, 0, 0], pixels[0, 1, 1], pixels[0, 2, 2], pixels[1, 0, 0] = np.nan, np.inf, -np.inf, -2
    repaired, found = clean(pixels)
    assert np.isfinite(repaired).all() and repaired.min() >= 0 and repaired[0, 0, 0] == 0
    assert (found.not_a_number, found.infinite, found.negative) == (1, 2, 1)
    assert len(found.problems()) == 3
    assert clean(np.ones((4, 8, 3), np.float32))[1].problems() == []
