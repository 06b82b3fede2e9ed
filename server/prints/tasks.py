"""Tasks of print workers. They take keys, fetch, and call the code that does the work."""

from typing import Any

from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app

from server.workers.here import KINDS

MOST_HELPS = 3
"""Workers that may die of helping with a print, before no more are called."""


LATER_SECONDS = 5
"""After which a print is offered again that was too large for the worker that took it."""


@app.task(name="print_frame", queue=KINDS["stills"], pass_context=True)
def print_frame(context: JobContext, print_id: int) -> None:
    """Make one print, or go on with it where a worker that died left it."""
    from server.prints.working import work_on

    work_on(print_id, context.job.priority)


@app.task(name="help_print", queue=KINDS["stills"], pass_context=True)
def help_print(context: JobContext, print_id: int) -> None:
    """Make pieces of a print that another worker leads."""
    from server.prints.helping import help_with

    if context.job.attempts <= MOST_HELPS:
        help_with(print_id)


@app.task(name="tell_of_print", queue="intake", retry=RetryStrategy(max_attempts=6, exponential_wait=4))
def tell_of_print(print_id: int) -> None:
    """Tell the program that waits for it that a print has ended; by the server's own worker, wherever it was made."""
    from server.prints.telling import tell

    tell(print_id)


def call_help(print_id: int, kind: str, priority: int) -> None:
    """Have one more worker help with a print of a kind, `stills` or `films`."""
    help_print.configure(queue=KINDS[kind], priority=priority).defer(print_id=print_id)


def queue_print(print_id: int, kind: str = "stills", priority: int = 0, *, later: bool = False) -> None:
    """Have a print of a kind made, or `later`, by another worker; those of a higher priority come first.

    One that is queued twice, to come sooner, is made once: the tasks of a print wait for one another, and the later
    finds it done.
    """
    told: dict[str, Any] = {"schedule_in": {"seconds": LATER_SECONDS}} if later else {}
    configured = print_frame.configure(queue=KINDS[kind], lock=f"print-{print_id}", priority=priority, **told)
    configured.defer(print_id=print_id)
