"""What is drawn over a pane's picture but is no part of it: outline of the selection, plane of focus, mesh lines,
faults of meshes.

In: the pane's state and a film of its picture. Out: (h, w, 4) uint8, alpha not premultiplied. Kept apart from the
picture, so that its pixels stay what they are.
"""

import math
from dataclasses import replace

import numpy as np
from scipy.ndimage import maximum_filter

from lantern.compile.view import EVEN_SAMPLES, View
from lantern.engine.engine import Engine
from lantern.film.film import FAR_DEPTH, Film
from lantern.motion.focus import focused
from lantern.picture.display import to_display
from lantern.picture.encode import encode_png
from lantern.scene.document import Camera
from lantern.scene.framing import focus_depths, places_in_picture
from server.protocol import frames
from server.protocol.panes import PaneState

OUTLINE = (222, 150, 208)
FOCUS = (92, 214, 190, 150)
FAULT = (255, 96, 64)
HIDDEN_FAULT = 0.3
"""How much of a line that lies behind something is drawn."""
MOST_FAULT_POINTS = 4_000_000
OUTLINE_PIXELS = 1.4
FOCUS_SHARE = 0.006
"""Half the thickness of what counts as the plane of focus, of its distance."""


def _softened(values: np.ndarray) -> np.ndarray:
    """Mean over 3x3 pixels."""
    for axis in (0, 1):
        padded = np.pad(values, [(1, 1) if a == axis else (0, 0) for a in (0, 1)], mode="edge")
        size = values.shape[axis]
        values = np.asarray(sum(padded.take(range(i, i + size), axis) for i in range(3)) / np.float32(3))
    return values


def outline(mask: np.ndarray, pixels: float) -> np.ndarray:
    """(h, w) float32 [0, 1] coverage of a line about `pixels` wide along the edge of a mask.

    A mask has one ray a pixel, so its edge is ragged: it is softened first.
    """
    soft = mask.astype(np.float32)
    rounds = max(round(2 * pixels), 1)
    for _ in range(rounds):
        soft = _softened(soft)
    # The softened edge falls from 1 to 0 over about three times the root of the rounds.
    steepness = 1.6 * math.sqrt(rounds) / pixels
    return np.clip(1.5 - np.abs(soft - np.float32(0.4)) * np.float32(2 * steepness), 0.0, 1.0) * (soft > 0.02)


def _lay_over(drawn: np.ndarray, mask: np.ndarray, pixels: float) -> None:
    """Draw the outline of a mask over what is drawn already; only about the mask, which seldom fills the picture."""
    rows, columns = np.flatnonzero(mask.any(1)), np.flatnonzero(mask.any(0))
    if len(rows) == 0:
        return
    room = math.ceil(4 * pixels) + 2
    about = (
        slice(max(rows[0] - room, 0), rows[-1] + room + 1),
        slice(max(columns[0] - room, 0), columns[-1] + room + 1),
    )
    part = drawn[about]
    line = outline(mask[about], pixels)
    alpha = np.maximum(line, part[..., 3] / np.float32(255))
    share = np.where(alpha > 0, line / np.maximum(alpha, 1e-6), 0)[..., None]
    part[..., :3] = part[..., :3] * (1 - share) + np.array(OUTLINE) * share
    part[..., 3] = alpha * 255


def _draw_lines(drawn: np.ndarray, lines: np.ndarray, camera: Camera, depth: np.ndarray) -> None:
    """Draw world lines (n, 2, 3) as points, fainter where the picture's depth (h, w) hides them."""
    height, width = depth.shape
    ends, deep = places_in_picture(camera, width / height, lines.reshape(-1, 3))
    pixels = ends.reshape(-1, 2, 2) * (width, height)
    lengths = np.nan_to_num(np.abs(pixels[:, 1] - pixels[:, 0]).max(axis=1), nan=0.0)
    seen = (deep.reshape(-1, 2) > 0).all(axis=1)
    steps = np.where(seen, np.ceil(1.5 * np.minimum(lengths, 4 * (width + height))).astype(np.int64) + 1, 0)
    steps //= max(int(steps.sum()) // MOST_FAULT_POINTS, 1)
    owner = np.repeat(np.arange(len(lines)), steps)
    share = (np.arange(len(owner)) - np.repeat(np.cumsum(steps) - steps, steps)) / np.maximum(steps[owner] - 1, 1)
    points = lines[owner, 0] + (lines[owner, 1] - lines[owner, 0]) * share[:, None]
    places, deep = places_in_picture(camera, width / height, points)
    x, y = (places * (width, height)).astype(np.int64).T
    within = (x >= 0) & (x < width) & (y >= 0) & (y < height)
    x, y, deep = x[within], y[within], deep[within]
    # An edge stands between what is near and what is far: the farthest of the pixels around it is what hides it.
    around = maximum_filter(depth, 3)
    strength = np.where(deep < around[y, x] * (1 + FOCUS_SHARE), 1.0, HIDDEN_FAULT)
    alpha = np.zeros((height, width))
    np.maximum.at(alpha, (y, x), strength)
    drawn[alpha > 0, :3], drawn[alpha > 0, 3] = FAULT, alpha[alpha > 0] * 255


class Overlay:
    """Draws once for each state and size of the picture."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._drawn: tuple[int, int] | None = None
        self._empty = True

    def forget(self) -> None:
        """What was drawn shows something else now."""
        self._drawn = None

    def is_due(self, state: PaneState, film: Film, samples: int) -> bool:
        """Whether a drawing of this film, which has so many samples, is wanted and has not been made."""
        if samples == 0 or self._drawn == (film.width, film.height):
            return False
        wanted = state.selected or state.wire or state.focus_plane or state.fault
        return bool(wanted) or not self._empty

    def picture(self, state: PaneState, film: Film, camera: Camera, info: frames.FrameInfo) -> bytes | None:
        """The message of a drawing that belongs to a picture; None when it was made to give way to an edit."""
        drawn = self.draw(state, film, camera)
        return None if drawn is None else frames.pack_frame(replace(info, kind=frames.OVERLAY), encode_png(drawn))

    def draw(self, state: PaneState, film: Film, camera: Camera) -> np.ndarray | None:
        """(h, w, 4) uint8; None when the lines of the mesh were made to give way to an edit."""
        drawn = np.zeros((film.height, film.width, 4), np.uint8)
        if state.focus_plane:
            depth = film.means().depth
            plane = focus_depths(focused(self._engine.shown, camera), film.width, film.height)
            near = np.abs(depth - plane) < FOCUS_SHARE * plane
            drawn[near & (depth < FAR_DEPTH)] = FOCUS
        if state.wire:
            lines = Film(film.width, film.height)
            if not self._engine.trace(lines, EVEN_SAMPLES, view=View(camera, wires=True)):
                return None
            alpha = lines.means().alpha
            color = to_display(lines.radiance() / np.maximum(alpha, 1e-3)[..., None], 0.0, "plain")
            seen = alpha > 0
            drawn[seen, :3], drawn[seen, 3] = color[seen], (alpha[seen] * 255).astype(np.uint8)
        if state.selected:
            numbers = [n for n, key in enumerate(self._engine.compiled.part_keys) if key in state.selected]
            mask = np.isin(film.parts(), numbers)
            _lay_over(drawn, mask, max(OUTLINE_PIXELS * film.width / max(state.width, 1), 0.6))
        if state.fault is not None:
            _draw_lines(drawn, self._engine.compiled.fault_lines(state.fault), camera, film.means().depth)
        self._drawn = (film.width, film.height)
        self._empty = not drawn.any()
        return drawn
