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
        self, images: dict[str, np.ndarray], *, hdr: bool, quality: Quality, give_way: GiveWay | None
    ) -> np.ndarray | None:
        """A denoised copy of `images["color"]`; None when `give_way` said so on the way. Raises DenoiseError."""
        output = np.empty_like(images["color"])
        monitor = _MONITOR(lambda _, __: give_way is None or not give_way())
        with self._lock, pyoidn.Filter(self._device) as task:
            for name, image in {**images, "output": output}.items():
                task.set_image(name, image, pyoidn.OIDN_FORMAT_FLOAT3)
            task.set_bool("hdr", hdr)
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


_denoiser = cache(_Denoiser)


def prepare_denoiser() -> None:
    """Load the library and start its threads, with the priority of the calling one."""
    denoise_alpha(np.ones((16, 16), np.float32), "fast")


def denoise_radiance(
    radiance: np.ndarray, albedo: np.ndarray, normal: np.ndarray, quality: Quality, give_way: GiveWay | None = None
) -> np.ndarray | None:
    """Denoised copy of scene-linear (h, w, 3) float32 radiance; the guides have the same shape.

    `give_way` is asked every few milliseconds; when it answers True there is no picture, but None.
    """
    images = {
        "color": np.ascontiguousarray(radiance, np.float32),
        "albedo": np.ascontiguousarray(np.clip(albedo, 0.0, 1.0), np.float32),
        "normal": np.ascontiguousarray(normal, np.float32),
    }
    return _denoiser().run(images, hdr=True, quality=quality, give_way=give_way)


def denoise_alpha(alpha: np.ndarray, quality: Quality) -> np.ndarray:
    """Denoised copy of (h, w) float32 coverage: shadows on the ground are noisy in alpha too."""
    stacked = np.ascontiguousarray(np.repeat(alpha[..., None], 3, axis=2), np.float32)
    clean = _denoiser().run({"color": stacked}, hdr=False, quality=quality, give_way=None)
    assert clean is not None
    return np.clip(clean[..., 0], 0.0, 1.0)
