"""Uploads and how far they are; Procrastinate's own tables hold the jobs."""

from pathlib import Path

from django.conf import settings
from django.db import models


class Upload(models.Model):
    """A file that somebody has sent and that is to become something."""

    class Kind(models.TextChoices):
        ASSET = "asset"
        ENVIRONMENT = "environment"
        PROFILE = "profile"

    class State(models.TextChoices):
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELED = "canceled"

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="uploads")
    kind = models.CharField(max_length=12, choices=Kind.choices)
    file_name = models.CharField(max_length=200)
    state = models.CharField(max_length=10, choices=State.choices, default=State.RUNNING)
    stage = models.CharField(max_length=80, default="Waiting")
    share = models.FloatField(default=0.0)
    attempts = models.PositiveSmallIntegerField(default=0)
    error = models.TextField(default="")
    result = models.PositiveBigIntegerField(null=True)
    """Number of the project, environment or profile that it has become."""
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-pk",)

    @property
    def folder(self) -> Path:
        """Where the file lies until it is read."""
        return Path(settings.UPLOADS_FOLDER) / str(self.pk)

    @property
    def path(self) -> Path:
        """The file itself."""
        return self.folder / "upload"
