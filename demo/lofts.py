"""Shapes with rounded rectangles for rings: boxes, trays, bands; and shapes turned about a line."""

import math

import numpy as np

from demo.shapes import Shape, from_grid

ARC, SIDE = 10, 24
"""Points of each corner and, if not said otherwise, each side of a ring."""


def ring(half_width: float, half_depth: float, corner: float, side: int = SIDE) -> np.ndarray:
    """(4 (ARC + side) + 1, 2) points x, z of a rounded rectangle, from the front to the right and round to itself."""
    corner = min(corner, half_width, half_depth)
    points: list[np.ndarray] = []
    a, b = half_width - corner, half_depth - corner
    # Corners in the order front right, back right, back left, front left, each over a quarter of a turn.
    for number, (x, z) in enumerate(((a, b), (a, -b), (-a, -b), (-a, b))):
        angles = (number + np.linspace(0, 1, ARC, endpoint=False)) * math.pi / 2
        points += list(np.stack([x + corner * np.sin(angles), z + corner * np.cos(angles)], 1))
        turn = (number + 1) * math.pi / 2
        end = np.array([x + corner * math.sin(turn), z + corner * math.cos(turn)])
        across = ((a, -b), (-a, -b), (-a, b), (a, b))[number]
        begin = np.array([across[0] + corner * math.sin(turn), across[1] + corner * math.cos(turn)])
        points += [end + (begin - end) * t for t in np.linspace(0, 1, side, endpoint=False)]
    points.append(points[0])
    return np.array(points)


def loft(rows: np.ndarray, half_width: float, half_depth: float, corner: float, side: int = SIDE) -> Shape:
    """Rings (inset, height, share), from below on the outside: so far inside a rectangle, then drawn to its middle."""
    levels = []
    for inset, height, share in rows:
        flat = ring(half_width - inset, half_depth - inset, max(corner - inset, 0.0005), side) * share
        levels.append(np.stack([flat[:, 0], np.full(len(flat), height), flat[:, 1]], 1))
    points = np.array(levels)
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points[0 if rows[0, 2] else -1], axis=0), axis=1))])
    up = np.concatenate([[0.0], np.cumsum(np.abs(np.diff(rows[:, :2], axis=0)).sum(axis=1))])
    # Metres on the surface, so that a pattern has its size everywhere but on floors.
    uvs = np.stack(np.meshgrid(along, up), axis=-1)
    return from_grid(points[::-1], uvs[::-1])


def rows_of(profile: np.ndarray, floor: str, steps: int = 40, pillow: float = 0.0) -> np.ndarray:
    """Rows of a profile (n, 2) of inset and height, with a floor that closes it: "first", "last" or "none"."""
    walls = np.column_stack([profile, np.ones(len(profile))])
    shares = np.linspace(0.0, 1.0, steps, endpoint=False)

    def closing(inset: float, height: float) -> np.ndarray:
        raised = height + pillow * (1 - shares**2)
        return np.column_stack([np.full(steps, inset), raised, shares])

    pieces = [walls]
    if floor == "first":
        pieces.insert(0, closing(*profile[0]))
    if floor == "last":
        pieces.append(closing(*profile[-1])[::-1])
    return np.concatenate(pieces)


def placed(shape: Shape, turn: tuple[float, float, float], shift: tuple[float, float, float]) -> Shape:
    """A shape turned about X, then Y, then Z [degrees] and shifted [m]."""
    (a, d), (b, e), (c, f) = ((math.cos(math.radians(t)), math.sin(math.radians(t))) for t in turn)
    about_x = np.array([[1, 0, 0], [0, a, -d], [0, d, a]])
    about_y = np.array([[b, 0, e], [0, 1, 0], [-e, 0, b]])
    about_z = np.array([[c, -f, 0], [f, c, 0], [0, 0, 1]])
    matrix = about_z @ about_y @ about_x
    positions = shape.positions @ matrix.T + np.array(shift)
    return Shape(positions.astype(np.float32), (shape.normals @ matrix.T).astype(np.float32), shape.uvs, shape.indices)
