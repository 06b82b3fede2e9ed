"""Small pictures of prints while they are being made, and once they are done.

In: an engine with the document open, the film or the finished picture. Out: the print's row. Called by `working` and
`sequence`.
"""

import io
import math
import time
from contextlib import suppress
from dataclasses import dataclass

import numpy as np
from django.db.models import F
from django.utils import timezone
from PIL import Image

from lantern.engine.engine import Engine
from lantern.engine.filling import glimpse
from lantern.film.film import Film
from lantern.picture.encode import encode_jpeg, shrunk
from server.prints.models import Print
from server.runtime.patience import AWAY
from server.takes.sheet import Cell

MOST = 640
"""Pixels of the longer side."""
EVERY_SECONDS = 3.0
NOISE_PIXELS = 20_000
"""From so many pixels noise is estimated."""


def cell_of(item: Print) -> Cell:
    """A print on a contact sheet: its small picture, name, size, and when it was done."""
    assert item.glimpse is not None
    picture = io.BytesIO(item.glimpse)
    with Image.open(picture) as opened:
        size = opened.size
    settings = item.scene["print"]
    made = f", {timezone.localtime(item.ended):%d %b %Y %H:%M}" if item.ended else ""
    caption = (item.name or f"Print {item.pk}", f"{settings['width']} × {settings['height']}{made}")
    return Cell(picture, size, caption)


@dataclass
class Glimpses:
    """Shows a print to those who wait for it."""

    number: int
    engine: Engine
    shown: float = 0.0

    def show(self, film: Film) -> bool:
        """Show a film as it is, now and then; whether it did."""
        if film.samples < 1 or time.monotonic() - self.shown < EVERY_SECONDS:
            return False
        noise = film.noise(NOISE_PIXELS)
        self._keep(glimpse(self.engine, film, MOST), 100 * noise if math.isfinite(noise) else None)
        return True

    def show_finished(self, picture: np.ndarray) -> None:
        """Show a finished picture, (h, w, 3 or 4) uint8; what is transparent stands before grey."""
        height, width = picture.shape[:2]
        scale = min(MOST / max(height, width), 1.0)
        small = shrunk(picture, max(round(scale * width), 1), max(round(scale * height), 1))
        if small.shape[2] == 4:
            cover = small[..., 3:] / 255
            small = (small[..., :3] * cover + 96 * (1 - cover)).astype(np.uint8)
        self._keep(small, None)

    def _keep(self, picture: np.ndarray, noise: float | None) -> None:
        self.shown = time.monotonic()
        fields = {"glimpse": encode_jpeg(picture), "glimpses": F("glimpses") + 1, "noise": noise}
        with suppress(*AWAY):  # the next comes soon
            Print.objects.filter(pk=self.number, state=Print.State.RUNNING).update(**fields)
