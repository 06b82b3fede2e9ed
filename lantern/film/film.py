"""The film: sums of samples in linear working space, never clamped, never tone-mapped.

One row of `layout.FILM` a pixel. The film knows its own sample counts, so it can be kept, resumed and merged.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from lantern.color import LUMINANCE
from lantern.film.blocks import block_means, shape_of, spread
from lantern.film.means import fill_means
from lantern.kernel.memory import address
from lantern.rays.layout import AOVS, FILM, MOST_GROUPS

DARKEST_COUNTED = 20
FAR_DEPTH = 1e10
"""Depth [m] written where nothing was hit: finite, so that no picture holds an infinity."""


@dataclass(frozen=True)
class Aovs:
    """Means of what a film with AOVs knows besides, float32, linear; (h, w, 3) unless said otherwise."""

    colors: dict[str, np.ndarray]  # cd/m² by path: direct, indirect, diffuse, specular, transmission, emission, …
    groups: tuple[np.ndarray, ...]  # cd/m² of each light group; they sum to the picture
    position: np.ndarray  # m, mean over the samples that hit something
    shadow: np.ndarray  # (h, w) share of direct light that is kept away, [0, 1]
    variance: np.ndarray  # (h, w) of the pixel's mean luminance, (cd/m²)²
    samples: np.ndarray  # (h, w)
    parts: tuple[np.ndarray, np.ndarray]  # (h, w, IDENTITIES) numbers, -1 for none, and coverage, largest first
    materials: tuple[np.ndarray, np.ndarray]


@dataclass(frozen=True)
class Means:
    """Means of a film, float32, linear; row 0 on top."""

    radiance: np.ndarray  # (h, w, 3) cd/m²
    alpha: np.ndarray  # (h, w) [0, 1]
    albedo: np.ndarray  # (h, w, 3)
    normal: np.ndarray  # (h, w, 3) world space, unit or zero
    depth: np.ndarray  # (h, w) m along the view axis, FAR_DEPTH for no hit
    samples: int


PATH_COLORS = ("direct", "indirect", "diffuse", "specular", "transmission", "emission", "background")


Rows = tuple[int, int]
"""The first row of some, and the one behind their last."""


def _variance_of(rows: np.ndarray) -> np.ndarray:
    """Estimated variance of the mean luminance of film rows [(cd/m²)²], 0 of those with fewer than two samples."""
    n = rows["samples"].astype(np.float64)
    some = np.maximum(n, 1)
    mean = rows["radiance"].astype(np.float64) @ LUMINANCE / some
    return np.asarray(np.maximum(rows["squared_luminance"] / some - mean * mean, 0.0) / np.maximum(n - 1, 1) * (n > 1))


def _ranked(
    ids: np.ndarray, cover: np.ndarray, count: np.ndarray, shape: tuple[int, int]
) -> tuple[np.ndarray, np.ndarray]:
    """Identities and their coverage [0, 1] of each pixel, largest first; -1 where there is none."""
    order = np.argsort(-cover, axis=1, kind="stable")
    share = np.take_along_axis(cover, order, 1) / count[:, None]
    numbers = np.where(share > 0, np.take_along_axis(ids, order, 1), -1)
    return numbers.reshape(*shape, -1), share.astype(np.float32).reshape(*shape, -1)


USUAL_GROUPS = 8
"""Light groups of a film with AOVs that was not told how many there are."""


def film_bytes(width: int, height: int, *, aovs: bool = False, groups: int | None = None) -> int:
    """Memory of a film [bytes]."""
    told = min((USUAL_GROUPS if aovs else 0) if groups is None else groups, MOST_GROUPS)
    return width * height * (FILM.dtype.itemsize + (AOVS.dtype.itemsize if aovs else 0) + 12 * told)


class Film:
    """Pixel sums of one frame; `aovs` makes room for what a compositor may want besides the picture.

    `groups` are the light groups that it tells apart, MOST_GROUPS at most; the last holds those beyond.
    """

    def __init__(self, width: int, height: int, *, aovs: bool = False, groups: int | None = None) -> None:
        if width < 1 or height < 1:
            raise ValueError(f"a film needs at least 1x1 pixels, not {width}x{height}")
        self.width, self.height = width, height
        self.rows = FILM.zeros(width * height)
        self.aov_rows = AOVS.zeros(width * height) if aovs else None
        self.group_count = min((USUAL_GROUPS if aovs else 0) if groups is None else groups, MOST_GROUPS)
        self.group_rows = np.zeros((width * height, 3 * self.group_count), np.float32) if self.group_count else None
        self.region = (0, 0, width, height)
        """x, y, width, height in pixels: what passes fill, and what counts and noise are about."""
        self.plan: np.ndarray | None = None
        """(rows, columns) int32 samples by block (`blocks`), where they were planned."""
        self._least: float | None = None
        """Least samples of a pixel that has not settled, infinite when all have; None: to be counted anew. Counting
        reads every row, and a pass asks several times."""
        self.clear()

    @property
    def address(self) -> int:
        """Where kernels find pixel (0, 0)."""
        return address(self.rows)

    def clear(self) -> None:
        """Forget all samples."""
        self.rows.view(np.uint8).fill(0)
        self.rows["part"] = -1
        self.plan = None
        if self.aov_rows is not None:
            self.aov_rows.view(np.uint8).fill(0)
        if self.group_rows is not None:
            self.group_rows.fill(0)
        self._least = 0

    def arrays(self) -> dict[str, np.ndarray]:
        """Everything that the film knows, by name: what to keep of it to go on with it later."""
        more = {"aovs": self.aov_rows, "groups": self.group_rows, "plan": self.plan}
        return {"rows": self.rows} | {name: rows for name, rows in more.items() if rows is not None}

    def restore(self, kept: dict[str, np.ndarray]) -> bool:
        """Go on from what `arrays` gave; False, and nothing is changed, when that is of another kind of film."""
        kept = dict(kept)
        plan = kept.pop("plan", None)
        if plan is not None and plan.shape != shape_of(self.width, self.height):
            return False
        own = {name: array for name, array in self.arrays().items() if name != "plan"}
        if set(kept) != set(own):
            return False
        if any(kept[name].dtype != array.dtype or kept[name].shape != array.shape for name, array in own.items()):
            return False
        for name, array in own.items():
            array[:] = kept[name]
        self.plan = plan
        self._least = None
        return True

    def select(self, region: tuple[int, int, int, int] | None) -> None:
        """Confine passes to a region (x, y, width, height), or to none; what has been sampled stays as it is.

        Raises ValueError for a region that does not lie within the frame.
        """
        x, y, width, height = region or (0, 0, self.width, self.height)
        if not (x >= 0 and y >= 0 and 0 < width <= self.width - x and 0 < height <= self.height - y):
            raise ValueError(f"region {region} does not lie within a frame of {self.width}x{self.height} pixels")
        self.region = (x, y, width, height)
        self._least = None

    def leave_out(self, pixels: np.ndarray) -> None:
        """Take no sample of the pixels where the (h, w) mask is set."""
        self.rows["settled"] = pixels.ravel()
        self._least = None

    def follow(self, plan: np.ndarray) -> None:
        """Take so many samples of each block from now on, (rows, columns) int32; see `lantern.film.plan`."""
        self.plan = np.ascontiguousarray(plan, np.int32)
        self.end_planned(self.samples)

    def next_planned(self, samples: int) -> int:
        """The next count of samples at which some block ends, of a film with a plan."""
        assert self.plan is not None
        later = self.plan[self.plan > samples]
        return int(later.min()) if later.size else samples + 1

    def end_planned(self, samples: int) -> None:
        """Close the blocks of the region that have the samples which were planned for them."""
        assert self.plan is not None
        x, y, width, height = self.region
        done = spread(self.plan <= samples, self.width, self.height)
        self._selected["settled"] |= done[y : y + height, x : x + width]
        self._least = None

    @property
    def planned_share(self) -> float:
        """How much of the samples that are planned for the region are there [0, 1]; 0 without a plan."""
        if self.plan is None:
            return 0.0
        x, y, width, height = self.region
        each = spread(self.plan, self.width, self.height)[y : y + height, x : x + width]
        return float(np.minimum(self._selected["samples"], each).sum() / each.sum())

    def passed(self, samples: int) -> None:
        """A pass has brought every pixel of the region that had not settled to `samples`."""
        self._least = max(self._open_samples, samples)

    @property
    def _open_samples(self) -> float:
        """Least samples of a pixel of the region that has not settled, infinite when all have."""
        if self._least is None:
            rows = self._selected
            still = rows["samples"][rows["settled"] == 0]
            self._least = int(still.min()) if len(still) else math.inf
        return self._least

    @property
    def _selected(self) -> np.ndarray:
        """(h, w) rows of the region."""
        x, y, width, height = self.region
        return self.rows.reshape(self.height, self.width)[y : y + height, x : x + width]

    @property
    def next_sample(self) -> int:
        """Number of the first sample that a pass may have to take."""
        return 0 if math.isinf(self._open_samples) else int(self._open_samples)

    @property
    def samples(self) -> int:
        """Samples that every pixel has which has not settled before; when all have, those of the last to settle."""
        least = self._open_samples
        return int(self._selected["samples"].max() if math.isinf(least) else least)

    def is_done(self, wanted: int) -> bool:
        """Whether every pixel has `wanted` samples or has settled before."""
        return self._open_samples >= wanted

    def parts(self) -> np.ndarray:
        """(h, w) int32 number of the part under each pixel, -1 for none."""
        return self.rows["part"].reshape(self.height, self.width)

    def radiance(self) -> np.ndarray:
        """Mean radiance alone, (h, w, 3) float32: all that a picture without denoising needs."""
        radiance = np.empty((self.height, self.width, 3), np.float32)
        self._fill_means(radiance)
        return radiance

    def alpha(self) -> np.ndarray:
        """Mean coverage alone, (h, w) float32 [0, 1]."""
        share = np.float32(1) / np.maximum(self.rows["samples"], 1).astype(np.float32)
        return np.asarray(np.clip(self.rows["alpha"] * share, 0, 1).reshape(self.height, self.width))

    def means(self, rows: Rows | None = None) -> Means:
        """Means of everything, of the whole or of some rows; pixels without samples are black."""
        first, last = rows or (0, self.height)
        shape = (last - first, self.width)
        radiance, albedo, normal = (np.empty((*shape, 3), np.float32) for _ in range(3))
        alpha, depth = np.empty(shape, np.float32), np.empty(shape, np.float32)
        self._fill_means(radiance, alpha, albedo, normal, depth, first=first)
        return Means(radiance, alpha, albedo, normal, depth, self.samples)

    def _fill_means(self, radiance: np.ndarray, *others: np.ndarray, first: int = 0) -> None:
        """Fill arrays of so many rows, from `first` on."""
        targets = [np.uint64(address(array)) for array in (radiance, *others)]
        targets += [np.uint64(0)] * (5 - len(targets))
        begin = np.uint64(self.address + first * self.width * self.rows.itemsize)
        fill_means(begin, radiance.shape[0] * self.width, np.float32(FAR_DEPTH), *targets)

    def groups(self, rows: Rows | None = None) -> tuple[np.ndarray, ...]:
        """(h, w, 3) mean radiance of each light group; they sum to the picture. Empty for a film without them."""
        if self.group_rows is None:
            return ()
        span, shape = self._span(rows)
        count = np.maximum(self.rows["samples"][span], 1).astype(np.float32)
        means = (self.group_rows[span] / count[:, None]).reshape(*shape, self.group_count, 3)
        return tuple(np.ascontiguousarray(means[:, :, i]) for i in range(self.group_count))

    def _span(self, rows: Rows | None) -> tuple[slice, tuple[int, int]]:
        """(the pixels of some rows, or of all, their number in rows and columns)."""
        first, last = rows or (0, self.height)
        return slice(first * self.width, last * self.width), (last - first, self.width)

    def group_light(self, most: int) -> np.ndarray:
        """(groups, 3) mean light of each light group over about `most` pixels evenly spread; empty without groups."""
        if self.group_rows is None:
            return np.zeros((0, 3))
        step = max(math.ceil(math.sqrt(self.width * self.height / most)), 1)
        rows = self.group_rows.reshape(self.height, self.width, self.group_count, 3)[::step, ::step]
        count = np.maximum(self.rows["samples"].reshape(self.height, self.width)[::step, ::step], 1)
        return np.asarray((rows / count[..., None, None]).mean(axis=(0, 1), dtype=np.float64))

    def balanced(self, factors: Sequence[Sequence[float]]) -> np.ndarray:
        """(h, w, 3) mean radiance with each light group times its RGB factor; further ones count as they are.

        Raises ValueError for a film without light groups.
        """
        if self.group_rows is None:
            raise ValueError("this film has no light groups: make it with Film(…, groups=n)")
        weights = np.ones((self.group_count, 3), np.float32)
        told = min(len(factors), self.group_count)
        weights[:told] = np.array(factors[:told], np.float32).reshape(told, 3)
        # Where a group is shared by several, the factor of its first counts for all.
        count = np.maximum(self.rows["samples"], 1).astype(np.float32)
        rows = self.group_rows.reshape(-1, self.group_count, 3)
        sums = np.einsum("pgc,gc->pc", rows, weights)
        return np.asarray((sums / count[:, None]).reshape(self.height, self.width, 3), np.float32)

    def aovs(self, rows: Rows | None = None) -> Aovs:
        """Means of the AOVs, of the whole or of some rows. Raises ValueError for a film made without them."""
        if self.aov_rows is None:
            raise ValueError("this film has no AOVs: make it with Film(…, aovs=True)")
        span, shape = self._span(rows)
        own, sums = self.rows[span], self.aov_rows[span]
        count = np.maximum(own["samples"], 1).astype(np.float32)
        hits = np.maximum(own["depth_hits"], 1)[:, None]
        unlit = sums["unlit"]
        shadow = np.where(unlit > 0, 1 - sums["lit"] / np.where(unlit > 0, unlit, 1), 0.0)
        return Aovs(
            colors={name: (sums[name] / count[:, None]).reshape(*shape, 3) for name in PATH_COLORS},
            groups=self.groups(rows),
            position=(sums["position"] / hits).reshape(*shape, 3),
            shadow=np.clip(shadow, 0.0, 1.0).astype(np.float32).reshape(shape),
            variance=_variance_of(own).astype(np.float32).reshape(shape),
            samples=own["samples"].astype(np.float32).reshape(shape),
            parts=_ranked(sums["part_ids"], sums["part_cover"], count, shape),
            materials=_ranked(sums["material_ids"], sums["material_cover"], count, shape),
        )

    def relative_errors(self) -> np.ndarray:
        """(h, w) estimated standard error of each pixel's luminance over that luminance [-] in the region.

        It is infinite while some pixel has fewer than 2 samples.

        A pixel darker than a twentieth of the mean counts against that, so that black corners do not decide. The
        estimate takes samples for independent; the scrambled points do better, so the true error is lower.
        """
        return self._errors_of(self._selected)

    @staticmethod
    def _errors_of(rows: np.ndarray) -> np.ndarray:
        if rows["samples"].min() < 2:
            return np.full(rows.shape, np.inf)
        mean = rows["radiance"].astype(np.float64) @ LUMINANCE / rows["samples"]
        floor = max(float(mean.mean()) / DARKEST_COUNTED, 1e-12)
        return np.asarray(np.sqrt(_variance_of(rows)) / np.maximum(mean, floor))

    def noise(self, most: int | None = None) -> float:
        """Root mean square over the region of the `relative_errors` [-], from `most` pixels evenly spread if given."""
        return float(np.sqrt(np.mean(self._errors_of(self._thinned(most)) ** 2)))

    def _thinned(self, most: int | None) -> np.ndarray:
        """Every n-th pixel of every n-th row of the region, so that they are about `most`."""
        rows = self._selected
        step = 1 if most is None else max(math.ceil(math.sqrt(rows.size / most)), 1)
        return rows[::step, ::step]

    def settle(self, target: float) -> None:
        """Close the blocks of pixels whose noise is at most `target` [-], their neighbours' at most twice that."""
        _, _, width, height = self.region
        blocks = block_means(self.relative_errors() ** 2)
        worst = ndimage.maximum_filter(blocks, 3, mode="nearest")
        done = (blocks <= target**2) & (worst <= (2 * target) ** 2)
        self._selected["settled"] |= spread(done, width, height)
        self._least = None

    def samples_left(self, wanted: int, target: float | None, most: int | None = None) -> int:
        """Samples of all pixels of the region that are still to be taken, as far as the noise so far can say.

        `most` pixels evenly spread are looked at, if given.

        Without a `target` [-] every pixel gets `wanted`. With one, a pixel is expected to end when its error, which
        falls with the root of the samples, has reached it; looked at by blocks, and only at doublings.
        """
        rows = self._thinned(most)
        have = rows["samples"].astype(np.float64)
        left = np.where(rows["settled"] != 0, 0.0, np.maximum(wanted - have, 0.0))
        if target is not None and have.min() >= 2:
            errors = self._errors_of(rows)
            height, width = errors.shape
            smooth = np.sqrt(spread(block_means(errors**2), width, height))
            needed = have * np.maximum(smooth / target, 1.0) ** 2
            needed = np.exp2(np.ceil(np.log2(np.maximum(needed, 1.0))))
            left = np.minimum(left, np.maximum(needed - have, 0.0) * (rows["settled"] == 0))
        return int(left.mean() * self._selected.size)
