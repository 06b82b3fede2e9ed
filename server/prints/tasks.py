"""Tasks of the print worker. They take keys, fetch, and call the code that does the work."""

import logging

from procrastinate.contrib.django import app

log = logging.getLogger(__name__)

HEARTBEAT_SECONDS = 2.0
STALLED_SECONDS = 8.0
"""A job whose worker has not been heard of for so long is given to another."""


@app.task(name="print_frame", queue="prints")
def print_frame(print_id: int) -> None:
    """Make one final frame, or go on with it where a worker that died left it."""
    from server.prints.working import work_on

    work_on(print_id)


@app.periodic(cron="*/5 * * * * *")
@app.task(name="rescue_stalled_prints", queue="prints-upkeep", queueing_lock="rescue", pass_context=False)
async def rescue_stalled_prints(timestamp: int) -> None:
    """Give jobs of dead workers back to the queue."""
    for job in await app.job_manager.get_stalled_jobs(queue="prints", seconds_since_heartbeat=STALLED_SECONDS):
        log.warning("print job %s lost its worker and is queued again", job.id)
        await app.job_manager.retry_job(job)
