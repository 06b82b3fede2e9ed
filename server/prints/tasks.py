"""Tasks of the print worker. They take keys, fetch, and call the code that does the work."""

from procrastinate.contrib.django import app


@app.task(name="print_frame", queue="prints")
def print_frame(print_id: int) -> None:
    """Make one final frame, or go on with it where a worker that died left it."""
    from server.prints.working import work_on

    work_on(print_id)


def queue_print(print_id: int, priority: int = 0) -> None:
    """Have a print made; those of a higher priority come first.

    One that is queued twice, to come sooner, is made once: the tasks of a print wait for one another, and the later
    finds it done.
    """
    print_frame.configure(lock=f"print-{print_id}", priority=priority).defer(print_id=print_id)
