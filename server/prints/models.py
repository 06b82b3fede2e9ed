"""The print queue as people see it; Procrastinate's own tables hold the jobs."""

from pathlib import Path

from django.conf import settings
from django.db import models

from server.projects.models import Project


class Print(models.Model):
    """A final frame: the document it shows, how far it is, where its files lie."""

    class State(models.TextChoices):
        QUEUED = "queued"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELED = "canceled"

    ENDED = (State.DONE, State.FAILED, State.CANCELED)

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="prints")
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    scene = models.JSONField()
    state = models.CharField(max_length=10, choices=State.choices, default=State.QUEUED)
    samples_done = models.PositiveIntegerField(default=0)
    seconds_left = models.FloatField(null=True)
    seconds_spent = models.FloatField(default=0.0)
    attempts = models.PositiveSmallIntegerField(default=0)
    error = models.TextField(default="")
    created = models.DateTimeField(auto_now_add=True)
    ended = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-pk",)

    @property
    def folder(self) -> Path:
        """Folder of the finished files and of the film while it is being filled."""
        return Path(settings.PRINTS_FOLDER) / str(self.pk)

    def file(self, kind: str) -> Path:
        """Path of the finished "png" or "exr"."""
        return self.folder / f"print-{self.pk}.{kind}"
