"""The film: sums of samples in linear working space, never clamped, never tone-mapped.

One row of `layout.FILM` a pixel. The film knows its own sample counts, so it can be kept, resumed and merged.
"""

from dataclasses import dataclass

import numpy as np

from lantern.trace.layout import FILM, LAYERS

FAR_DEPTH = 1e10
"""Depth [m] written where nothing was hit: finite, so that no picture holds an infinity."""


@dataclass(frozen=True)
class Layers:
    """Means of a film, float32, linear; row 0 on top."""

    radiance: np.ndarray  # (h, w, 3) cd/m²
    alpha: np.ndarray  # (h, w) [0, 1]
    albedo: np.ndarray  # (h, w, 3)
    normal: np.ndarray  # (h, w, 3) world space, unit or zero
    depth: np.ndarray  # (h, w) m along the view axis, FAR_DEPTH for no hit
    samples: int


class Film:
    """Pixel sums of one frame; `layers` makes room for what a compositor may want besides the picture."""

    def __init__(self, width: int, height: int, *, layers: bool = False) -> None:
        if width < 1 or height < 1:
            raise ValueError(f"a film needs at least 1x1 pixels, not {width}x{height}")
        self.width, self.height = width, height
        self.rows = FILM.zeros(width * height)
        self.layer_rows = LAYERS.zeros(width * height) if layers else None
        self.clear()

    def clear(self) -> None:
        """Forget all samples."""
        self.rows.view(np.uint8).fill(0)
        self.rows["part"] = -1
        if self.layer_rows is not None:
            self.layer_rows.view(np.uint8).fill(0)

    @property
    def next_sample(self) -> int:
        """Number of the first sample that a pass may have to take."""
        open_rows = self.rows["samples"][self.rows["settled"] == 0]
        return int(open_rows.min()) if len(open_rows) else 0

    @property
    def samples(self) -> int:
        """Samples that every pixel has."""
        return int(self.rows["samples"].min())

    def parts(self) -> np.ndarray:
        """(h, w) int32 number of the part under each pixel, -1 for none."""
        return self.rows["part"].reshape(self.height, self.width)

    def radiance(self) -> np.ndarray:
        """Mean radiance alone, (h, w, 3) float32: all that a picture without denoising needs."""
        count = np.maximum(self.rows["samples"], 1).astype(np.float32)
        return (self.rows["radiance"] / count[:, None]).reshape(self.height, self.width, 3)

    def layers(self) -> Layers:
        """Means of everything. Needs at least one sample in every pixel."""
        count = np.maximum(self.rows["samples"], 1).astype(np.float32)
        shape = (self.height, self.width)
        hits = self.rows["depth_hits"]
        depth = np.where(hits > 0, self.rows["depth"] / np.maximum(hits, 1), np.float32(FAR_DEPTH))
        normal = self.rows["normal"] / count[:, None]
        length = np.linalg.norm(normal, axis=1, keepdims=True)
        normal = np.where(length > 1e-6, normal / np.maximum(length, 1e-6), 0.0)
        return Layers(
            radiance=self.radiance(),
            alpha=np.clip(self.rows["alpha"] / count, 0.0, 1.0).reshape(shape),
            albedo=np.ascontiguousarray(self.rows["albedo"] / count[:, None]).reshape(*shape, 3),
            normal=normal.astype(np.float32).reshape(*shape, 3),
            depth=depth.astype(np.float32).reshape(shape),
            samples=self.samples,
        )

    def noise(self) -> float:
        """Mean relative standard error of pixel luminance [-]; inf below 2 samples.

        A pixel darker than a twentieth of the mean counts against that, so that black corners do not decide.
        """
        n = self.rows["samples"].astype(np.float32)
        if n.min() < 2:
            return float("inf")
        mean = self.rows["radiance"] @ np.array([0.2126, 0.7152, 0.0722], np.float32) / n
        variance = np.maximum(self.rows["squared_luminance"] / n - mean * mean, 0.0) / (n - 1)
        floor = max(float(mean.mean()) / 20, 1e-12)
        return float((np.sqrt(variance) / np.maximum(mean, floor)).mean())
