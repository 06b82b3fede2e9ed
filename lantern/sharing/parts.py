"""Parts of films: what a machine has made of its piece, and where that goes.

In: a film with a region selected, or a film and such a part. Out: the part, or the film with it. Called by whoever
makes a piece, and by whoever puts the pieces together.
"""

import numpy as np

from lantern.film.film import Film
from lantern.sharing.pieces import Region


def part_of(film: Film) -> dict[str, np.ndarray]:
    """Everything that a film knows of its region, by name, (height, width, …) each."""
    return {name: np.ascontiguousarray(_window(film, rows)) for name, rows in _rows(film).items()}


def lay_in(film: Film, region: Region, part: dict[str, np.ndarray]) -> None:
    """Put a part where it belongs in a film of the same kind, to the bit. Raises ValueError for one of another kind."""
    selected = film.region
    film.select(region)
    try:
        windows = {name: _window(film, rows) for name, rows in _rows(film).items()}
        shapes = {name: (window.dtype, window.shape) for name, window in windows.items()}
        if shapes != {name: (rows.dtype, rows.shape) for name, rows in part.items()}:
            raise ValueError(f"this part of a film does not fit the region {region}: it was made for another film")
        for name, window in windows.items():
            window[...] = part[name]
    finally:
        film.select(selected)


def _rows(film: Film) -> dict[str, np.ndarray]:
    return {name: rows for name, rows in film.arrays().items() if name != "plan"}


def _window(film: Film, rows: np.ndarray) -> np.ndarray:
    x, y, width, height = film.region
    whole = rows.reshape(film.height, film.width, *rows.shape[1:])
    return whole[y : y + height, x : x + width]
