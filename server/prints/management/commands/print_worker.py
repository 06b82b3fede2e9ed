"""`manage.py print_worker`: make final frames one after the other, and rescue those of dead workers."""

import asyncio
from typing import Any

from django.core.management.base import BaseCommand
from procrastinate.contrib.django import app

from server.prints.tasks import HEARTBEAT_SECONDS, STALLED_SECONDS


class Command(BaseCommand):
    help = "Run one print worker until it is stopped."

    def handle(self, *arguments: Any, **options: Any) -> None:
        asyncio.run(_work())


async def _work() -> None:
    worker_app = app.with_connector(app.connector.get_worker_connector())
    async with worker_app.open_async():
        await asyncio.gather(
            worker_app.run_worker_async(
                queues=["prints"],
                name="prints",
                concurrency=1,
                update_heartbeat_interval=HEARTBEAT_SECONDS,
                stalled_worker_timeout=STALLED_SECONDS,
                delete_jobs="successful",
            ),
            worker_app.run_worker_async(
                queues=["prints-upkeep"],
                name="upkeep",
                concurrency=1,
                delete_jobs="always",
                install_signal_handlers=False,
            ),
        )
