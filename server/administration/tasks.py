"""What is done regularly."""

from procrastinate.contrib.django import app


@app.periodic(cron="17 4 * * *")
@app.task(name="collect_files", queue="intake")
def collect_unused(timestamp: int) -> None:
    """Remove files that nothing names any more."""
    from server.administration.collecting import collect_files

    collect_files()
