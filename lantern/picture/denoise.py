"""Removing noise with Open Image Denoise, guided by albedo and normals.

The library's own filter objects are used, because its convenience function cannot be stopped: a denoiser at work
takes all cores, and the next picture would wait for it.
"""

import ctypes
import threading
from collections.abc import Callable, Iterator
from functools import cache
from itertools import pairwise
from typing import Any, Literal

import numpy as np
import pyoidn
from pyoidn.capi import oidn_ffi

from lantern.color import LUMINANCE

Quality = Literal["fast", "balanced", "high"]
GiveWay = Callable[[], bool]
_QUALITIES = {
    "fast": pyoidn.OIDN_QUALITY_FAST,
    "balanced": pyoidn.OIDN_QUALITY_BALANCED,
    "high": pyoidn.OIDN_QUALITY_HIGH,
}
MOST_AT_ONCE, BAND_PIXELS = 48 << 20, 16 << 20
"""Pixels of a picture that is denoised as a whole, and of a band of a larger one."""
REACH = 192
"""Rows on either side that a pixel may depend on; beyond them hardly anything changes it."""
_BLOCK, _KEY, _BLACK, _PHASE = 16, 0.18, 1e-8, 32
_MONITOR = ctypes.CFUNCTYPE(ctypes.c_bool, ctypes.c_void_p, ctypes.c_double)


class DenoiseError(RuntimeError):
    """The denoiser failed; the message is its own."""


def _pointer(handle: Any) -> int:
    return int(oidn_ffi.cast("uintptr_t", handle))


@cache
def _set_monitor() -> Any:
    """The library's function that sets who is asked between two steps of a filter whether to go on."""
    for line in open("/proc/self/maps"):  # noqa: SIM115
        path = line.split()[-1]
        if "libOpenImageDenoise.so" in path:
            function = ctypes.CDLL(path).oidnSetFilterProgressMonitorFunction
            function.argtypes, function.restype = [ctypes.c_void_p, _MONITOR, ctypes.c_void_p], None
            return function
    raise DenoiseError("the denoiser's library is not loaded")


class _Denoiser:
    """One device, one filter, one picture at a time."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._device = pyoidn.Device()
        self._device.commit()

    def run(
        self,
        images: dict[str, np.ndarray],
        *,
        hdr: bool = False,
        clean_guides: bool = False,
        quality: Quality,
        give_way: GiveWay | None,
        scale: float | None = None,
    ) -> np.ndarray | None:
        """A denoised copy of the first of the images; None when `give_way` said so on the way. Raises DenoiseError."""
        output = np.empty_like(next(iter(images.values())))
        monitor = _MONITOR(lambda _, __: give_way is None or not give_way())
        with self._lock, pyoidn.Filter(self._device) as task:
            for name, image in {**images, "output": output}.items():
                task.set_image(name, image, pyoidn.OIDN_FORMAT_FLOAT3)
            task.set_bool("hdr", hdr)
            task.set_bool("cleanAux", clean_guides)
            if scale is not None:
                task.set_float("inputScale", scale)
            task.set_quality(_QUALITIES[quality])
            _set_monitor()(_pointer(task._filter), monitor, None)
            task.commit()
            task.execute()
            problem = self._device.get_error()
        if give_way is not None and give_way():
            return None
        if problem:
            raise DenoiseError(problem)
        return output


@cache
def _denoiser(urgent: bool = False) -> _Denoiser:
    """The denoiser of pictures that somebody waits for, or the one that works beside the sampling.

    A device's threads have the priority of the thread that first uses it, and a picture never waits for another's.
    """
    return _Denoiser()


def prepare_denoiser(*, urgent: bool = False) -> None:
    """Load the library and start its threads, with the priority of the calling one."""
    small = np.ones((16, 16, 3), np.float32)
    _denoiser(urgent).run({"color": small}, quality="fast", give_way=None)


Guides = Callable[[tuple[int, int]], tuple[np.ndarray, np.ndarray]]
"""What makes albedo and normals, (rows, w, 3) float32 each, of some rows of a picture."""


def whole_guides(albedo: np.ndarray, normal: np.ndarray) -> Guides:
    """Those of pictures that are there."""
    return lambda rows: (albedo[rows[0] : rows[1]], normal[rows[0] : rows[1]])


def denoise_radiance(
    radiance: np.ndarray,
    guides: Guides,
    quality: Quality,
    give_way: GiveWay | None = None,
    *,
    urgent: bool = False,
) -> np.ndarray | None:
    """Denoised copy of scene-linear (h, w, 3) float32 radiance.

    `give_way` is asked every few milliseconds; when it answers True there is no picture, but None. The best quality
    denoises the guides first: behind glass and out of focus they are as noisy as the picture. Large pictures are done
    in bands, whose edges are not seen, so that what is made on the way stays small.
    """
    bands = list(_bands(*radiance.shape[:2]))
    # Its own exposure would be that of a band.
    scale = _brightness(radiance) if quality == "high" or len(bands) > 1 else None
    denoised = np.empty(radiance.shape, np.float32)
    for (first, last), (above, below) in bands:
        rows = above, below
        clean = _denoised(_denoiser(urgent), radiance[slice(*rows)], *guides(rows), quality, give_way, scale)
        if clean is None:
            return None
        denoised[first:last] = clean[first - above : last - above]
    return denoised


def _denoised(
    denoiser: _Denoiser,
    radiance: np.ndarray,
    albedo: np.ndarray,
    normal: np.ndarray,
    quality: Quality,
    give_way: GiveWay | None,
    scale: float | None,
) -> np.ndarray | None:
    """A picture, or a band of one, whose light times `scale` is as bright as what the library was trained with."""
    guides = {
        "albedo": np.ascontiguousarray(np.clip(albedo, 0.0, 1.0), np.float32),
        "normal": np.ascontiguousarray(normal, np.float32),
    }
    clean = quality == "high"
    if clean:
        for name, guide in list(guides.items()):
            filtered = denoiser.run({name: guide}, quality=quality, give_way=give_way)
            if filtered is None:
                return None
            guides[name] = filtered
    images = {"color": np.ascontiguousarray(radiance, np.float32), **guides}
    return denoiser.run(images, hdr=True, clean_guides=clean, quality=quality, give_way=give_way, scale=scale)


def _bands(height: int, width: int) -> Iterator[tuple[tuple[int, int], tuple[int, int]]]:
    """(rows, rows around them that they depend on) of a picture; all of one that is not large."""
    if height * width <= MOST_AT_ONCE:
        yield (0, height), (0, height)
        return
    count = -(-height * width // BAND_PIXELS)
    # Even with the blocks that the library halves a picture by: another phase would be another picture.
    edges = [height * i // count // _PHASE * _PHASE for i in range(count)] + [height]
    for first, last in pairwise(edges):
        yield (first, last), (max(first - REACH, 0), min(last + REACH, height))


def _brightness(radiance: np.ndarray) -> float:
    """The factor by which a picture becomes as bright as the library makes one by itself, from the whole of it.

    Open Image Denoise's own exposure: 0.18 over the geometric mean of the luminance of what is not black, each value
    the mean of a block of 16 pixels.
    """
    height, width, _ = radiance.shape
    down, across = (np.arange(-(-side // _BLOCK)) * side // -(-side // _BLOCK) for side in (height, width))
    sums = np.add.reduceat(np.add.reduceat(radiance, down, axis=0, dtype=np.float32), across, axis=1, dtype=np.float64)
    area = np.outer(np.diff([*down, height]), np.diff([*across, width]))
    luminance = (sums / area[..., None]) @ LUMINANCE
    seen = luminance[luminance > _BLACK]
    return float(_KEY / np.exp(np.log(seen).mean())) if seen.size else 1.0


def denoise_alpha(alpha: np.ndarray, quality: Quality) -> np.ndarray:
    """Denoised copy of (h, w) float32 coverage: shadows on the ground are noisy in alpha too."""
    denoised = np.empty(alpha.shape, np.float32)
    for (first, last), (above, below) in _bands(*alpha.shape):
        stacked = np.ascontiguousarray(np.repeat(alpha[above:below, :, None], 3, axis=2), np.float32)
        clean = _denoiser().run({"color": stacked}, quality=quality, give_way=None)
        assert clean is not None
        denoised[first:last] = np.clip(clean[first - above : last - above, :, 0], 0.0, 1.0)
    return denoised
