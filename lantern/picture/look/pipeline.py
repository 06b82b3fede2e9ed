"""The look, from first to last: one way for the proof at any scale, the loupe, small pictures and the print.

In: scene-linear light, the look, what is around. Out: display values. Called by `develop`. The lens works on the whole
frame; all that follows goes strip by strip, so that what is made on the way of a large picture stays small.
"""

from typing import Any

import numpy as np

from lantern.picture.display import HDR, Transform, display_bytes, display_values, prepare_display
from lantern.picture.look.border import draw_border
from lantern.picture.look.grade import Grade, is_graded
from lantern.picture.look.grain import add_grain
from lantern.picture.look.grid import resized
from lantern.picture.look.masks import masks_of, mattes
from lantern.picture.look.optics import drawn
from lantern.picture.look.scatter import scattered
from lantern.picture.look.shafts import with_shafts
from lantern.picture.look.sharpening import rows_around, sharpen
from lantern.picture.look.surround import Surround
from lantern.picture.look.table import apply_table
from lantern.picture.look.vignette import vignette_gain
from lantern.picture.strips import in_strips
from lantern.picture.white import white_matrix
from lantern.scene.look import FINISH, LENS, Look, effect_of

_WHOLE = (*(name for name in LENS if name != "vignette"), "shafts")
"""What needs all of the frame at once."""


def depends_on_place(look: Look, around: Surround) -> bool:
    """Whether a pixel of the picture depends on where it is, or on others."""
    if around.cover is not None:
        return True
    places = any(one.strength > 0 for one in look.locals.values())
    return places or any(effect_of(look, name).strength > 0 for name in (*LENS, "shafts", *FINISH))


class Finisher:
    """Finishes pictures, and remembers what the lens made of the last one: the grade is tried on it again and again."""

    def __init__(self) -> None:
        self._known: tuple[np.ndarray, Any, np.ndarray] | None = None

    def bytes_of(self, light: np.ndarray, look: Look, around: Surround) -> np.ndarray:
        """(h, w, 3) uint8 of scene-linear (h, w, 3) float32. Raises TransformError."""
        result = np.empty(light.shape, np.uint8)
        _finished(self._through_lens(light, look, around), light, look, around, transform_of(look, around), result)
        return result

    def deep_of(self, light: np.ndarray, look: Look, around: Surround) -> np.ndarray:
        """(h, w, 3) uint16 of the same picture: 257 for each step of `bytes_of`. Raises TransformError."""
        result = np.empty(light.shape, np.uint16)
        _finished(self._through_lens(light, look, around), light, look, around, transform_of(look, around), result)
        return result

    def hdr_of(self, light: np.ndarray, look: Look, around: Surround) -> np.ndarray:
        """(h, w, 3) uint16 of the same picture, coded as Rec. 2100 PQ: what is bright is not brought within white."""
        result = np.empty(light.shape, np.uint16)
        transform = Transform(look.view, HDR, look.compresses_gamut)
        _finished(self._through_lens(light, look, around), light, look, around, transform, result)
        return result

    def _through_lens(self, light: np.ndarray, look: Look, around: Surround) -> np.ndarray | None:
        """Exposed light as the lens draws it; None where the lens changes nothing."""
        if all(effect_of(look, name).strength == 0 for name in _WHOLE):
            self._known = None
            return None
        asked = _exposure_of(look, around), tuple(effect_of(look, name) for name in _WHOLE), _lens_of(around)
        if self._known is not None and self._known[0] is light and self._known[1] == asked:
            return self._known[2]
        lit = _exposed(light, look, around)
        lit = scattered(lit, look, around)
        veil = look.veil.strength
        if veil > 0:
            lit = lit + (lit.mean(axis=(0, 1), dtype=np.float64).astype(np.float32) - lit) * np.float32(veil)
        lit = drawn(lit, look, lambda height, work: in_strips(height, lit.shape[1], work))
        lit = with_shafts(lit, look.shafts, around)
        self._known = light, asked, lit
        return lit


def _lens_of(around: Surround) -> tuple[Any, ...]:
    """What of a surround the lens and shafts depend on."""
    return around.aperture, around.clean, id(around.depth), {name: id(image) for name, image in around.images.items()}


def _exposure_of(look: Look, around: Surround) -> tuple[float, float | None, float]:
    return look.exposure + around.stops, look.white_temperature, look.white_tint


def _exposed(light: np.ndarray, look: Look, around: Surround) -> np.ndarray:
    """A copy of light with exposure and white balance."""
    gain = np.float32(2.0 ** (look.exposure + around.stops))
    white = white_matrix(look.white_temperature, look.white_tint)
    if white is None:
        return np.multiply(light, gain, dtype=np.float32, order="C")
    return np.ascontiguousarray(light @ (white.T * gain).astype(np.float32))


def transform_of(look: Look, around: Surround) -> Transform:
    """The display transform of a look; that of a file which is not there is the built-in one."""
    own = look.own_transform
    if own is not None and own.file.sha256 in around.files:
        return Transform(
            config=around.files[own.file.sha256], display=own.display, named_view=own.view, named_look=own.look
        )
    return Transform(look.view, look.encoding, look.compresses_gamut)


def _finished(
    lit: np.ndarray | None, light: np.ndarray, look: Look, around: Surround, transform: Transform, result: np.ndarray
) -> None:
    """Into (h, w, 3) whole numbers."""
    height, width, _ = light.shape
    white = np.iinfo(result.dtype).max
    prepare_display(transform)  # made once, and not by each strip
    before = BeforeDisplay(look, around, (height, width))
    more = rows_around(look.sharpening, height) if look.sharpening.strength > 0 else 0
    is_finished = any(effect_of(look, name).strength > 0 for name in FINISH)

    def work(begin: int, end: int) -> None:
        first, last = max(begin - more, 0), min(end + more, height)
        strip = lit[first:last].copy() if lit is not None else _exposed(light[first:last], look, around)
        before.apply(strip, first)
        if not is_finished and result.dtype == np.uint8:
            display_bytes(strip, transform, result[begin:end])
            return
        display_values(strip, transform)
        if more:
            sharpen(strip, look.sharpening, height)
            strip = strip[begin - first : end - first]
        if look.grain.strength > 0:
            add_grain(strip, look.grain, begin, height)
        if look.border.strength > 0:
            draw_border(strip, look.border, transform.encoding, begin, height)
        result[begin:end] = np.clip(strip * white + 0.5, 0, white)

    in_strips(height, width, work)


class BeforeDisplay:
    """What follows the lens and comes before the display: vignette, grade and table, of a picture of one size."""

    def __init__(self, look: Look, around: Surround, size: tuple[int, int]) -> None:
        self._look, self._around, self._size = look, around, size
        self._grade = Grade(look) if is_graded(look) else None
        self._places = tuple(look.locals.values())
        self._known = mattes(self._places, around, size)
        table = look.table
        has_table = table.strength > 0 and table.file is not None and table.file.sha256 in around.files
        self._table = around.files[table.file.sha256] if has_table and table.file else None
        changes = self._grade is not None or self._table is not None
        self._cover = resized(around.cover, size) if changes and around.cover is not None else None

    def apply(self, strip: np.ndarray, first: int) -> None:
        """Overwrite rows of the picture from `first` on, (rows, w, 3) float32 exposed light."""
        look, rows = self._look, (first, first + strip.shape[0])
        if look.vignette.strength > 0:
            strip *= vignette_gain(look.vignette, rows, self._size, self._around.half_diagonal)[..., None]
        before = None if self._cover is None else strip.copy()
        if self._grade is not None:
            self._grade.apply(strip, masks_of(self._places, rows, self._size, self._known))
        if self._table is not None:
            apply_table(strip, self._table, look.table.space, look.table.strength)
        if before is not None and self._cover is not None:
            strip -= before
            strip *= self._cover[rows[0] : rows[1], :, None]
            strip += before


def graded(light: np.ndarray, look: Look, around: Surround) -> np.ndarray:
    """(h, w, 3) float32 of scene-linear light as it goes to the display, without what the lens does."""
    exposed = _exposed(light, look, around)
    BeforeDisplay(look, around, (light.shape[0], light.shape[1])).apply(exposed, 0)
    return exposed
