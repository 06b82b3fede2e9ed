"""`manage.py worker QUEUE`: do the tasks of a queue one after the other, and rescue those of dead workers."""

import asyncio
import logging
from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from procrastinate import App
from procrastinate.contrib.django import app
from procrastinate.exceptions import ProcrastinateException

from server.runtime.priority import BEHIND, HOST, lower_priority

log = logging.getLogger(__name__)
HEARTBEAT_SECONDS = 2.0
STALLED_SECONDS = 8.0
"""A job whose worker has not been heard of for so long is given to another."""
AT_ONCE = {"prints": 1, "intake": 2}
"""Queues, and how many of their tasks run at the same time."""


class Command(BaseCommand):
    help = "Run one worker until it is stopped."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("queue", choices=sorted(AT_ONCE))

    def handle(self, *arguments: Any, **options: Any) -> None:
        lower_priority(HOST + BEHIND)  # the picture that somebody is handling comes first
        asyncio.run(_work(options["queue"]))


async def _work(queue: str) -> None:
    worker_app = app.with_connector(app.connector.get_worker_connector())
    async with worker_app.open_async():
        rescue = asyncio.create_task(_rescue(worker_app, queue))
        try:
            await worker_app.run_worker_async(
                queues=[queue],
                name=queue,
                concurrency=AT_ONCE[queue],
                fetch_job_polling_interval=1.0,
                update_heartbeat_interval=HEARTBEAT_SECONDS,
                stalled_worker_timeout=STALLED_SECONDS,
                delete_jobs="successful",
            )
        finally:
            rescue.cancel()


async def _rescue(worker_app: App, queue: str) -> None:
    """Give jobs of workers that were killed back to the queue, for as long as this worker lives."""
    while True:
        await asyncio.sleep(HEARTBEAT_SECONDS)
        try:
            jobs = await worker_app.job_manager.get_stalled_jobs(queue=queue, seconds_since_heartbeat=STALLED_SECONDS)
            for job in jobs:
                log.warning("job %s of %s lost its worker and is queued again", job.id, queue)
                await worker_app.job_manager.retry_job(job)
        except ProcrastinateException:
            log.exception("jobs of dead workers cannot be looked up; trying again")
