"""IES photometric profiles: reading the file, and the table that kernels look intensity up in.

ANSI/IES LM-63-2019 (and its 1986 to 2002 forms), photometry of type C: vertical angle 0° along the light's axis,
horizontal angle 0° along its `across` vector. In: the text of a profile. Out: `Profile`.
"""

from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy import float32 as f32

from lantern.kernel.elementary import INV_TWO_PI, arccos, arctan2
from lantern.kernel.memory import load_f32
from lantern.kernel.vectors import SMALL

VERTICALS, HORIZONTALS = 181, 73  # every degree; every 5 degrees, first and last the same
PROFILE_SIZE = VERTICALS * HORIZONTALS


class ProfileError(ValueError):
    """A profile cannot be used; the message names the file and says why."""


@dataclass(frozen=True, eq=False)
class Profile:
    """Candela over a grid of directions."""

    candela: np.ndarray  # (VERTICALS, HORIZONTALS) float32 cd

    def lumens(self) -> float:
        """Total flux [lm] of the grid as the kernels interpolate it, by the trapezoid rule in the solid angle."""
        theta = np.linspace(0.0, np.pi, VERTICALS)
        around = (self.candela[:, :-1].mean(axis=1, dtype=np.float64)) * 2 * np.pi
        fine = np.linspace(0.0, np.pi, 16 * (VERTICALS - 1) + 1)
        values = np.interp(fine, theta, around) * np.sin(fine)
        return float(np.trapezoid(values, fine))


SOLID_PLANES, SOLID_POINTS = 12, 37
"""Half planes around the axis, and directions in each, by which a distribution is drawn."""


def profile_solid(profile: Profile) -> tuple[np.ndarray, float]:
    """((SOLID_PLANES, SOLID_POINTS, 3) places, largest intensity [cd]): the photometric solid in the light's frame.

    Places lie in the directions (across, along, forward) at their share [0, 1] of the largest intensity; the first of
    each half plane lies on the axis (CIE S 017, 17-24-021, intensity distribution).
    """
    largest = float(profile.candela.max())
    theta = np.linspace(0.0, np.pi, SOLID_POINTS)
    rows = np.linspace(0, VERTICALS - 1, SOLID_POINTS).round().astype(int)
    columns = (np.arange(SOLID_PLANES) * (HORIZONTALS - 1)) // SOLID_PLANES
    phi = columns / (HORIZONTALS - 1) * 2 * np.pi
    share = profile.candela[rows][:, columns].T.astype(np.float64) / max(largest, 1e-9)
    sine, cosine = np.sin(theta), np.cos(theta)
    towards = np.stack(
        [
            np.outer(np.cos(phi), sine),
            np.outer(np.sin(phi), sine),
            np.broadcast_to(cosine, (SOLID_PLANES, SOLID_POINTS)),
        ],
        axis=-1,
    )
    return towards * share[..., None], largest


def read_profile(text: str, name: str) -> Profile:
    """Parse an LM-63 file. Raises ProfileError for another photometry type, missing numbers or wrong angles."""
    lines = text.replace("\r", "\n").split("\n")
    tilt = next((i for i, line in enumerate(lines) if line.strip().upper().startswith("TILT=")), None)
    if tilt is None:
        raise ProfileError(f"{name}: has no TILT line, so it is not an IES profile")
    if lines[tilt].strip().upper() != "TILT=NONE":
        raise ProfileError(f"{name}: {lines[tilt].strip()} is not supported, only TILT=NONE")
    try:
        numbers = [float(word) for word in " ".join(lines[tilt + 1 :]).replace(",", " ").split()]
    except ValueError as error:
        raise ProfileError(f"{name}: a number after the TILT line cannot be read ({error})") from None
    if len(numbers) < 13:
        raise ProfileError(f"{name}: ends after {len(numbers)} numbers; the head alone has 13")
    multiplier, verticals, horizontals, kind = numbers[2], int(numbers[3]), int(numbers[4]), int(numbers[5])
    if kind != 1:
        raise ProfileError(
            f"{name}: photometry type {'CBA'[kind - 1] if 1 <= kind <= 3 else kind} is not supported, only C"
        )
    needed = 13 + verticals + horizontals + verticals * horizontals
    if verticals < 2 or horizontals < 1 or len(numbers) < needed:
        raise ProfileError(f"{name}: {verticals} x {horizontals} angles need {needed} numbers, it has {len(numbers)}")
    v = np.array(numbers[13 : 13 + verticals])
    h = np.array(numbers[13 + verticals : 13 + verticals + horizontals])
    if (np.diff(v) <= 0).any() or (np.diff(h) <= 0).any():
        raise ProfileError(f"{name}: its angles do not rise")
    start = 13 + verticals + horizontals
    table = np.array(numbers[start:needed]).reshape(horizontals, verticals) * multiplier * numbers[10] * numbers[11]
    if not np.isfinite(table).all() or (table < 0).any():
        raise ProfileError(f"{name}: has a candela value that is negative or not finite")
    return Profile(_on_grid(v, *_all_around(h, table, name)))


def _all_around(h: np.ndarray, table: np.ndarray, name: str) -> tuple[np.ndarray, np.ndarray]:
    """Unfold the symmetry that the last horizontal angle states (LM-63, section 5.13)."""
    if len(h) == 1:
        return np.array([0.0, 360.0]), np.repeat(table, 2, axis=0)
    last = h[-1]
    if h[0] != 0.0 or last not in (90.0, 180.0, 360.0):
        raise ProfileError(f"{name}: horizontal angles run from {h[0]:g} to {last:g}, expected 0 to 90, 180 or 360")
    if last == 90.0:
        h, table = np.concatenate([h, 180.0 - h[-2::-1]]), np.concatenate([table, table[-2::-1]])
    if last in (90.0, 180.0):
        h, table = np.concatenate([h, 360.0 - h[-2::-1]]), np.concatenate([table, table[-2::-1]])
    return h, table


def _on_grid(v: np.ndarray, h: np.ndarray, table: np.ndarray) -> np.ndarray:
    """Bilinear resampling; directions outside the given vertical angles are dark."""
    theta, phi = np.linspace(0, 180, VERTICALS), np.linspace(0, 360, HORIZONTALS)
    down = np.stack([np.interp(theta, v, row, left=0.0, right=0.0) for row in table], axis=1)
    return np.stack([np.interp(phi, h, row) for row in down]).astype(np.float32)


@njit(**SMALL)
def profile_intensity(profiles, number, x, y, z):
    """Candela [cd] along a unit direction in the light's frame, z along its axis."""
    v = arccos(z) * f32(180.0 / np.pi)
    turn = arctan2(y, x) * INV_TWO_PI
    turn = turn + f32(1.0) if turn < f32(0.0) else turn
    h = turn * f32(HORIZONTALS - 1)
    i, j = min(int(v), VERTICALS - 2), min(int(h), HORIZONTALS - 2)
    a, b = v - f32(i), h - f32(j)
    at = number * PROFILE_SIZE + i * HORIZONTALS + j
    low = load_f32(profiles, at) * (f32(1.0) - b) + load_f32(profiles, at + 1) * b
    high = load_f32(profiles, at + HORIZONTALS) * (f32(1.0) - b) + load_f32(profiles, at + HORIZONTALS + 1) * b
    return low * (f32(1.0) - a) + high * a
