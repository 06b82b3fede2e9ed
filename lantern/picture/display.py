"""From scene-linear Rec. 709 to sRGB display values, by OpenColorIO.

`filmic` is the output transform of the Academy Color Encoding System 2.0 (SDR, 100 nits, Rec. 709), `plain` the
sRGB encoding alone. Each is baked once into a cube over log2 of the light, because the analytic transform
takes 500 ns a pixel and the cube 30; the proof and the print go through the same cube. The library writes bytes
itself, which is twice as fast as floats that are rounded here, and works on strips of the picture side by side.
"""

import os
from concurrent.futures import ThreadPoolExecutor
from functools import cache

import numpy as np
import PyOpenColorIO as ocio

CONFIG = "cg-config-v4.0.0_aces-v2.0_ocio-v2.5"
DISPLAY = "sRGB - Display"
VIEWS = {"filmic": "ACES 2.0 - SDR 100 nits (Rec.709)", "plain": "Un-tone-mapped"}
SOURCE = "Linear Rec.709 (sRGB)"
CUBE_SIDE = 64
DARKEST_STOP, BRIGHTEST_STOP = -13.0, 7.0
"""Range of the cube in stops about 1.0; light beyond it is shown as its end."""
LEAST_STRIP = 1 << 15
"""Pixels of a strip at least: handing out smaller ones costs more than it saves."""


@cache
def _analytic(view: str) -> ocio.CPUProcessor:
    config = ocio.Config.CreateFromBuiltinConfig(CONFIG)
    transform = ocio.DisplayViewTransform(src=SOURCE, display=DISPLAY, view=VIEWS[view])
    return config.getProcessor(transform).getDefaultCPUProcessor()


@cache
def _baked(view: str) -> ocio.CPUProcessor:
    stops = np.linspace(DARKEST_STOP, BRIGHTEST_STOP, CUBE_SIDE)
    axis = np.exp2(stops)
    axis[0] = 0.0  # black stays black
    grid = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), -1).astype(np.float32).reshape(1, -1, 3)
    cube = ocio.Lut3DTransform(CUBE_SIDE)
    cube.setInterpolation(ocio.INTERP_TETRAHEDRAL)
    cube.setData(np.ascontiguousarray(display_analytic(grid, view)).ravel())
    shaper = ocio.AllocationTransform(ocio.ALLOCATION_LG2, [DARKEST_STOP, BRIGHTEST_STOP])
    group = ocio.GroupTransform([shaper, cube])
    processor = ocio.Config.CreateRaw().getProcessor(group)
    return processor.getOptimizedCPUProcessor(ocio.BIT_DEPTH_F32, ocio.BIT_DEPTH_UINT8, ocio.OPTIMIZATION_DEFAULT)


@cache
def _workers() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(os.cpu_count(), thread_name_prefix="display")


def prepare_display(view: str) -> None:
    """Bake the cube of a view before it is wanted; it takes a third of a second."""
    _baked(view)


def display_analytic(linear: np.ndarray, view: str) -> np.ndarray:
    """The exact transform of (h, w, 3) float32, slow; the truth that the cube is tested against."""
    image = np.ascontiguousarray(linear, np.float32).copy()
    _analytic(view).applyRGB(image)
    return image


def to_display(linear: np.ndarray, exposure: float, view: str, white: np.ndarray | None = None) -> np.ndarray:
    """Display-referred sRGB (h, w, 3) uint8 of scene-linear (h, w, 3) float32.

    `exposure` in EV multiplies the light by 2^EV; `view` is a key of VIEWS; `white` (3, 3) is what the light is
    multiplied by before all else. Raises ValueError for another view.
    """
    if view not in VIEWS:
        raise ValueError(f"view must be one of {', '.join(VIEWS)}, not {view!r}")
    height, width, _ = linear.shape
    display = np.empty((height, width, 3), np.uint8)
    strips = min(max(height * width // LEAST_STRIP, 1), height, os.cpu_count() or 1)
    edges = [height * i // strips for i in range(strips + 1)]

    def work(begin: int, end: int) -> None:
        gain = np.float32(2.0**exposure)
        if white is None:
            image = np.multiply(linear[begin:end], gain, dtype=np.float32, order="C")
        else:
            image = np.ascontiguousarray(linear[begin:end] @ (white.T * gain).astype(np.float32))
        np.clip(image, 0.0, np.float32(2.0**BRIGHTEST_STOP), out=image)
        target = ocio.PackedImageDesc(display[begin:end], width, end - begin, 3, ocio.BIT_DEPTH_UINT8, 1, 3, 3 * width)
        _baked(view).apply(ocio.PackedImageDesc(image, width, end - begin, 3), target)

    _baked(view)  # made once, and not by each strip
    list(_workers().map(work, edges[:-1], edges[1:]))
    return display
