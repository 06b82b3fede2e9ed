"""Meshes of forms: bodies that are known by their measures.

In: a form of a document. Out: a `Mesh` in metres, texture coordinates in metres too. Called by `compile.stock`.

Box, cylinder, ball, plinth and table top are one body: a slab whose outline is a rectangle with round corners and whose
edges are round. A cylinder's corners meet, a ball's edges do as well.
"""

import math
from functools import lru_cache

import numpy as np

from lantern.assets.mesh import Mesh
from lantern.scene.forms import (
    BallForm,
    BoxForm,
    ChartForm,
    CylinderForm,
    Form,
    PlaneForm,
    PlinthForm,
    SweepForm,
    TableTopForm,
)
from lantern.shaping.chart import chart_mesh

QUARTER = 48
"""Straight pieces of a quarter of a circle: its sagitta is a 7,500th of its radius."""


@lru_cache(maxsize=64)
def form_mesh(form: Form) -> Mesh:
    """The mesh of a form; radii larger than there is room for are taken as large as there is."""
    match form:
        case PlaneForm():
            return sheet(
                np.array([[form.depth / 2, 0.0], [-form.depth / 2, 0.0]]), np.array([[0.0, 1.0]] * 2), form.width
            )
        case BoxForm():
            return slab(form.width, form.height, form.depth, corner=form.edge, edge=form.edge)
        case BallForm():
            return slab(2 * form.radius, 2 * form.radius, 2 * form.radius, corner=form.radius, edge=form.radius)
        case CylinderForm():
            return slab(2 * form.radius, form.height, 2 * form.radius, corner=form.radius, edge=form.edge)
        case SweepForm():
            return _sweep(form)
        case PlinthForm():
            corner = form.width / 2 if form.section == "round" else form.edge
            return slab(form.width, form.height, form.width, corner=corner, edge=form.edge, top=0.0)
        case TableTopForm():
            return slab(form.width, form.thickness, form.depth, corner=form.corner, edge=form.edge, top=0.0)
        case ChartForm():
            return chart_mesh(form.width)


def slab(width: float, height: float, depth: float, *, corner: float, edge: float, top: float | None = None) -> Mesh:
    """A body of an outline along X and Z with round corners, and round edges above and below.

    It stands on Y = 0, or reaches up to `top`. Corners are at least as round as edges, where they are round at all.
    """
    edge = min(edge, width / 2, height / 2, depth / 2)
    corner = min(max(corner, edge), width / 2, depth / 2)
    outline, outward = _outline(width, depth, corner)
    bends, lifts = _profile(height, edge)
    # (rings, around, 3): each ring of the profile carried round the outline, normals with it.
    points = np.empty((len(lifts), len(outline), 3))
    inner = outline - outward * edge
    points[:, :, [0, 2]] = inner + outward * (edge * bends[:, :1])[:, None]
    points[:, :, 1] = lifts[:, None]
    normals = np.empty_like(points)
    normals[:, :, [0, 2]] = outward * bends[:, None, :1]
    normals[:, :, 1] = bends[:, 1:]
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(outline, axis=0), axis=1))])
    up = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(np.column_stack([edge * bends[:, 0], lifts]), axis=0).T))])
    uv = np.stack(np.broadcast_arrays(along[None], up[:, None]), axis=-1)
    sides = _grid(len(lifts), len(outline))
    caps = [_cap(inner, 0.0, -1.0), _cap(inner, height, 1.0)]
    pieces = [(points.reshape(-1, 3), normals.reshape(-1, 3), uv.reshape(-1, 2), sides), *caps]
    mesh = _joined(pieces)
    shift = 0.0 if top is None else top - height
    mesh.positions[:, 1] += np.float32(shift)
    return mesh


def _outline(width: float, depth: float, corner: float) -> tuple[np.ndarray, np.ndarray]:
    """(n, 2) points along X and Z of a rectangle with round corners, closed, and unit normals; against the clock when
    seen with Y towards the eye."""
    steps = QUARTER if corner > 0 else 1
    turns = np.concatenate([np.linspace(q, q + 1, steps + 1) for q in range(4)]) * (math.pi / 2)
    signs = np.repeat([[1, -1], [-1, -1], [-1, 1], [1, 1]], steps + 1, axis=0)
    outward = np.column_stack([np.cos(turns), -np.sin(turns)])
    if not corner:  # both sides of a sharp corner
        quarter = np.repeat(np.arange(4), 2) + np.tile([0, 1], 4)
        outward = np.array([[1, 0], [0, -1], [-1, 0], [0, 1], [1, 0]])[quarter].astype(float)
    outward = np.where(np.abs(outward) < 1e-12, 0.0, outward)
    centres = signs * np.array([width / 2 - corner, depth / 2 - corner])
    points = centres + corner * outward
    return np.concatenate([points, points[:1]]), np.concatenate([outward, outward[:1]])


def _profile(height: float, edge: float) -> tuple[np.ndarray, np.ndarray]:
    """((k, 2) normals as outward and up, (k,) heights) from the lower edge to the upper one."""
    if not edge:
        return np.array([[1.0, 0.0]] * 2), np.array([0.0, height])
    turns = np.linspace(-math.pi / 2, 0, QUARTER + 1)
    turns = np.concatenate([turns, -turns[::-1]])
    bends = np.column_stack([np.cos(turns), np.sin(turns)])
    bends = np.where(np.abs(bends) < 1e-12, 0.0, bends)
    middles = np.repeat([edge, height - edge], QUARTER + 1)
    return bends, middles + edge * bends[:, 1]


def _grid(rows: int, columns: int) -> np.ndarray:
    """(m, 3) triangles of a grid of points, outwards when columns run against the clock and rows upwards."""
    i = np.arange(rows - 1)[:, None] * columns + np.arange(columns - 1)
    a, b, c, d = i, i + 1, i + columns + 1, i + columns
    return np.stack([np.stack([a, b, c], -1), np.stack([a, c, d], -1)], 2).reshape(-1, 3)


Piece = tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]


def _cap(outline: np.ndarray, height: float, side: float) -> Piece:
    """A flat end over an outline, as a fan about the middle; `side` is 1 above and -1 below."""
    flat = np.concatenate([[[0.0, 0.0]], outline])
    points = np.column_stack([flat[:, 0], np.full(len(flat), height), flat[:, 1]])
    i = np.arange(1, len(flat) - 1)
    fan = np.stack([np.zeros_like(i), i, i + 1], axis=1)
    normals = np.tile([0.0, side, 0.0], (len(flat), 1))
    return points, normals, flat * [1.0, side], fan if side > 0 else fan[:, ::-1]


def _joined(pieces: list[Piece]) -> Mesh:
    """One mesh of pieces, without triangles of no area."""
    begins = np.cumsum([0, *(len(piece[0]) for piece in pieces)])
    points, normals, uvs = (np.concatenate([piece[i] for piece in pieces]) for i in range(3))
    triangles = np.concatenate([piece[3] + begin for piece, begin in zip(pieces, begins, strict=False)])
    a, b, c = (points[triangles[:, i]] for i in range(3))
    size = max(float(np.ptp(points, axis=0).max()), 1e-30)
    real = np.linalg.norm(np.cross(b - a, c - a), axis=1) > 1e-14 * size * size
    used, numbers = np.unique(triangles[real], return_inverse=True)
    return Mesh(
        np.ascontiguousarray(points[used], np.float32),
        numbers.reshape(-1, 3).astype(np.uint32),
        np.ascontiguousarray(normals[used], np.float32),
        np.ascontiguousarray(uvs[used], np.float32)[None],
        None,
    )


def sheet(profile: np.ndarray, normals: np.ndarray, width: float) -> Mesh:
    """A profile of (k, 2) points along Z and Y, with their normals, carried `width` along X; its front is seen."""
    k = len(profile)
    x = np.repeat([-width / 2, width / 2], k)
    points = np.column_stack([x, np.tile(profile[:, 1], 2), np.tile(profile[:, 0], 2)])
    turned = np.column_stack([np.zeros(2 * k), np.tile(normals[:, 1], 2), np.tile(normals[:, 0], 2)])
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(profile, axis=0), axis=1))])
    uv = np.column_stack([x + width / 2, np.tile(along, 2)])
    i = np.arange(k - 1)
    a, b, c, d = i, i + k, i + k + 1, i + 1
    triangles = np.stack([np.stack([a, b, c], -1), np.stack([a, c, d], -1)], 1).reshape(-1, 3)
    return _joined([(points, turned, uv, triangles)])


def _sweep(form: SweepForm) -> Mesh:
    bend = min(form.bend, form.depth, form.height)
    back, front = -form.depth / 2, form.depth / 2
    turns = np.linspace(-math.pi / 2, -math.pi, 2 * QUARTER + 1)
    arc = np.column_stack([np.cos(turns), np.sin(turns)])
    middle = np.array([back + bend, bend])
    profile = np.concatenate([[[front, 0.0]], middle + bend * arc, [[back, form.height]]])
    normals = np.concatenate([[[0.0, 1.0]], -arc, [[1.0, 0.0]]])
    if not bend:  # floor and wall meet at an edge
        normals = np.array([[0.0, 1.0]] * 2 + [[1.0, 0.0]] * 2)
        profile = np.array([[front, 0.0], [back, 0.0], [back, 0.0], [back, form.height]])
    return sheet(profile, normals, form.width)
