"""The denoiser of a host: beside the sampling, in a thread of lower priority that gives way when it must.

In: means of a film. Out: a developed picture, or none when it gave way or could not be made. Called by `loop`.
"""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from lantern.film.film import Means
from lantern.picture.denoise import Quality, prepare_denoiser, whole_guides
from lantern.picture.develop import Developed, develop
from server.host.pane import LOUPE_MARGIN, Pane
from server.host.shown import Region
from server.runtime.priority import lower_priority


@dataclass(frozen=True)
class Denoised:
    """What came of a picture: `made` is None when it gave way, or failed with `error`."""

    pane: str
    made: Developed | None
    generation: int
    samples: int
    flags: int
    region: Region | None
    error: str | None = None


class Denoiser:
    """One thread; its pictures arrive where `deliver` puts them."""

    def __init__(self, deliver: Callable[[Denoised], None]) -> None:
        self._deliver = deliver
        self._thread = ThreadPoolExecutor(1, thread_name_prefix="denoiser", initializer=lower_priority)
        self.stop = False
        """Set by what makes its picture useless; taken back when the next one begins."""

    def prepare(self) -> None:
        """Load the library; its threads inherit the priority of the thread that first uses it."""
        self._thread.submit(prepare_denoiser).result()

    def start(self, pane: Pane, means: Means, quality: Quality, flags: int, region: Region | None) -> None:
        """Denoise the means of a pane's film."""
        generation = pane.generation
        self.stop = False

        def work() -> None:
            made, error = None, None
            try:
                made = self._develop(means, quality, region)
            except Exception as problem:
                # The next picture may go well; without an answer the pane would wait for this one for ever.
                error = f"the picture cannot be denoised: {problem or type(problem).__name__}"
            self._deliver(Denoised(pane.name, made, generation, means.samples, flags, region, error))

        self._thread.submit(work)

    def _develop(self, means: Means, quality: Quality, region: Region | None) -> Developed | None:
        rows, columns = slice(None), slice(None)
        if region is not None:
            x, y, width, height = region
            rows = slice(max(y - LOUPE_MARGIN, 0), y + height + LOUPE_MARGIN)
            columns = slice(max(x - LOUPE_MARGIN, 0), x + width + LOUPE_MARGIN)
        radiance, albedo, normal = (
            np.ascontiguousarray(a[rows, columns]) for a in (means.radiance, means.albedo, means.normal)
        )
        alpha = means.alpha[rows, columns]
        made = develop(
            radiance,
            alpha,
            whole_guides(albedo, normal),
            denoise=quality,
            transparent=False,
            give_way=lambda: self.stop,
        )
        if region is None or made is None:
            return made
        whole = means.radiance.copy()
        whole[rows, columns] = made.radiance
        return Developed(whole, means.alpha)
