"""A part strewn over a surface: where its copies stand, how they lie and how large each is.

In: the part that is strewn and where it stands, the surface and where that is, what the document wants. Out: the poses
of the copies. Called by `compile.strewn`.

Each copy draws its numbers from its own place in rows of random numbers: with a greater density those that were there
stay, and more come. What is kept apart is the first that came (dart throwing: Cook, "Stochastic Sampling in Computer
Graphics", ACM TOG 5(1), 1986).
"""

import math
from dataclasses import dataclass, replace

import numpy as np
from scipy.spatial import cKDTree
from scipy.spatial.transform import Rotation

from lantern.assets.textures import Texture
from lantern.scene.scatter import Scatter
from lantern.shaping.displacing import sampled

MOST_COPIES = 2_000_000
_UP = np.array([0.0, 1.0, 0.0])
_PLACE, _SIZE, _TURN, _TILT, _MASK = range(5)
"""Rows of random numbers, told apart so that none depends on how another is used."""


@dataclass(frozen=True, eq=False)
class Ground:
    """What is strewn over, at the moment that the shutter opens: (n, 3) positions and normals in its own space, (m, 3)
    indices, (n, 2) coordinates of the mask, and poses (steps, 3, 4) to the scene [m]."""

    positions: np.ndarray
    normals: np.ndarray
    indices: np.ndarray
    uvs: np.ndarray | None
    poses: np.ndarray


@dataclass(frozen=True, eq=False)
class Lying:
    """How copies lie on a surface: (n, 3) places [m], (n, 3, 3) turns, (n,) sizes [-]; whether more were asked for."""

    places: np.ndarray
    turns: np.ndarray
    sizes: np.ndarray
    is_capped: bool = False

    def __len__(self) -> int:
        return len(self.places)


def lying(ground: Ground, scatter: Scatter, texture: Texture | None = None) -> Lying:
    """How the copies of a part lie on a surface; `texture` is the image of the mask."""
    corners, normals = _in_scene(ground)
    crossed = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    sums = np.cumsum(np.linalg.norm(crossed, axis=1) / 2)
    area = float(sums[-1]) if len(sums) else 0.0
    # So many are tried, whatever mask, slope and distance leave of them.
    wanted = area * scatter.density
    count = int(min(round(wanted), MOST_COPIES))
    if not count:
        return Lying(np.zeros((0, 3)), np.zeros((0, 3, 3)), np.zeros(0))
    random = _numbers(scatter.seed, _PLACE, count, 3)
    # Past the last triangle lies nothing: rounding may not lead there.
    triangles = np.minimum(np.searchsorted(sums, random[:, 0] * area, side="right"), len(sums) - 1)
    root = np.sqrt(random[:, 1:2])
    weights = np.concatenate([1 - root, root * (1 - random[:, 2:]), root * random[:, 2:]], axis=1)
    places = np.einsum("nk,nkj->nj", weights, corners[triangles])
    along = _unit(np.einsum("nk,nkj->nj", weights, normals[ground.indices[triangles]]), crossed[triangles])
    kept = np.ones(count, bool)
    if scatter.steepest is not None:
        kept &= along[:, 1] >= math.cos(math.radians(scatter.steepest))
    if scatter.mask is not None and texture is not None and ground.uvs is not None:
        uvs = np.einsum("nk,nkj->nj", weights, ground.uvs[ground.indices[triangles]])
        chance = sampled(texture, scatter.mask, uvs).mean(axis=1)
        kept &= _numbers(scatter.seed, _MASK, count, 1)[:, 0] < chance
    numbers = np.flatnonzero(kept)
    if scatter.apart is not None:
        numbers = numbers[far_apart(places[numbers], scatter.apart)]
    laid = _laid(places[numbers], along[numbers], numbers, count, scatter)
    return replace(laid, is_capped=wanted > MOST_COPIES)


def _laid(places: np.ndarray, along: np.ndarray, numbers: np.ndarray, count: int, scatter: Scatter) -> Lying:
    """Copies with some numbers among `count` at their places, upright along (n, 3)."""

    def row(which: int, width: int) -> np.ndarray:
        return _numbers(scatter.seed, which, count, width)[numbers]

    up = _unit(along + (_UP - along) * scatter.upright, along)
    turns = row(_TURN, 1)[:, 0] * 2 - 1
    rotations = _from_up(up) * Rotation.from_rotvec(_UP * (np.radians(scatter.turn) * turns)[:, None])
    if scatter.tilt > 0:
        tilts = row(_TILT, 2)
        towards = 2 * np.pi * tilts[:, 0]
        axes = np.stack([np.cos(towards), np.zeros(len(towards)), np.sin(towards)], axis=1)
        rotations = rotations * Rotation.from_rotvec(axes * (np.radians(scatter.tilt) * tilts[:, 1])[:, None])
    sizes = 1 + scatter.spread * (2 * row(_SIZE, 1)[:, 0] - 1)
    return Lying(places + scatter.lift * up, rotations.as_matrix().reshape(-1, 3, 3), sizes)


def poses_of(copies: Lying, foot: np.ndarray, pose: np.ndarray, carried_by: np.ndarray) -> np.ndarray:
    """(n, steps, 3, 4) poses of copies of a part that stands at `pose` (3, 4), its foot at `foot` (3,) [m].

    They go where the surface goes, whose poses (steps, 3, 4) from shutter open to close are `carried_by`.
    """
    linear = copies.turns @ pose[:, :3] * copies.sizes[:, None, None]
    shift = copies.places + (copies.turns @ (pose[:, 3] - foot)) * copies.sizes[:, None]
    first = np.concatenate([linear, shift[:, :, None]], axis=2)
    if len(carried_by) == 1:
        return np.asarray(first[:, None])
    whole = np.zeros((len(carried_by), 4, 4))
    whole[:, :3], whole[:, 3, 3] = carried_by, 1
    # A surface that was flattened has no way back: what lies on it stays.
    ways = whole @ np.linalg.pinv(whole[0])
    poses = ways[None, :, :3, :3] @ first[:, None]
    poses[..., 3] += ways[None, :, :3, 3]
    return np.asarray(poses)


def far_apart(places: np.ndarray, distance: float) -> np.ndarray:
    """Numbers of the places (n, 3) that are kept, each in its turn, when no two may be nearer than a distance [m]."""
    kept = np.zeros(0, np.int64)
    begin, step = 0, 4096
    while begin < len(places):
        batch = np.arange(begin, min(begin + step, len(places)))
        begin += step
        if len(kept):
            found, _ = cKDTree(places[kept]).query(places[batch], distance_upper_bound=distance)
            batch = batch[np.isinf(found)]
        kept = np.concatenate([kept, batch[_first_of_near(places[batch], distance)]])
        # As many as there is room for at once: the trees stay few, the pairs of a batch few as well.
        step = max(4096, len(kept))
    return kept


def _first_of_near(places: np.ndarray, distance: float) -> np.ndarray:
    """As `far_apart` of a few places, but all at once: a place is kept when no earlier one that is kept is near."""
    pairs = cKDTree(places).query_pairs(distance, output_type="ndarray")
    earlier, later = pairs.min(axis=1), pairs.max(axis=1)
    open_, kept = np.ones(len(places), bool), np.zeros(len(places), bool)
    while open_.any():
        waits = np.zeros(len(places), bool)
        waits[later[open_[earlier] & open_[later]]] = True
        sure = open_ & ~waits
        kept |= sure
        open_ &= ~sure
        open_[later[sure[earlier]]] = False
    return np.flatnonzero(kept)


def _in_scene(ground: Ground) -> tuple[np.ndarray, np.ndarray]:
    """(corners (m, 3, 3), vertex normals (n, 3)) of a surface in the scene as the shutter opens."""
    linear, shift = ground.poses[0][:, :3], ground.poses[0][:, 3]
    points = ground.positions.astype(np.float64) @ linear.T + shift
    # Cofactors are the inverse transpose times the determinant, whose sign would turn the outside in.
    cofactors = np.cross(linear[[1, 2, 0]], linear[[2, 0, 1]]) * (1 if np.linalg.det(linear) >= 0 else -1)
    return points[ground.indices], ground.normals.astype(np.float64) @ cofactors.T


def _unit(vectors: np.ndarray, otherwise: np.ndarray) -> np.ndarray:
    """Vectors of length 1; where one has none, that of the other."""
    length = np.linalg.norm(vectors, axis=1, keepdims=True)
    other = otherwise / np.maximum(np.linalg.norm(otherwise, axis=1, keepdims=True), 1e-300)
    return np.asarray(np.where(length > 1e-12, vectors / np.maximum(length, 1e-300), other))


def _from_up(up: np.ndarray) -> Rotation:
    """The shortest turns from +Y to unit vectors (n, 3)."""
    half = np.column_stack([up[:, 2], np.zeros(len(up)), -up[:, 0], 1 + up[:, 1]])
    half[half[:, 3] < 1e-9] = [1.0, 0.0, 0.0, 0.0]  # straight down: half a turn about X
    return Rotation.from_quat(half)


def _numbers(seed: int, row: int, count: int, width: int) -> np.ndarray:
    """(count, width) random numbers in [0, 1) of a row, of which fewer are the first ones."""
    return np.random.default_rng([seed, row]).random((count, width))
