"""A thread's counters: rays by kind, and what went wrong."""

from numba import njit

from lantern.kernel.memory import peek_i64, store_i64
from lantern.kernel.vectors import SMALL
from lantern.rays.layout import SCRATCH_COUNTERS


@njit(**SMALL)
def count(scratch, kind):
    """One more of a kind of `layout.COUNTERS`."""
    store_i64(scratch, SCRATCH_COUNTERS + kind, peek_i64(scratch, SCRATCH_COUNTERS + kind) + 1)
