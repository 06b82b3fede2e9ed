"""Clusters of triangles, each with its share of the local lights' light, and the places where that is probed.

In: parts, how many triangles their meshes have, where the ground is. Out: numbers of clusters and sites. Called by
`compile.geometry`.
"""

from dataclasses import dataclass

import numpy as np

MOST_CLUSTERS, SITES_A_CLUSTER, GROUND_SITES, MOST_PROBED_PARTS = 1024, 4, 256, 2048
GROUND_REACH = 3.0
"""Ground is probed over a disk of so many times the radius of what stands on it."""
_SEED = 5


@dataclass(frozen=True, eq=False)
class ProbeSites:
    """Where light is probed: on triangles of parts, then on the ground."""

    part: np.ndarray  # (n,) int, -1 for the ground
    copy: np.ndarray  # (n,) int, which one of a part that is strewn
    primitive: np.ndarray  # (n,) int
    place: np.ndarray  # (n, 3) barycentrics u, v and nothing; on the ground m
    cluster: np.ndarray  # (n,) int, of no meaning on the ground
    clusters: int


@dataclass(frozen=True, eq=False)
class Clusters:
    """How the triangles of each part are divided: a cluster is 2^shift triangles in the order of the mesh."""

    first: np.ndarray  # (parts,) int, cluster that a part begins with
    shift: np.ndarray  # (parts,) int
    triangles: np.ndarray  # (parts,) int
    count: int


def clusters_of(triangles: np.ndarray) -> Clusters:
    """About MOST_CLUSTERS in all for parts of (parts,) int triangles, at least one each."""
    most = max(MOST_CLUSTERS // max(len(triangles), 1), 1)
    last = np.maximum(triangles, 1) - 1
    shift = np.zeros(len(triangles), np.int64)
    while (large := last >> shift >= most).any():
        shift[large] += 1
    counts = (last >> shift) + 1
    return Clusters(np.cumsum(counts) - counts, shift, last + 1, int(counts.sum()))


def probe_sites(
    clusters: Clusters, parts: np.ndarray, copies: np.ndarray, low: np.ndarray, high: np.ndarray, ground_height: float
) -> ProbeSites:
    """Sites on every cluster of `parts` (k,) int, and on the ground around the box from `low` to `high` [m].

    Of all parts there are `copies` (parts,) int, at least one of those that are probed; what is found on some of them
    holds for all. An infinite box stands on no ground.
    """
    generator = np.random.default_rng(_SEED)
    parts = parts[:MOST_PROBED_PARTS]
    counts = (((clusters.triangles[parts] - 1) >> clusters.shift[parts]) + 1) * SITES_A_CLUSTER
    part = np.repeat(parts, counts)
    within = np.arange(len(part)) - np.repeat(np.cumsum(counts) - counts, counts)
    begin = (within // SITES_A_CLUSTER) << clusters.shift[part]
    size = np.minimum(1 << clusters.shift[part], clusters.triangles[part] - begin)
    primitive = begin + (generator.random(len(part)) * size).astype(int)
    root, v = np.sqrt(generator.random(len(part))), generator.random(len(part))
    on_parts = np.stack([root - root * v, root * v, np.zeros(len(part))], axis=1)
    copy = (generator.random(len(part)) * copies[part]).astype(int)
    on_ground = _ground_places(low, high, ground_height, generator)
    nowhere = np.full(len(on_ground), -1)
    return ProbeSites(
        np.concatenate([part, nowhere]),
        np.concatenate([copy, nowhere]),
        np.concatenate([primitive, nowhere]),
        np.concatenate([on_parts, on_ground]),
        np.concatenate([clusters.first[part] + (primitive >> clusters.shift[part]), nowhere]),
        clusters.count,
    )


def _ground_places(low: np.ndarray, high: np.ndarray, height: float, generator: np.random.Generator) -> np.ndarray:
    """(n, 3) places [m] on the ground around what stands on it."""
    if not np.isfinite(low).all():
        return np.zeros((0, 3))
    radius = GROUND_REACH * float(np.linalg.norm((high - low)[[0, 2]])) / 2
    r, turn = radius * np.sqrt(generator.random(GROUND_SITES)), generator.random(GROUND_SITES) * 2 * np.pi
    x, z = ((low + high) / 2)[[0, 2]]
    return np.stack([x + r * np.cos(turn), np.full(GROUND_SITES, height), z + r * np.sin(turn)], axis=1)
