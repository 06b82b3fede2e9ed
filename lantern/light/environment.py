"""Environment maps on the host: cleaning, the sampling grid, and the light that falls on open ground.

In: (h, w, 3) float32 linear radiance. Out: what `environment_kernels` reads. Called by `compile.compiled`.
"""

import math
from dataclasses import dataclass

import numpy as np

from lantern.color import LUMINANCE
from lantern.light.environment_kernels import ENVIRONMENT

LARGEST_GRID = (128, 256)
"""Rows and columns of the sampling grid at most: finer gains little and falls out of the cache."""
LARGEST_RADIANCE = 1e6


@dataclass(frozen=True)
class Cleaning:
    """How many pixels of a map had to be repaired, by kind."""

    not_a_number: int
    infinite: int
    negative: int

    def problems(self) -> list[str]:
        """One sentence for each kind that occurred."""
        kinds = [
            (self.not_a_number, "not a number", "set to 0"),
            (self.infinite, "infinite", f"set to {LARGEST_RADIANCE:g}"),
            (self.negative, "negative", "set to 0"),
        ]
        return [f"{count} values were {what} and have been {remedy}" for count, what, remedy in kinds if count]


def clean(pixels: np.ndarray) -> tuple[np.ndarray, Cleaning]:
    """A map without NaN, infinity or negative values, and a count of what was repaired.

    It is the same array where nothing was.
    """
    # What is not a number is neither the least nor the most: one look tells whether anything is to be repaired.
    if pixels.dtype == np.float32 and pixels.size > 0:
        low, high = float(pixels.min()), float(pixels.max())
        if math.isfinite(low) and math.isfinite(high) and low >= 0:
            return pixels, Cleaning(0, 0, 0)
    found = Cleaning(
        int(np.isnan(pixels).sum()), int(np.isinf(pixels).sum()), int((np.nan_to_num(pixels, neginf=0.0) < 0).sum())
    )
    repaired = np.nan_to_num(pixels, nan=0.0, posinf=LARGEST_RADIANCE, neginf=0.0)
    return np.clip(repaired, 0.0, None).astype(np.float32), found


def _cell_edges(size: int, cells: int) -> np.ndarray:
    return (np.arange(cells + 1) * size) // cells


def grid_weights(pixels: np.ndarray) -> np.ndarray:
    """Mean luminance of the map over each cell of the sampling grid, (rows, columns) float64.

    Each texel counts with its brightest neighbour, because bilinear lookup spreads a bright texel over one
    texel more; no cell that can return light has weight 0.
    """
    luminance = pixels @ LUMINANCE.astype(np.float32)
    spread = luminance.copy()
    spread[:-1] = np.maximum(spread[:-1], luminance[1:])
    spread[1:] = np.maximum(spread[1:], luminance[:-1])
    across = spread.copy()
    for shift in (1, -1):
        across = np.maximum(across, np.roll(spread, shift, axis=1))
    rows, columns = (min(have, most) for have, most in zip(luminance.shape, LARGEST_GRID, strict=True))
    row_edges, column_edges = _cell_edges(luminance.shape[0], rows), _cell_edges(luminance.shape[1], columns)
    sums = np.add.reduceat(np.add.reduceat(across.astype(np.float64), row_edges[:-1], 0), column_edges[:-1], 1)
    return sums / np.outer(np.diff(row_edges), np.diff(column_edges))


def _cumulative(weights: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """((n + 1,) float32 cumulative distribution, (n,) uint8 guide) of n ≤ 256 weights, not all 0.

    Guide entry k is the last step that begins at or before k / n.
    """
    n = len(weights)
    steps = np.zeros(n + 1)
    np.cumsum(weights / weights.sum(), out=steps[1:])
    steps = steps.astype(np.float32)
    # Everything from the last possible step on is 1, so that rounding never picks an impossible one.
    steps[np.flatnonzero(weights)[-1] + 1 :] = 1.0
    guide = np.searchsorted(steps[1:], np.arange(n, dtype=np.float32) / np.float32(n), side="right")
    return steps, np.minimum(guide, n - 1).astype(np.uint8)


@dataclass(frozen=True, eq=False)
class SamplingGrid:
    """Blocks that `environment_kernels.sample_environment` reads; `pdfs` is (rows, columns) flattened."""

    rows: int
    columns: int
    row_steps: np.ndarray  # float32
    cell_steps: np.ndarray  # float32
    guides: np.ndarray  # uint8
    pdfs: np.ndarray  # float32, 1/sr
    edges: np.ndarray  # float32


def turning(rotation: float, tilt: float, mirrored: bool) -> np.ndarray:
    """(3, 3) orthogonal, from the world to a map: tilted about its own X axis, turned about +Y, angles in degrees.

    Positive rotation turns the map counter-clockwise seen from above, positive tilt raises what its middle shows.
    """
    s, c = math.sin(math.radians(rotation)), math.cos(math.radians(rotation))
    turned = np.array([[c, 0.0, -s], [0.0, 1.0, 0.0], [s, 0.0, c]])
    s, c = math.sin(math.radians(tilt)), math.cos(math.radians(tilt))
    tilted = np.array([[1.0, 0.0, 0.0], [0.0, c, s], [0.0, -s, c]])
    flipped = np.diag([-1.0 if mirrored else 1.0, 1.0, 1.0])
    return np.asarray(flipped @ tilted @ turned)


def _heights(rows: np.ndarray, columns: int, turn: np.ndarray) -> np.ndarray:
    """World y of the map's directions at zenith angles `rows` [rad] and at the edges of so many columns."""
    phi = (np.arange(columns) / columns - 0.5) * 2 * math.pi
    s, c = np.sin(rows)[:, None], np.cos(rows)[:, None]
    x, y, z = turn[:, 1]
    return np.asarray(x * s * np.sin(phi) + y * c - z * s * np.cos(phi))


def _below_ground(rows: int, columns: int, turn: np.ndarray | None) -> np.ndarray:
    """(rows, columns) cells of a grid that lie wholly below the horizon."""
    if turn is None or abs(turn[1, 1]) > 1 - 1e-12:
        below = np.cos(np.linspace(0.0, math.pi, rows + 1))[:-1] <= 1e-9
        if turn is not None and turn[1, 1] < 0:
            below = below[::-1]
        return np.repeat(below[:, None], columns, 1)
    corners = _heights(np.linspace(0.0, math.pi, rows + 1), columns, turn)
    corners = np.concatenate([corners, corners[:, :1]], axis=1)
    # Between its corners a cell may bulge by less than its own size.
    bulge = (math.pi / rows) ** 2
    return np.asarray(np.max([corners[:-1, :-1], corners[1:, :-1], corners[:-1, 1:], corners[1:, 1:]], axis=0) < -bulge)


def sampling_grid(pixels: np.ndarray, upper_only: bool, turn: np.ndarray | None = None) -> SamplingGrid:
    """The sampling grid of a map; `upper_only` when ground hides what a map, turned so, has below the horizon."""
    weights = grid_weights(pixels)
    rows, columns = weights.shape
    edges = np.cos(np.linspace(0.0, math.pi, rows + 1))
    solid_angle = np.repeat((edges[:-1] - edges[1:]) * (2 * math.pi / columns), columns).reshape(rows, columns)
    power = weights * solid_angle
    if upper_only:
        power[_below_ground(rows, columns, turn)] = 0.0
    if power.sum() <= 0.0:
        power = solid_angle.copy()
    row_steps, row_guide = _cumulative(power.sum(axis=1))
    steps, guides = [], [row_guide]
    for row in power:
        row_cells, guide = _cumulative(row if row.sum() > 0 else np.ones(columns))
        steps.append(row_cells)
        guides.append(guide)
    cell_steps = np.stack(steps)
    # Densities follow the rounded steps, so nothing is biased.
    chance = np.diff(row_steps.astype(np.float64))[:, None] * np.diff(cell_steps.astype(np.float64), axis=1)
    pdfs = (chance / solid_angle).astype(np.float32).ravel()
    return SamplingGrid(
        rows, columns, row_steps, cell_steps.ravel(), np.concatenate(guides), pdfs, edges.astype(np.float32)
    )


def stored_pixels(pixels: np.ndarray) -> tuple[np.ndarray, float]:
    """((h, w, 4) float16, factor) such that half float times factor is the map: half the memory traffic of float32.

    Rounding is 2^-11 of a value; the factor keeps the brightest value within a half float's range.
    """
    factor = max(float(pixels.max()) / 60000.0, 1.0)
    stored = np.zeros((*pixels.shape[:2], 4), np.float16)
    stored[..., :3] = pixels / factor
    return stored, factor


def open_ground_irradiance(pixels: np.ndarray, turn: np.ndarray | None = None) -> np.ndarray:
    """Irradiance (3,) float64 on open level ground under a map, turned so: ∫ L cos θ dω over the upper half."""
    rows, columns = pixels.shape[:2]
    edges = np.linspace(0.0, math.pi, rows + 1)
    if turn is None or abs(turn[1, 1]) > 1 - 1e-12:
        cosines = np.clip(np.cos(edges) * (1.0 if turn is None or turn[1, 1] > 0 else -1.0), 0.0, 1.0)
        # ∫ cos θ dω over a row is π (cos² top - cos² bottom), exact for a row of constant radiance.
        weight = math.pi * np.abs(cosines[:-1] ** 2 - cosines[1:] ** 2)
        return np.asarray(weight @ pixels.mean(axis=1, dtype=np.float64))
    # Texels of a tilted map lie anywhere: the middles of half-texel steps in azimuth stand for them.
    middles = (edges[:-1] + edges[1:]) / 2
    heights = _heights(middles, 2 * columns, turn)[:, 1::2]
    weight = np.maximum(heights, 0.0) * (np.cos(edges[:-1]) - np.cos(edges[1:]))[:, None] * (2 * math.pi / columns)
    return np.asarray(np.einsum("ij,ijc->c", weight, pixels.astype(np.float64)))


def environment_row(
    pixels: np.ndarray, grid: SamplingGrid | None, turn: np.ndarray, intensity: float, stored_factor: float
) -> np.ndarray:
    """The `ENVIRONMENT` row of a map kept by `stored_pixels`; without a grid it cannot be aimed at."""
    row = ENVIRONMENT.zeros(1)
    row["height"], row["width"] = pixels.shape[:2]
    row["rows"], row["columns"] = (grid.rows, grid.columns) if grid else (1, 1)
    row["cell_across"] = 1.0 / (grid.columns if grid else 1)
    row["turn"] = turn.ravel()
    row["intensity"], row["intensity_of_map"] = intensity * stored_factor, intensity
    return row
