"""Whether the server is alive, and whether it can do its work: asked by whatever supervises it, without signing in."""

import asyncio
import shutil
from dataclasses import dataclass
from datetime import timedelta

from asgiref.sync import sync_to_async
from django.conf import settings
from django.db import connection
from django.http import HttpRequest, HttpResponse, JsonResponse
from health_check.base import HealthCheck
from health_check.checks import Database, Storage
from health_check.exceptions import ServiceUnavailable, ServiceWarning
from health_check.views import HealthCheckView

WORKERS = 2
"""Processes that do durable tasks: one for prints, one for uploads."""
WORKER_SILENCE = timedelta(seconds=30)
LEAST_ROOM = 1 << 30
"""Bytes that are to be free where files are written."""


@dataclass
class Workers(HealthCheck):
    """Whether the workers have been heard of lately."""

    async def run(self) -> None:
        alive = await sync_to_async(_workers_alive)()
        if alive < WORKERS:
            raise ServiceWarning(f"{alive} of {WORKERS} workers answer")


@dataclass
class Room(HealthCheck):
    """Whether there is room for files."""

    async def run(self) -> None:
        free = shutil.disk_usage(settings.DATA).free
        if free < LEAST_ROOM:
            raise ServiceUnavailable(f"{free / 1e6:.0f} MB are free on the disk")


def _workers_alive() -> int:
    with connection.cursor() as cursor:
        cursor.execute("SELECT count(*) FROM procrastinate_workers WHERE last_heartbeat > now() - %s", [WORKER_SILENCE])
        return int(cursor.fetchone()[0])


def is_alive(request: HttpRequest) -> HttpResponse:
    """The process answers."""
    return JsonResponse({"status": "alive"})


class _Ready(HealthCheckView):
    """JSON of each check; 503 when one has failed, so that a proxy sends nobody here."""

    checks = (Database, Storage, Workers, Room)

    async def get(self, request: HttpRequest, *arguments: object, **options: object) -> HttpResponse:
        self.results = await asyncio.gather(*(check.get_result(None) for check in self.get_checks()))
        failed = any(result.error and not isinstance(result.error, ServiceWarning) for result in self.results)
        return self.render_to_response_json(503 if failed else 200)


is_ready = _Ready.as_view()
