"""Tasks of the print worker for showings."""

from procrastinate.contrib.django import app

PRIORITY = -10
"""Prints that somebody waits for come first."""


@app.task(name="prepare_showing", queue="prints", priority=PRIORITY)
def prepare_showing(showing_id: int) -> None:
    """Make the pictures of a showing that are missing."""
    from server.showings.preparing import prepare

    prepare(showing_id)
