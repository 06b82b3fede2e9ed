"""More invented environments, of cards in rooms and of noise under skies: studios, a room, a forest edge, a street."""

from collections.abc import Callable

import numpy as np

from demo.patterns import layered_noise
from lantern.light.appearance import graded_map
from lantern.light.cards import paint, with_rows
from lantern.scene.surroundings import Card, Graded

HEIGHT = 512
Color = tuple[float, float, float]


def _angles() -> tuple[np.ndarray, np.ndarray]:
    """(elevation (HEIGHT, 1), azimuth (1, 2 HEIGHT)) in degrees of the pixels of a map."""
    elevation = 90 - (np.arange(HEIGHT) + 0.5) / HEIGHT * 180
    azimuth = ((np.arange(2 * HEIGHT) + 0.5) / (2 * HEIGHT) - 0.5) * 360
    return elevation[:, None], azimuth[None, :]


def _smooth(low: float, high: float, x: np.ndarray) -> np.ndarray:
    t = np.clip((x - low) / (high - low), 0, 1)
    return t * t * (3 - 2 * t)


def _room(zenith: Color, horizon: Color, ground: Color, height: float, *cards: Card) -> np.ndarray:
    graded = Graded(zenith=zenith, horizon=horizon, ground=ground, horizon_height=height)
    pixels = with_rows(graded_map(graded), HEIGHT)
    paint(pixels, cards, {})
    return pixels


def _card(
    shape: str, azimuth: float, elevation: float, size: tuple[float, float], luminance: float, **more: object
) -> Card:
    fields = {"name": shape, "shape": shape, "azimuth": azimuth, "elevation": elevation, "luminance": luminance}
    return Card.model_validate(fields | {"width": size[0], "height": size[1], "edge": 0.08, "fall_off": 0.35} | more)


def strip_studio() -> np.ndarray:
    """A dark room with four tall strips, two behind the sides, and a low fill."""
    return _room(
        (0.05, 0.05, 0.052), (0.035, 0.035, 0.037), (0.02, 0.02, 0.02), 40,
        *(_card("strip", a, 12, (9, 110), 14 if abs(a) < 90 else 7, temperature=5800) for a in (-55, 55, -130, 130)),
        _card("rectangle", 180, -8, (80, 30), 0.5, edge=0.6),
    )  # fmt: skip


def ring_studio() -> np.ndarray:
    """A pale room with a large ring of light in front and a cloth overhead."""
    return _room(
        (0.34, 0.34, 0.35), (0.2, 0.2, 0.2), (0.12, 0.12, 0.12), 60,
        _card("ring", 168, 22, (54, 54), 16, temperature=5600), _card("rectangle", 0, 82, (90, 70), 3.2, edge=0.3),
    )  # fmt: skip


def cove_studio() -> np.ndarray:
    """A white cove, lit from above and along its foot."""
    return _room(
        (0.9, 0.9, 0.9), (0.62, 0.62, 0.63), (0.5, 0.5, 0.49), 70,
        _card("rectangle", 0, 75, (110, 60), 5, edge=0.4),
        *(_card("strip", a, -3, (60, 14), 1.4, roll=0, edge=0.6) for a in (-70, 0, 70)),
    )  # fmt: skip


def window_room() -> np.ndarray:
    """A room in the afternoon: two tall windows to the left, a warm floor, a pale wall opposite."""
    pixels = _room(
        (0.2, 0.19, 0.18), (0.26, 0.24, 0.22), (0.13, 0.1, 0.075), 60,
        _card("window", -102, 14, (34, 62), 9, temperature=6800, edge=0.02, fall_off=0.15),
        _card("window", -58, 14, (30, 58), 8, temperature=6800, edge=0.02, fall_off=0.15),
        _card("rectangle", 95, 8, (110, 50), 0.35, edge=0.7, temperature=4600),
    )  # fmt: skip
    elevation, _ = _angles()
    boards = np.tile(layered_noise(HEIGHT, 32, 3, 51), (1, 2))[..., None]
    return np.asarray(pixels * np.where(elevation[..., None] < -12, 0.75 + 0.5 * boards, 1.0), np.float32)


def forest_edge() -> np.ndarray:
    """At the edge of a wood under a bright sky: dark crowns on one side, a meadow, an open horizon on the other."""
    elevation, azimuth = _angles()
    crowns = np.tile(layered_noise(HEIGHT, 18, 6, 52), (1, 2))
    leaves = np.tile(layered_noise(HEIGHT, 90, 3, 53), (1, 2))
    top = 6 + 34 * (0.5 + 0.5 * np.cos(np.radians(azimuth + 40))) ** 1.5 + 16 * (crowns - 0.5)
    height = np.clip(elevation / 90, 0, 1)
    sky = (1.25 - 0.45 * height)[..., None] * np.array([0.78, 0.9, 1.06])
    clouds = _smooth(0.45, 0.8, np.tile(layered_noise(HEIGHT, 7, 5, 54), (1, 2)))[..., None]
    sky = sky * (1 - 0.5 * clouds) + 1.25 * clouds * np.array([1.0, 0.99, 0.97])
    wood = (0.02 + 0.13 * leaves**2)[..., None] * np.array([0.5, 0.85, 0.28])
    meadow = (0.12 + 0.14 * np.tile(layered_noise(HEIGHT, 60, 4, 55), (1, 2)))[..., None] * np.array([0.72, 0.95, 0.32])
    gaps = _smooth(0.7, 0.82, leaves) * _smooth(0, 14, elevation)
    is_wood = (_smooth(-1.5, 1.5, top - elevation) * (1 - 0.7 * gaps))[..., None]
    above = sky * (1 - is_wood) + wood * is_wood
    ground = _smooth(-1.0, 1.0, -elevation)[..., None]
    return np.asarray(above * (1 - ground) + meadow * ground, np.float32)


def night_street() -> np.ndarray:
    """A street at night: lamps in two rows, lit windows in dark fronts, wet ground."""
    elevation, azimuth = _angles()
    grain = np.tile(layered_noise(HEIGHT, 40, 4, 56), (1, 2))
    sky = (0.012 + 0.02 * np.exp(-np.clip(elevation, 0, 90) / 18))[..., None] * np.array([0.55, 0.65, 1.0])
    front_top = (
        16 + 7 * np.round(2 * np.cos(np.radians(azimuth * 3))) + 6 * np.round(np.cos(np.radians(azimuth * 7 + 20)))
    )
    fronts = (0.008 + 0.012 * grain)[..., None] * np.array([1.0, 0.85, 0.7])
    rng = np.random.default_rng(57)
    columns, rows = np.floor((azimuth + 180) / 3.2).astype(int), np.floor(elevation / 4.2).astype(int)
    lit = rng.random((400, 40)) < 0.28
    inside = (np.mod(azimuth, 3.2) / 3.2 > 0.35) & (np.mod(elevation, 4.2) / 4.2 > 0.35)
    shown = lit[np.clip(columns, 0, 399), np.clip(rows, 0, 39)] & inside & (elevation > 3) & (elevation < front_top - 1)
    warm = np.where(rng.random((400, 40, 1)) < 0.7, np.array([1.3, 0.75, 0.32]), np.array([0.7, 0.9, 1.1]))
    fronts = np.where(shown[..., None], 0.8 * warm[np.clip(columns, 0, 399), np.clip(rows, 0, 39)], fronts)
    above = np.where((elevation < front_top)[..., None], fronts, sky)
    wet = (0.02 + 0.05 * grain**2)[..., None] * np.array([1.0, 0.8, 0.6])
    pixels = np.asarray(np.where((elevation < 0)[..., None], wet, above), np.float32)
    lamps = [
        _card("round", a, e, (2.2 * e / 20, 1.6 * e / 20), 900, temperature=k, edge=0.4)
        for a, e, k in (
            (-70, 38, 2300),
            (-28, 20, 2300),
            (-12, 12, 2300),
            (62, 38, 2300),
            (24, 20, 2300),
            (160, 30, 3800),
        )
    ]
    paint(pixels, lamps, {})
    return pixels


def white_tent() -> np.ndarray:
    """A tent of white cloth around everything, with seams, lit from the outside at both sides."""
    pixels = _room(
        (0.95, 0.95, 0.95), (0.85, 0.85, 0.86), (0.7, 0.7, 0.69), 80,
        _card("round", -80, 30, (80, 80), 2.2, edge=0.95), _card("round", 80, 30, (80, 80), 2.2, edge=0.95),
    )  # fmt: skip
    _, azimuth = _angles()
    seam = 1 - 0.22 * np.exp(-((np.mod(azimuth + 22.5, 45) - 22.5) ** 2) / 0.5)
    return np.asarray(pixels * seam[..., None], np.float32)


ROOMS: dict[str, tuple[str, Callable[[], np.ndarray]]] = {
    "strip-studio": ("Strip Studio", strip_studio),
    "ring-studio": ("Ring Studio", ring_studio),
    "cove-studio": ("Cove Studio", cove_studio),
    "window-room": ("Window Room", window_room),
    "forest-edge": ("Forest Edge", forest_edge),
    "night-street": ("Night Street", night_street),
    "white-tent": ("White Tent", white_tent),
}
