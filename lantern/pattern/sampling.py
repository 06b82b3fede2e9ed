"""The operations of one input at many places at once, for the host: heights of what is displaced by a pattern.

In: tables, POINT rows. Out: what the operations leave in one slot of a material's row. Called by `compile.heights`.
"""

from numba import njit
from numpy import uint64 as u64

from lantern.kernel.memory import peek_f32, store_f32
from lantern.kernel.vectors import EXACT
from lantern.pattern.program import results_of, run_program
from lantern.pattern.tables import POINT

_BYTES = 4 * POINT.width


@njit(cache=True, **EXACT)
def sample_program(tables, first, count, points, rows, slot, made):
    """Fill float32 `made` at an address with a slot of the results of so many operations, for POINT rows."""
    for number in range(rows):
        point = points + u64(number * _BYTES)
        run_program(tables, first, count, point)
        store_f32(made, number, peek_f32(results_of(point), slot))
