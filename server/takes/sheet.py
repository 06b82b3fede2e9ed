"""The contact sheet on paper: pictures with their marks and captions, as PDF.

In: takes in order or other pictures, the name of what they are of. Out: bytes of a PDF of A4 pages. Called by the HTTP
interface of takes, and by that of orders.
"""

import io
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from importlib.resources import files
from pathlib import Path

import numpy as np
from reportlab.lib.pagesizes import A4, landscape
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader, simpleSplit
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from server.takes.comparing import picture_path
from server.takes.models import Take

MARGIN, GAP, CAPTION, HEAD = 14 * mm, 7 * mm, 17 * mm, 12 * mm
COLUMNS, ROWS = 3, 2
SMALL, LARGE = 7.5, 12.0
"""Points of the type."""
INK, FAINT, MARKED = (0.13, 0.12, 0.11), (0.42, 0.40, 0.38), (0.80, 0.22, 0.12)
HEAD_OF_ARROW = 3 * mm
STAR = 3.2 * mm
LINES = 3
"""Of a note."""


@dataclass(frozen=True)
class Cell:
    """A picture on the sheet, what is drawn on it, and what stands under it."""

    picture: Path | io.BytesIO
    size: tuple[int, int]
    caption: tuple[str, ...]
    """The first in ink and on one line, the others faint; of the second LINES at most."""
    stars: int = 0
    marks: Sequence[dict] = ()


def cell_of(take: Take) -> Cell:
    """A take with its marks, when and by whom it was kept, its stars and its note."""
    by = f", {take.author.get_username()}" if take.author else ""
    head = " · ".join(filter(None, (f"{take.created:%d %b %Y %H:%M}{by}", take.shown)))
    caption = (head, take.note, ", ".join(take.labels))
    return Cell(picture_path(take), (take.width, take.height), caption, take.stars, take.marks)


def _fonts() -> None:
    if "Sheet" not in pdfmetrics.getRegisteredFontNames():
        path = files("lantern.assets").joinpath("fonts", "sans.ttf")
        pdfmetrics.registerFont(TTFont("Sheet", str(path)))


def contact_sheet(head: str, of: str, cells: Sequence[Cell], now: datetime) -> bytes:
    """Six pictures a page under a heading; `of` says what they are."""
    _fonts()
    target = io.BytesIO()
    width, height = landscape(A4)
    canvas = Canvas(target, pagesize=(width, height))
    canvas.setTitle(f"{head}: {of}")
    step = COLUMNS * ROWS
    pages = [cells[start : start + step] for start in range(0, len(cells), step)] or [[]]
    for number, page in enumerate(pages, 1):
        _words(canvas, MARGIN, height - MARGIN - LARGE, "".join(_split(head, width)[:1]), LARGE, INK)
        _words(canvas, width - MARGIN, MARGIN - 6 * mm, f"{number} / {len(pages)}", SMALL, FAINT, to_right=True)
        _words(canvas, MARGIN, MARGIN - 6 * mm, f"{now:%d %B %Y}", SMALL, FAINT)
        for cell, box in zip(page, _boxes(width, height), strict=False):
            _draw(canvas, cell, box)
        canvas.showPage()
    canvas.save()
    return target.getvalue()


Box = tuple[float, float, float, float]


def _boxes(width: float, height: float) -> Iterator[Box]:
    """(left, bottom, width, height) of the pictures of a page [points]."""
    wide = (width - 2 * MARGIN - (COLUMNS - 1) * GAP) / COLUMNS
    tall = (height - 2 * MARGIN - HEAD - (ROWS - 1) * GAP) / ROWS
    for row in range(ROWS):
        bottom = height - MARGIN - HEAD - (row + 1) * tall - row * GAP + CAPTION
        for column in range(COLUMNS):
            yield MARGIN + column * (wide + GAP), bottom, wide, tall - CAPTION


def _draw(canvas: Canvas, cell: Cell, box: Box) -> None:
    left, bottom, wide, tall = box
    width, height = cell.size
    scale = min(wide / width, tall / height)
    across, up = width * scale, height * scale
    top = bottom + tall
    canvas.drawImage(ImageReader(cell.picture), left, top - up, across, up)
    for mark in cell.marks:
        _mark(canvas, mark, (left, top - up, across, up))
    _caption(canvas, cell, (left, top - up, wide))


def _caption(canvas: Canvas, cell: Cell, below: tuple[float, float, float]) -> None:
    """What stands under a picture, and its stars. `below` is (left, bottom, width) of the picture."""
    left, bottom, wide = below
    room = wide - cell.stars * STAR
    rooms = [(room, 1), (wide, LINES), *[(wide, 1)] * len(cell.caption)]
    lines = [
        line for words, (space, most) in zip(cell.caption, rooms, strict=False) for line in _split(words, space)[:most]
    ]
    for number, line in enumerate(lines):
        _words(canvas, left, bottom - (number + 1) * SMALL * 1.35, line, SMALL, FAINT if number else INK)
    for number in range(cell.stars):
        _star(canvas, left + room + (number + 0.5) * STAR, bottom - SMALL)


def _split(words: str, wide: float) -> list[str]:
    """Lines of some words; what the font has no sign for is a question mark."""
    known = pdfmetrics.getFont("Sheet").face.charToGlyph
    shown = "".join(sign if ord(sign) in known or sign == "\n" else "?" for sign in words)
    return simpleSplit(shown, "Sheet", SMALL, wide)


def _star(canvas: Canvas, x: float, y: float) -> None:
    """A star with five points around a place; the font has none."""
    corners = [
        (x + radius * math.sin(turn), y + radius * math.cos(turn))
        for turn, radius in zip(np.arange(10) * math.pi / 5, [STAR * 0.42, STAR * 0.18] * 5, strict=True)
    ]
    path = canvas.beginPath()
    path.moveTo(*corners[0])
    for corner in corners[1:]:
        path.lineTo(*corner)
    path.close()
    canvas.setFillColorRGB(*INK)
    canvas.drawPath(path, stroke=0, fill=1)


def _words(
    canvas: Canvas, x: float, y: float, words: str, size: float, color: tuple[float, ...], *, to_right: bool = False
) -> None:
    canvas.setFont("Sheet", size)
    canvas.setFillColorRGB(*color)
    (canvas.drawRightString if to_right else canvas.drawString)(x, y, words)


def _mark(canvas: Canvas, mark: dict, box: Box) -> None:
    left, bottom, across, up = box
    (x0, y0), (x1, y1) = ((left + x * across, bottom + (1 - y) * up) for x, y in (mark["start"], mark["end"]))
    canvas.setStrokeColorRGB(*MARKED)
    canvas.setLineWidth(1.2)
    match mark["kind"]:
        case "ring":
            canvas.ellipse(min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1))
        case "arrow":
            _arrow(canvas, x0, y0, x1, y1)
    for line in _split(mark["words"], across)[:1]:
        _words(canvas, x0, y0, line, SMALL, MARKED)


def _arrow(canvas: Canvas, x0: float, y0: float, x1: float, y1: float) -> None:
    canvas.line(x0, y0, x1, y1)
    length = ((x1 - x0) ** 2 + (y1 - y0) ** 2) ** 0.5
    if length == 0:
        return
    along, beside = ((x0 - x1) / length, (y0 - y1) / length), ((y1 - y0) / length, (x0 - x1) / length)
    for side in (-0.5, 0.5):
        tip = [HEAD_OF_ARROW * (a + side * b) for a, b in zip(along, beside, strict=True)]
        canvas.line(x1, y1, x1 + tip[0], y1 + tip[1])
