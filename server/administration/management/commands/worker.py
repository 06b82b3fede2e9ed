"""`manage.py worker prints|intake`: do tasks one after the other, and rescue those of dead workers."""

import asyncio
import logging
import os
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from procrastinate import App
from procrastinate.contrib.django import app
from procrastinate.exceptions import ProcrastinateException

from server.runtime.priority import BEHIND, HOST, lower_priority
from server.workers.here import KINDS, OtherVersion, registered

log = logging.getLogger(__name__)
HEARTBEAT_SECONDS = 2.0
STALLED_SECONDS = 8.0
"""A job whose worker has not been heard of for so long is given to another."""
AT_ONCE = {"prints": 1, "intake": 2}
"""What workers are for, and how many of their tasks run at the same time."""


class Command(BaseCommand):
    help = "Run one worker until it is stopped."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("work", choices=sorted(AT_ONCE))
        parser.add_argument("--name", default=os.uname().nodename, help="name that others see")
        parser.add_argument("--kinds", nargs="+", choices=sorted(KINDS), default=sorted(KINDS), help="prints it takes")

    def handle(self, *arguments: Any, **options: Any) -> None:
        lower_priority(HOST + BEHIND)  # the picture that somebody is handling comes first
        work, kinds = options["work"], options["kinds"]
        if work != "prints":
            asyncio.run(_work(work, [work]))
            return
        try:
            with registered(options["name"], settings.THREADS, settings.FILM_LIMIT, kinds):
                asyncio.run(_work(work, [KINDS[kind] for kind in kinds]))
        except OtherVersion as error:
            raise CommandError(str(error)) from error


async def _work(work: str, queues: list[str]) -> None:
    worker_app = app.with_connector(app.connector.get_worker_connector())
    async with worker_app.open_async():
        rescue = asyncio.create_task(_rescue(worker_app, queues))
        try:
            await worker_app.run_worker_async(
                queues=queues,
                name=work,
                concurrency=AT_ONCE[work],
                fetch_job_polling_interval=1.0,
                update_heartbeat_interval=HEARTBEAT_SECONDS,
                stalled_worker_timeout=STALLED_SECONDS,
                delete_jobs="successful",
            )
        finally:
            rescue.cancel()


async def _rescue(worker_app: App, queues: list[str]) -> None:
    """Give jobs of workers that were killed back to the queue, for as long as this worker lives."""
    while True:
        await asyncio.sleep(HEARTBEAT_SECONDS)
        try:
            for queue in queues:
                jobs = await worker_app.job_manager.get_stalled_jobs(
                    queue=queue, seconds_since_heartbeat=STALLED_SECONDS
                )
                for job in jobs:
                    log.warning("job %s of %s lost its worker and is queued again", job.id, queue)
                    await worker_app.job_manager.retry_job(job)
        except ProcrastinateException:
            log.exception("jobs of dead workers cannot be looked up; trying again")
