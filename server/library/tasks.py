"""Tasks of the library. They take keys, fetch, and call the code that does the work."""

from procrastinate.contrib.django import app


@app.task(name="make_swatch_pictures", queue="intake", queueing_lock="make_swatch_pictures")
def make_swatch_pictures() -> None:
    """Make the pictures of swatches that have none yet."""
    from server.library.picturing import make_missing

    make_missing()
