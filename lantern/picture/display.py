"""From scene-linear Rec. 709 to what a display is sent, by OpenColorIO.

`filmic` is the output transform of the Academy Color Encoding System 2.0 (SDR of 100 nits, HDR of 1,000), `plain` the
encoding of the display alone; each for sRGB, Display P3, Rec. 1886 and Rec. 2100 PQ, or a transform of one's own
configuration. Each is baked once
into a cube over log2 of the light, because the analytic transform takes 500 ns a pixel and the cube 30; the proof and
the print go through the same cube. The library writes bytes itself, which is twice as fast as floats that are rounded
here.
"""

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
import PyOpenColorIO as ocio

from lantern.color import decode_srgb
from lantern.picture.strips import in_strips

CONFIG = "cg-config-v4.0.0_aces-v2.0_ocio-v2.5"
SOURCE = "Linear Rec.709 (sRGB)"
ACESCG = "ACEScg"
GAMUT_LOOK = "ACES 1.3 Reference Gamut Compression"
DISPLAYS = {
    "srgb": ("sRGB - Display", "ACES 2.0 - SDR 100 nits (Rec.709)"),
    "p3": ("Display P3 - Display", "ACES 2.0 - SDR 100 nits (P3 D65)"),
    "rec1886": ("Rec.1886 Rec.709 - Display", "ACES 2.0 - SDR 100 nits (Rec.709)"),
    "pq": ("Rec.2100-PQ - Display", "ACES 2.0 - HDR 1000 nits (Rec.2020)"),
}
"""Names of a display and its filmic view in the library's own configuration. `pq` (Rec. 2100, of up to 1,000 cd/m²) is
for files: no browser is sent it."""
HDR = "pq"
TO_P3 = np.array([[0.8224620, 0.1775380, 0.0], [0.0331942, 0.9668058, 0.0], [0.0170826, 0.0723974, 0.9105199]])
"""From linear Rec. 709 to linear Display P3 (SMPTE EG 432-1), both of D65."""
FROM_P3 = np.linalg.inv(TO_P3)
VIEWS = ("filmic", "plain")
PLAIN_VIEW = "Un-tone-mapped"
CUBE_SIDE = 64
DARKEST_STOP, BRIGHTEST_STOP = -13.0, 7.0
"""Range of the cube in stops about 1.0; light beyond it is shown as its end."""


class TransformError(ValueError):
    """A configuration or a table cannot be used; the message says why."""


@dataclass(frozen=True)
class Transform:
    """Which display transform."""

    view: str = "filmic"
    encoding: str = "srgb"
    compresses_gamut: bool = False
    config: Path | None = None
    """A configuration of one's own; `display`, `named_view` and `named_look` are its names."""
    display: str = ""
    named_view: str = ""
    named_look: str = ""

    def __post_init__(self) -> None:
        if self.view not in VIEWS:
            raise ValueError(f"view must be one of {', '.join(VIEWS)}, not {self.view!r}")
        if self.encoding not in DISPLAYS:
            raise ValueError(f"encoding must be one of {', '.join(DISPLAYS)}, not {self.encoding!r}")


@lru_cache(maxsize=8)
def _analytic(transform: Transform) -> ocio.CPUProcessor:
    if transform.config is not None:
        return _of_own_config(transform)
    config = ocio.Config.CreateFromBuiltinConfig(CONFIG)
    display, filmic = DISPLAYS[transform.encoding]
    view = filmic if transform.view == "filmic" else PLAIN_VIEW
    steps = [ocio.DisplayViewTransform(src=SOURCE, display=display, view=view)]
    if transform.compresses_gamut:
        steps.insert(0, ocio.LookTransform(src=SOURCE, dst=SOURCE, looks=GAMUT_LOOK))
    return config.getProcessor(ocio.GroupTransform(steps)).getDefaultCPUProcessor()


def own_config(path: Path) -> ocio.Config:
    """A configuration from a file. Raises TransformError when it is none, or says something that it cannot mean."""
    try:
        config = ocio.Config.CreateFromFile(str(path))
        config.validate()
    except ocio.Exception as error:
        raise TransformError(" ".join(str(error).split())) from error
    return config


def _of_own_config(transform: Transform) -> ocio.CPUProcessor:
    assert transform.config is not None
    config = own_config(transform.config)
    try:
        source = ocio.Config.IdentifyBuiltinColorSpace(config, ocio.Config.CreateFromBuiltinConfig(CONFIG), SOURCE)
    except ocio.Exception:
        source = config.getCanonicalName("scene_linear")
    if not source:
        raise TransformError("the configuration has no role scene_linear: it cannot be told what light is in it")
    steps: list[ocio.Transform] = []
    if transform.named_look:
        steps.append(ocio.LookTransform(src=source, dst=source, looks=transform.named_look))
    steps.append(ocio.DisplayViewTransform(src=source, display=transform.display, view=transform.named_view))
    try:
        return config.getProcessor(ocio.GroupTransform(steps)).getDefaultCPUProcessor()
    except ocio.Exception as error:
        raise TransformError(" ".join(str(error).split())) from error


@lru_cache(maxsize=8)
def _baked(transform: Transform, depth: str) -> ocio.CPUProcessor:
    group = ocio.GroupTransform([ocio.AllocationTransform(ocio.ALLOCATION_LG2, [DARKEST_STOP, BRIGHTEST_STOP])])
    cube = ocio.Lut3DTransform(CUBE_SIDE)
    cube.setInterpolation(ocio.INTERP_TETRAHEDRAL)
    cube.setData(_cube(transform))
    group.appendTransform(cube)
    processor = ocio.Config.CreateRaw().getProcessor(group)
    to = ocio.BIT_DEPTH_UINT8 if depth == "bytes" else ocio.BIT_DEPTH_F32
    return processor.getOptimizedCPUProcessor(ocio.BIT_DEPTH_F32, to, ocio.OPTIMIZATION_DEFAULT)


@lru_cache(maxsize=8)
def _cube(transform: Transform) -> np.ndarray:
    stops = np.linspace(DARKEST_STOP, BRIGHTEST_STOP, CUBE_SIDE)
    axis = np.exp2(stops)
    axis[0] = 0.0  # black stays black
    grid = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), -1).astype(np.float32).reshape(1, -1, 3)
    return np.ascontiguousarray(display_analytic(grid, transform)).ravel()


def prepare_display(transform: Transform = Transform()) -> None:
    """Bake the cube of a transform before it is wanted; it takes a third of a second. Raises TransformError."""
    _baked(transform, "bytes")


def display_analytic(linear: np.ndarray, transform: Transform) -> np.ndarray:
    """The exact transform of (h, w, 3) float32, slow; the truth that the cube is tested against."""
    image = np.ascontiguousarray(linear, np.float32).copy()
    _analytic(transform).applyRGB(image)
    return image


def display_bytes(light: np.ndarray, transform: Transform, result: np.ndarray) -> None:
    """Display values of exposed (h, w, 3) float32 light, clipped where it lies, into (h, w, 3) uint8."""
    height, width, _ = light.shape
    np.clip(light, 0.0, np.float32(2.0**BRIGHTEST_STOP), out=light)
    target = ocio.PackedImageDesc(result, width, height, 3, ocio.BIT_DEPTH_UINT8, 1, 3, 3 * width)
    _baked(transform, "bytes").apply(ocio.PackedImageDesc(light, width, height, 3), target)


def display_values(light: np.ndarray, transform: Transform) -> None:
    """Replace exposed (h, w, 3) float32 light by its display values [0, 1]."""
    height, width, _ = light.shape
    np.clip(light, 0.0, np.float32(2.0**BRIGHTEST_STOP), out=light)
    _baked(transform, "values").apply(ocio.PackedImageDesc(light, width, height, 3))


def to_display(linear: np.ndarray, exposure: float, view: str) -> np.ndarray:
    """sRGB (h, w, 3) uint8 of scene-linear (h, w, 3) float32 without any look; `exposure` in EV multiplies it by 2^EV.

    Raises ValueError for a view that there is not.
    """
    transform = Transform(view)
    height, width, _ = linear.shape
    display = np.empty((height, width, 3), np.uint8)
    prepare_display(transform)  # made once, and not by each strip

    def work(begin: int, end: int) -> None:
        light = np.multiply(linear[begin:end], np.float32(2.0**exposure), dtype=np.float32, order="C")
        display_bytes(light, transform, display[begin:end])

    in_strips(height, width, work)
    return display


def light_of_display(shown: np.ndarray, encoding: str) -> np.ndarray:
    """Linear Rec. 709 (…, 3) float64 that a display of an encoding makes of (…, 3) uint8 or uint16, its white being 1.

    Beyond [0, 1] where its gamut is wider. Rec. 1886 is a power of 2.4 (Rec. ITU-R BT.1886, annex 1, of a black of 0).
    """
    values = np.asarray(shown, np.float64) / np.iinfo(shown.dtype).max
    if encoding == "rec1886":
        return np.asarray(values**2.4)
    linear = decode_srgb(values)
    return np.asarray(linear @ FROM_P3.T if encoding == "p3" else linear)
