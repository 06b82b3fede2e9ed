"""The kernel that a thread runs to follow paths. Called by `engine` through the film's pool of threads."""

from numba import njit

from lantern.film.tiles import fill_tiles
from lantern.kernel.vectors import EXACT
from lantern.transport.boundary import find_volumes
from lantern.transport.path import trace_path


@njit(cache=True, **EXACT)
def trace_tiles(scene, tree, scratch):
    """Path-trace tiles. `scene`, `tree`, `scratch` are addresses (uint64)."""
    find_volumes(scene, tree, scratch)
    fill_tiles(trace_path, scene, tree, scratch)
