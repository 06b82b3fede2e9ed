"""Cutting the work on a frame into pieces.

In: a region of the frame, what its blocks of pixels cost, what machines do in a second. Out: pieces. Called by whoever
leads a print that several machines make.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from lantern.film.blocks import BLOCK

Region = tuple[int, int, int, int]
PIECES_A_WORKER = 25
"""Pieces that each machine would get were all alike: with so many the last ones end close to one another."""
LEAST_SECONDS, MOST_SECONDS = 2.0, 30.0
"""Of the usual machine on a piece: with less it would mostly fetch and store, with more too much is lost with it."""


@dataclass(frozen=True)
class Piece:
    """A part of a frame and what it costs, in the unit of the costs it was cut by."""

    region: Region
    cost: float


def piece_count(cost: float, speeds: Sequence[float]) -> int:
    """Into how many pieces to cut work of a cost, for machines that do so much of it in a second each.

    Raises ValueError without machines, or for speeds that are not positive.
    """
    if not speeds or min(speeds) <= 0:
        raise ValueError("work is divided among machines whose speeds are known and more than 0")
    whole = cost / sum(speeds)
    seconds = min(max(whole / PIECES_A_WORKER, LEAST_SECONDS), MOST_SECONDS)
    return max(math.ceil(cost * len(speeds) / (sum(speeds) * seconds)), 1)


def divided(region: Region, costs: np.ndarray, count: int) -> list[Piece]:
    """Cut a region (x, y, width, height) at edges of blocks into at most `count` pieces of about the same cost.

    `costs` is (rows, columns), not negative, of all blocks of the frame. Dearest first. A block is never cut.
    """
    x, y, width, height = region
    blocks = (y // BLOCK, -(-(y + height) // BLOCK), x // BLOCK, -(-(x + width) // BLOCK))
    found = [
        Piece(_pixels(part, region), float(costs[part[0] : part[1], part[2] : part[3]].sum()))
        for part in _cut(blocks, costs, count)
    ]
    return sorted(found, key=lambda piece: -piece.cost)


def _cut(blocks: Region, costs: np.ndarray, count: int) -> list[Region]:
    """(top, bottom, left, right) in blocks, cut across the longer side again and again."""
    top, bottom, left, right = blocks
    rows, columns = bottom - top, right - left
    if count < 2 or rows * columns < 2:
        return [blocks]
    across = rows >= columns
    lines = costs[top:bottom, left:right].sum(axis=1 if across else 0)
    first = count // 2
    sums = np.cumsum(lines)[:-1]
    at = int(np.argmin(np.abs(sums - lines.sum() * first / count))) + 1
    if across:
        halves = (top, top + at, left, right), (top + at, bottom, left, right)
    else:
        halves = (top, bottom, left, left + at), (top, bottom, left + at, right)
    return [*_cut(halves[0], costs, first), *_cut(halves[1], costs, count - first)]


def _pixels(blocks: Region, region: Region) -> Region:
    """Blocks (top, bottom, left, right) as pixels (x, y, width, height) within a region."""
    x, y, width, height = region
    top, bottom, left, right = (edge * BLOCK for edge in blocks)
    left, right = max(left, x), min(right, x + width)
    top, bottom = max(top, y), min(bottom, y + height)
    return left, top, right - left, bottom - top
