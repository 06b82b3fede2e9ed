"""Tasks of the intake worker. They take keys, fetch, and call the code that does the work."""

from procrastinate.contrib.django import app


@app.task(name="read_upload", queue="intake")
def read_upload(upload_id: int) -> None:
    """Read one upload, or read it again where a worker that died left it."""
    from server.intake.working import work_on

    work_on(upload_id)
