"""Tasks of the print worker. They take keys, fetch, and call the code that does the work."""

from procrastinate.contrib.django import app


@app.task(name="print_frame", queue="prints")
def print_frame(print_id: int) -> None:
    """Make one final frame, or go on with it where a worker that died left it."""
    from server.prints.working import work_on

    work_on(print_id)
