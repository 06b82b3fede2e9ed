"""All swatches of the shelf, by their keys, in the order of their families."""

from functools import cache

from lantern.shelf import glass, hides, metals, minerals, paints, papers, plastics, textiles, woods
from lantern.shelf.swatch import Swatch

_ROOMS = (metals, glass, minerals, woods, hides, textiles, plastics, paints, papers)


@cache
def catalogue() -> dict[str, Swatch]:
    """Every swatch by its key."""
    return {each.key: each for room in _ROOMS for each in room.swatches()}
