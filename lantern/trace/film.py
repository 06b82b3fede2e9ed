"""The film: sums of samples in linear working space, never clamped, never tone-mapped.

One row of `layout.FILM` a pixel. The film knows its own sample counts, so it can be kept, resumed and merged.
"""

from dataclasses import dataclass

import numpy as np

from lantern.trace.layout import FILM, LAYERS, LIGHT_GROUPS

LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
DARKEST_COUNTED = 20
SETTLED_BLOCK = 16
"""Side in pixels of what settles at once."""
FAR_DEPTH = 1e10
"""Depth [m] written where nothing was hit: finite, so that no picture holds an infinity."""


@dataclass(frozen=True)
class PathLayers:
    """Means of what a film with layers knows besides, float32, linear; (h, w, 3) unless said otherwise."""

    colors: dict[str, np.ndarray]  # cd/m² by path: direct, indirect, diffuse, specular, transmission, emission, …
    groups: tuple[np.ndarray, ...]  # cd/m² of each light group; they sum to the picture
    position: np.ndarray  # m, mean over the samples that hit something
    shadow: np.ndarray  # (h, w) share of direct light that is kept away, [0, 1]
    variance: np.ndarray  # (h, w) of the pixel's mean luminance, (cd/m²)²
    samples: np.ndarray  # (h, w)
    parts: tuple[np.ndarray, np.ndarray]  # (h, w, IDENTITIES) numbers, -1 for none, and coverage, largest first
    materials: tuple[np.ndarray, np.ndarray]


@dataclass(frozen=True)
class Layers:
    """Means of a film, float32, linear; row 0 on top."""

    radiance: np.ndarray  # (h, w, 3) cd/m²
    alpha: np.ndarray  # (h, w) [0, 1]
    albedo: np.ndarray  # (h, w, 3)
    normal: np.ndarray  # (h, w, 3) world space, unit or zero
    depth: np.ndarray  # (h, w) m along the view axis, FAR_DEPTH for no hit
    samples: int


PATH_COLORS = ("direct", "indirect", "diffuse", "specular", "transmission", "emission", "background")


def _ranked(
    ids: np.ndarray, cover: np.ndarray, count: np.ndarray, shape: tuple[int, int]
) -> tuple[np.ndarray, np.ndarray]:
    """Identities and their coverage [0, 1] of each pixel, largest first; -1 where there is none."""
    order = np.argsort(-cover, axis=1, kind="stable")
    share = np.take_along_axis(cover, order, 1) / count[:, None]
    numbers = np.where(share > 0, np.take_along_axis(ids, order, 1), -1)
    return numbers.reshape(*shape, -1), share.astype(np.float32).reshape(*shape, -1)


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

    def arrays(self) -> dict[str, np.ndarray]:
        """Everything that the film knows, by name: what to keep of it to go on with it later."""
        return {"rows": self.rows} | ({"layers": self.layer_rows} if self.layer_rows is not None else {})

    @property
    def next_sample(self) -> int:
        """Number of the first sample that a pass may have to take."""
        open_rows = self.rows["samples"][self.rows["settled"] == 0]
        return int(open_rows.min()) if len(open_rows) else 0

    @property
    def samples(self) -> int:
        """Samples that every pixel has which has not settled before; when all have, those of the last to settle."""
        still = self.rows["samples"][self.rows["settled"] == 0]
        return int(still.min() if len(still) else self.rows["samples"].max())

    def is_done(self, wanted: int) -> bool:
        """Whether every pixel has `wanted` samples or has settled before."""
        return bool(((self.rows["samples"] >= wanted) | (self.rows["settled"] != 0)).all())

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

    def path_layers(self) -> PathLayers:
        """Means of the layers. Raises ValueError for a film made without them."""
        if self.layer_rows is None:
            raise ValueError("this film has no layers: make it with Film(…, layers=True)")
        rows, shape = self.layer_rows, (self.height, self.width)
        count = np.maximum(self.rows["samples"], 1).astype(np.float32)
        hits = np.maximum(self.rows["depth_hits"], 1)[:, None]
        groups = (rows["groups"] / count[:, None]).reshape(*shape, LIGHT_GROUPS, 3)
        unlit = rows["unlit"]
        shadow = np.where(unlit > 0, 1 - rows["lit"] / np.where(unlit > 0, unlit, 1), 0.0)
        errors = self.relative_errors()
        mean = np.maximum(self.radiance() @ LUMINANCE, float((self.radiance() @ LUMINANCE).mean()) / DARKEST_COUNTED)
        return PathLayers(
            colors={name: (rows[name] / count[:, None]).reshape(*shape, 3) for name in PATH_COLORS},
            groups=tuple(np.ascontiguousarray(groups[:, :, i]) for i in range(LIGHT_GROUPS)),
            position=(rows["position"] / hits).reshape(*shape, 3),
            shadow=np.clip(shadow, 0.0, 1.0).astype(np.float32).reshape(shape),
            variance=np.where(np.isfinite(errors), (errors * mean) ** 2, 0.0).astype(np.float32),
            samples=self.rows["samples"].astype(np.float32).reshape(shape),
            parts=_ranked(rows["part_ids"], rows["part_cover"], count, shape),
            materials=_ranked(rows["material_ids"], rows["material_cover"], count, shape),
        )

    def relative_errors(self) -> np.ndarray:
        """(h, w) estimated standard error of each pixel's luminance over that luminance [-]; inf below 2 samples.

        A pixel darker than a twentieth of the mean counts against that, so that black corners do not decide. The
        estimate takes samples for independent; the scrambled points do better, so the true error is lower.
        """
        n = self.rows["samples"].astype(np.float64)
        if n.min() < 2:
            return np.full((self.height, self.width), np.inf)
        mean = self.rows["radiance"].astype(np.float64) @ LUMINANCE / n
        variance = np.maximum(self.rows["squared_luminance"] / n - mean * mean, 0.0) / (n - 1)
        floor = max(float(mean.mean()) / DARKEST_COUNTED, 1e-12)
        return (np.sqrt(variance) / np.maximum(mean, floor)).reshape(self.height, self.width)

    def noise(self) -> float:
        """Root mean square over the picture of the `relative_errors` [-]."""
        return float(np.sqrt(np.mean(self.relative_errors() ** 2)))

    def settle(self, target: float) -> None:
        """Close the blocks of pixels whose noise is at most `target` [-], their neighbours' at most twice that.

        Whole blocks, because the estimate of a single pixel that has missed a rare bright path is too low.
        """
        errors = self.relative_errors() ** 2
        rows, columns = -(-self.height // SETTLED_BLOCK), -(-self.width // SETTLED_BLOCK)
        room = ((0, rows * SETTLED_BLOCK - self.height), (0, columns * SETTLED_BLOCK - self.width))
        blocks = np.pad(errors, room, mode="edge").reshape(rows, SETTLED_BLOCK, columns, SETTLED_BLOCK).mean((1, 3))
        around = np.pad(blocks, 1, mode="edge")
        worst = np.max([around[i : i + rows, j : j + columns] for i in range(3) for j in range(3)], axis=0)
        done = (blocks <= target**2) & (worst <= (2 * target) ** 2)
        pixels = np.repeat(np.repeat(done, SETTLED_BLOCK, 0), SETTLED_BLOCK, 1)[: self.height, : self.width]
        self.rows["settled"] |= pixels.ravel()
