"""`manage.py print_worker`: make final frames one after the other, and rescue those of dead workers."""

import asyncio
import logging
from typing import Any

from django.core.management.base import BaseCommand
from procrastinate import App
from procrastinate.contrib.django import app
from procrastinate.exceptions import ProcrastinateException

from server.runtime.priority import lower_priority

log = logging.getLogger(__name__)
HEARTBEAT_SECONDS = 2.0
STALLED_SECONDS = 8.0
"""A job whose worker has not been heard of for so long is given to another."""


class Command(BaseCommand):
    help = "Run one print worker until it is stopped."

    def handle(self, *arguments: Any, **options: Any) -> None:
        lower_priority()  # the picture that somebody is handling comes first
        asyncio.run(_work())


async def _work() -> None:
    worker_app = app.with_connector(app.connector.get_worker_connector())
    async with worker_app.open_async():
        rescue = asyncio.create_task(_rescue(worker_app))
        try:
            await worker_app.run_worker_async(
                queues=["prints"],
                name="prints",
                concurrency=1,
                fetch_job_polling_interval=1.0,
                update_heartbeat_interval=HEARTBEAT_SECONDS,
                stalled_worker_timeout=STALLED_SECONDS,
                delete_jobs="successful",
            )
        finally:
            rescue.cancel()


async def _rescue(worker_app: App) -> None:
    """Give jobs of workers that were killed back to the queue, for as long as this worker lives."""
    while True:
        await asyncio.sleep(HEARTBEAT_SECONDS)
        try:
            jobs = await worker_app.job_manager.get_stalled_jobs(
                queue="prints", seconds_since_heartbeat=STALLED_SECONDS
            )
            for job in jobs:
                log.warning("print job %s lost its worker and is queued again", job.id)
                await worker_app.job_manager.retry_job(job)
        except ProcrastinateException:
            log.exception("jobs of dead workers cannot be looked up; trying again")
