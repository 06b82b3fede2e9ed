"""Matching a camera to a photograph by two vanishing points.

In: lines drawn along two horizontal directions of the photograph that are square to one another, and where the asset is
to stand in it. Out: a camera. Called by the render host.

Lines that are parallel in the world meet in the picture in the point that shows their direction. Of two directions
square to one another, seen by a lens whose axis passes the middle of the frame, the points v and w [in focal lengths'
unit] satisfy v · w + f² = 0, which is the focal length; the directions then are the camera's turn (Caprile & Torre,
"Using Vanishing Points for Camera Calibration", International Journal of Computer Vision 4, 1990, section 3).
"""

import math
from collections.abc import Sequence

import numpy as np

from lantern.scene.document import Camera
from lantern.scene.framing import picture_axes, point_at_depth

Line = tuple[float, float, float, float]
"""From (x, y) to (x, y), in shares of the picture's width and height from its upper left."""
SHORTEST, LONGEST = 4.0, 2000.0
"""Focal lengths [mm] that a document takes."""
_PARALLEL = 1e-4
_LEAST_LENGTH = 1e-3
_ONE_LINE = 0.005
"""Half widths and radians: two lines no further apart are drawn along one edge, as well as a hand can."""
LEAST_AWAY = 1e-3
"""m: of a camera that stands in what it looks at."""


def matched(
    camera: Camera,
    shape: float,
    along: Sequence[Line],
    across: Sequence[Line],
    foot: tuple[float, float],
    stand: np.ndarray,
) -> Camera:
    """The camera turned, and its lens chosen, so that lines `along` (+Z or -Z) and `across` (+X or -X) meet as drawn.

    `shape` is width over height of the picture. The point `stand` [m] of the scene is brought to `foot`, as far
    away as it is. Where the lines of one direction are parallel in the picture the lens stays. Shift,
    distortion and motion of the camera end. Raises ValueError where no lens sees a right angle so.
    """
    first, second = (_meeting(lines, shape, name) for lines, name in ((along, "first"), (across, "second")))
    half = camera.sensor_width / 2
    focal = _focal(first, second, camera.focal_length / half)
    if not SHORTEST <= focal * half <= LONGEST:
        raise ValueError(
            f"these lines ask for a lens of {focal * half:.3g} mm; draw them longer, or nearer to each other"
        )
    z, x = _direction(first, focal), _direction(second, focal)
    z = _unit(z - x * float(z @ x))
    backwards, roll = _turned(camera, x, z)
    return _placed(camera, shape, backwards, roll, focal * half, foot, stand)


def _meeting(lines: Sequence[Line], shape: float, name: str) -> np.ndarray:
    """(3,) homogeneous point in which two lines meet, in half widths from the middle of the frame, y up."""
    found = []
    for line in lines:
        (x0, y0), (x1, y1) = ((2 * x - 1, (1 - 2 * y) / shape) for x, y in (line[:2], line[2:]))
        if math.hypot(x1 - x0, y1 - y0) < _LEAST_LENGTH:
            raise ValueError(f"a line of the {name} direction has no length; draw it along an edge")
        edge = np.cross([x0, y0, 1.0], [x1, y1, 1.0])
        found.append(edge / math.hypot(edge[0], edge[1]))
    point = np.cross(found[0], found[1])
    if np.abs(point).max() < _ONE_LINE:
        raise ValueError(f"both lines of the {name} direction are one; draw them along two edges")
    return point / np.abs(point).max()


def _is_far(point: np.ndarray) -> bool:
    return abs(float(point[2])) < _PARALLEL * math.hypot(point[0], point[1])


def _focal(first: np.ndarray, second: np.ndarray, present: float) -> float:
    """Focal length in half widths."""
    if _is_far(first) or _is_far(second):
        return present
    v, w = first[:2] / first[2], second[:2] / second[2]
    square = -float(v @ w)
    if square <= 0:
        raise ValueError("no lens sees a right angle so: the two directions must meet on different sides of the middle")
    return math.sqrt(square)


def _direction(point: np.ndarray, focal: float) -> np.ndarray:
    """Unit (right, up, backwards) in the camera's space of what meets in a point."""
    return _unit(np.array([point[0], point[1], -focal * point[2]]))


def _unit(vector: np.ndarray) -> np.ndarray:
    return np.asarray(vector / np.linalg.norm(vector))


def _turned(camera: Camera, x: np.ndarray, z: np.ndarray) -> tuple[np.ndarray, float]:
    """(unit backwards in the world, roll [°]) of a camera that sees the world's axes x and z so, either way round.

    The way is taken that leaves what is up above, and the camera as near as may be to where it looks from now.
    """
    before = _unit(np.subtract(camera.position, camera.target))
    found: list[tuple[float, np.ndarray, float]] = []
    for sign_x, sign_z in ((1, 1), (1, -1), (-1, 1), (-1, -1)):
        right_up_back = np.stack([x * sign_x, np.cross(z * sign_z, x * sign_x), z * sign_z], axis=1)
        right, up, backwards = right_up_back
        if up[1] <= 0:
            continue
        level_right, level_up = picture_axes(backwards)
        roll = math.degrees(math.atan2(-float(right @ level_up), float(right @ level_right)))
        found.append((float(backwards @ before), backwards, roll))
    if not found:
        raise ValueError("the lines are seen from straight above or below: draw them on something that stands")
    _, backwards, roll = max(found, key=lambda one: one[0])
    return backwards, roll


def _placed(
    camera: Camera,
    shape: float,
    backwards: np.ndarray,
    roll: float,
    focal: float,
    foot: tuple[float, float],
    stand: np.ndarray,
) -> Camera:
    reach = math.dist(camera.position, camera.target)
    away = max(float(np.linalg.norm(np.subtract(camera.position, stand))), LEAST_AWAY)

    def at(position: np.ndarray) -> Camera:
        return camera.model_copy(
            update={
                "position": _numbers(position), "target": _numbers(position - backwards * reach),
                "projection": "perspective", "roll": round(roll, 4), "focal_length": round(focal, 4),
                "shift_x": 0.0, "shift_y": 0.0, "distortion": 0.0, "keys": (),
            }
        )  # fmt: skip

    before = stand + backwards * away
    return at(before + stand - np.array(point_at_depth(at(before), shape, *foot, away)))


def _numbers(vector: np.ndarray) -> tuple[float, float, float]:
    x, y, z = (float(v) for v in vector.round(6))
    return x, y, z
