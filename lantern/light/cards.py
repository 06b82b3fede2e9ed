"""Cards: soft shapes painted onto an environment map, so that the sampler and every path see them.

In: a map, the cards of the document, decoded images. Out: the map with them. Called by `compile.environment_tables`.

A card is flat and touches the sphere of directions at its middle: a direction is projected onto it from the centre
(gnomonic), so that a rectangle stays one with straight edges in a mirror. Its measures are the angles it spans there.
"""

import math
from collections.abc import Mapping, Sequence

import numpy as np

from lantern.color import LUMINANCE
from lantern.light.light_row import light_color
from lantern.scene.compass import direction_of
from lantern.scene.surroundings import Card, Environment

CARD_ROWS = 512
"""Rows that a map with cards has at least: 0.35° each."""
FINE_ROWS = 1024
"""Those of a map with a card thinner than FINE_BELOW degrees."""
FINE_BELOW = 4.0
_BARS = 0.06
"""Half the width of a window's bars, in shares of half its width."""


def shown_cards(environment: Environment) -> list[Card]:
    """Those that are painted, in their order; only those that are alone while some are."""
    lit = [card for _, card in sorted(environment.cards.items()) if card.enabled]
    alone = [card for card in lit if card.solo]
    return alone or lit


def rows_for(cards: Sequence[Card]) -> int:
    """Rows that a map needs to show cards."""
    return FINE_ROWS if any(min(card.width, card.height) < FINE_BELOW for card in cards) else CARD_ROWS


def with_rows(pixels: np.ndarray, rows: int) -> np.ndarray:
    """A copy of a map with at least so many rows and twice as many columns, bilinear as kernels look it up."""
    height, width = pixels.shape[:2]
    if height >= rows and width >= 2 * rows:
        return pixels.copy()
    rows, columns = max(rows, height), max(2 * rows, width)
    y = (np.arange(rows) + 0.5) / rows * height - 0.5
    x = (np.arange(columns) + 0.5) / columns * width - 0.5
    y0, x0 = np.floor(y).astype(int), np.floor(x).astype(int)
    fy, fx = (y - y0)[:, None, None].astype(np.float32), (x - x0)[None, :, None].astype(np.float32)
    y1, y0 = np.minimum(y0 + 1, height - 1), np.maximum(y0, 0)
    lines = pixels[y0] * (1 - fy) + pixels[y1] * fy
    return np.asarray(lines[:, x0 % width] * (1 - fx) + lines[:, (x0 + 1) % width] * fx, np.float32)


def _axes(card: Card) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(across, along, towards) unit vectors of a card, seen from the middle: across is to the right, along is up."""
    towards = np.array(direction_of(card.azimuth, card.elevation))
    a = math.radians(card.azimuth)
    across = np.array([math.cos(a), 0.0, math.sin(a)])
    along = np.cross(across, towards)
    c, s = math.cos(math.radians(card.roll)), math.sin(math.radians(card.roll))
    return c * across + s * along, c * along - s * across, towards


def _smooth(low: np.ndarray | float, high: np.ndarray | float, value: np.ndarray) -> np.ndarray:
    t = np.clip((value - low) / np.maximum(np.subtract(high, low), 1e-6), 0.0, 1.0)
    return np.asarray(t * t * (3 - 2 * t))


def _coverage(card: Card, x: np.ndarray, y: np.ndarray, texel: tuple[float, float]) -> np.ndarray:
    """Share [0, 1] that a card covers at places on it, ±1 at its edges.

    A soft edge lies within the shape; a hard one is blurred by a texel to both sides, and covers as much as it would.
    """
    tx, ty = texel
    texel_around = max(tx, ty)

    def up_to(place: np.ndarray, blur: float, soft: float) -> np.ndarray:
        return 1 - _smooth(1 - soft - blur, 1 + blur, place)

    radius = np.hypot(x, y)
    if card.shape == "round":
        return up_to(radius, texel_around, card.edge)
    if card.shape == "ring":
        inner = 1 - up_to(radius / 0.6, texel_around / 0.6, -card.edge / 2)
        return up_to(radius, texel_around, card.edge / 3) * inner
    inside = up_to(np.abs(x), tx, card.edge) * up_to(np.abs(y), ty, card.edge)
    if card.shape == "strip":
        # Its ends fade out over their whole length, as a long tube behind a cloth does.
        return up_to(np.abs(x), tx, card.edge) * up_to(np.abs(y), ty, max(card.edge, 0.6))
    if card.shape == "window":
        bars_x = _smooth(_BARS, _BARS + max(0.02, 2 * texel[0]), np.abs(x))
        bars_y = _smooth(_BARS, _BARS + max(0.02, 2 * texel[1]), np.abs(y))
        return inside * bars_x * bars_y
    return inside


def _colours(card: Card, x: np.ndarray, y: np.ndarray, image: np.ndarray | None) -> np.ndarray:
    """RGB [cd/m²] of a card at places on it."""
    color = light_color(card.color, card.temperature) * card.luminance
    fall = 1 - card.fall_off * np.clip(np.hypot(x, y), 0.0, 1.0) ** 2
    light = fall[..., None] * color
    if card.shape != "image" or image is None:
        return light
    height, width = image.shape[:2]
    column = np.clip(((x + 1) / 2 * width).astype(int), 0, width - 1)
    row = np.clip(((1 - y) / 2 * height).astype(int), 0, height - 1)
    return np.asarray(light * image[row, column])


def paint(pixels: np.ndarray, cards: Sequence[Card], images: Mapping[str, np.ndarray]) -> None:
    """Paint cards into a map, one over the other; `images` are linear (h, w, 3) by the SHA-256 of their files."""
    height, width = pixels.shape[:2]
    theta = (np.arange(height) + 0.5) / height * math.pi
    phi = ((np.arange(width) + 0.5) / width - 0.5) * 2 * math.pi
    for card in cards:
        across, along, towards = _axes(card)
        half_x, half_y = (math.tan(math.radians(side) / 2) for side in (card.width, card.height))
        reach = math.degrees(math.atan(math.hypot(half_x, half_y)))
        zenith = 90.0 - card.elevation
        top, bottom = math.radians(max(zenith - reach, 0.0)), math.radians(min(zenith + reach, 180.0))
        rows = np.flatnonzero((theta >= top) & (theta <= bottom))
        if len(rows) == 0:
            continue
        sine, cosine = np.sin(theta[rows])[:, None], np.cos(theta[rows])[:, None]
        d = [sine * np.sin(phi), np.broadcast_to(cosine, (len(rows), width)), -sine * np.cos(phi)]
        depth = sum(a * b for a, b in zip(d, towards, strict=True))
        seen = np.flatnonzero((depth > math.cos(math.radians(min(reach, 89.0)))).any(axis=0))
        if len(seen) == 0:
            continue
        d = [part[:, seen] for part in d]
        depth = np.maximum(depth[:, seen], 1e-6)
        x = sum(a * b for a, b in zip(d, across, strict=True)) / depth / half_x
        y = sum(a * b for a, b in zip(d, along, strict=True)) / depth / half_y
        step = math.pi / height
        cover = _coverage(card, x, y, (step / half_x, step / half_y)) * (depth > 1e-5)
        block = pixels[np.ix_(rows, seen)]
        block = _laid(card, block, cover[..., None], _colours(card, x, y, images.get(_file(card))))
        pixels[np.ix_(rows, seen)] = block


def _file(card: Card) -> str:
    return card.image.sha256 if card.image is not None else ""


def _laid(card: Card, below: np.ndarray, cover: np.ndarray, light: np.ndarray) -> np.ndarray:
    """What is seen where a card lies over something."""
    if card.blend == "add":
        return below + cover * light
    if card.blend == "replace":
        return below * (1 - cover) + cover * light
    # A flag is black: what it would shine with has no meaning.
    return below * (1 - cover)


def luminance_of(pixels: np.ndarray) -> float:
    """Mean luminance [cd/m²] of a map over the sphere."""
    rows = np.sin((np.arange(pixels.shape[0]) + 0.5) / pixels.shape[0] * math.pi)
    return float((pixels.mean(axis=1, dtype=np.float64) @ LUMINANCE) @ rows / rows.sum())
