"""Removing noise with Open Image Denoise, guided by albedo and normals.

The library's own filter objects are used, because its convenience function cannot be stopped: a denoiser at work
takes all cores, and the next picture would wait for it.
"""

import ctypes
import threading
from collections.abc import Callable
from functools import cache
from typing import Any, Literal

import numpy as np
import pyoidn
from pyoidn.capi import oidn_ffi

Quality = Literal["fast", "balanced", "high"]
GiveWay = Callable[[], bool]
_QUALITIES = {
    "fast": pyoidn.OIDN_QUALITY_FAST,
    "balanced": pyoidn.OIDN_QUALITY_BALANCED,
    "high": pyoidn.OIDN_QUALITY_HIGH,
}
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
    ) -> np.ndarray | None:
        """A denoised copy of the first of the images; None when `give_way` said so on the way. Raises DenoiseError."""
        output = np.empty_like(next(iter(images.values())))
        monitor = _MONITOR(lambda _, __: give_way is None or not give_way())
        with self._lock, pyoidn.Filter(self._device) as task:
            for name, image in {**images, "output": output}.items():
                task.set_image(name, image, pyoidn.OIDN_FORMAT_FLOAT3)
            task.set_bool("hdr", hdr)
            task.set_bool("cleanAux", clean_guides)
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


def denoise_radiance(
    radiance: np.ndarray,
    albedo: np.ndarray,
    normal: np.ndarray,
    quality: Quality,
    give_way: GiveWay | None = None,
    *,
    urgent: bool = False,
) -> np.ndarray | None:
    """Denoised copy of scene-linear (h, w, 3) float32 radiance; the guides have the same shape.

    `give_way` is asked every few milliseconds; when it answers True there is no picture, but None. The best quality
    denoises the guides first: behind glass and out of focus they are as noisy as the picture.
    """
    denoiser = _denoiser(urgent)
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
    return denoiser.run(images, hdr=True, clean_guides=clean, quality=quality, give_way=give_way)


def denoise_alpha(alpha: np.ndarray, quality: Quality) -> np.ndarray:
    """Denoised copy of (h, w) float32 coverage: shadows on the ground are noisy in alpha too."""
    stacked = np.ascontiguousarray(np.repeat(alpha[..., None], 3, axis=2), np.float32)
    clean = _denoiser().run({"color": stacked}, quality=quality, give_way=None)
    assert clean is not None
    return np.clip(clean[..., 0], 0.0, 1.0)
