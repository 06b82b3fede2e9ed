"""Whenever the tables are brought up to date, the version that workers have to be of is written down."""

from django.apps import AppConfig
from django.db.models.signals import post_migrate


class WorkersConfig(AppConfig):
    name = "server.workers"

    def ready(self) -> None:
        from server.workers.here import note_release

        post_migrate.connect(note_release, sender=self)
