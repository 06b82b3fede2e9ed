"""The print queue as people see it; Procrastinate's own tables hold the jobs."""

from pathlib import Path

from django.conf import settings
from django.core.files.storage import storages
from django.db import models

from server.projects.models import Project
from server.runtime.documents import DocumentField


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
    scene = DocumentField()
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

    FILES = ("png", "exr", "hdr")

    @property
    def kinds(self) -> tuple[str, ...]:
        """Those of FILES that it has when it is done."""
        return self.FILES if self.scene["print"].get("hdr") else self.FILES[:2]

    @property
    def folder(self) -> Path:
        """Folder on this machine of the film, and of files while they are being written."""
        return Path(settings.FILMS_FOLDER) / str(self.pk)

    def file_name(self, kind: str) -> str:
        """Name of a finished file, one of FILES, in the storage of prints."""
        return f"{self.pk}/print-{self.pk}{'-hdr.png' if kind == 'hdr' else f'.{kind}'}"

    def has_file(self, kind: str) -> bool:
        """Whether a file is there."""
        return storages["prints"].exists(self.file_name(kind))
