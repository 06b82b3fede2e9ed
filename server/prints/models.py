"""The print queue as people see it; Procrastinate's own tables hold the jobs."""

from pathlib import Path

from django.conf import settings
from django.core.files.storage import storages
from django.db import models
from django.utils import timezone

from lantern.picture.video import FORMS
from lantern.scene.motion import Motion
from lantern.scene.printing import PrintSettings
from server.prints.forms import SEQUENCES
from server.projects.models import Project
from server.runtime.documents import DocumentField
from server.workers.models import Worker


class Order(models.Model):
    """Many prints that were asked for together: editions by shots by light by sizes."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="orders")
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    name = models.CharField(max_length=80)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-pk",)


class Print(models.Model):
    """A final frame, or a film of them: the document it shows, how far it is, where its files lie."""

    class State(models.TextChoices):
        QUEUED = "queued"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELED = "canceled"
        HELD = "held"

    ENDED = (State.DONE, State.FAILED, State.CANCELED)

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="prints")
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    scene = DocumentField()
    state = models.CharField(max_length=10, choices=State.choices, default=State.QUEUED)
    orders = models.ManyToManyField(Order, related_name="prints")
    """Those that it is part of: an order of what was printed already takes that print."""
    name = models.CharField(max_length=200, blank=True)
    """Of its files in an order, without a suffix."""
    digest = models.CharField(max_length=64, blank=True, db_index=True)
    """Of all of its document that its picture depends on."""
    form = models.CharField(max_length=10, default="still")
    """STILL, one of `forms.SEQUENCES`, or one of `lantern.picture.video.FORMS`."""
    quality = models.PositiveSmallIntegerField(default=80)
    """Of a film that loses something, from 0 to 100."""
    samples_done = models.PositiveIntegerField(default=0)
    seconds_left = models.FloatField(null=True)
    seconds_spent = models.FloatField(default=0.0)
    priority = models.PositiveIntegerField(default=0)
    """Those of a higher one are made first."""
    glimpse = models.BinaryField(null=True)
    """It as it is so far, small, as JPEG."""
    glimpses = models.PositiveIntegerField(default=0)
    """How often that has been made anew."""
    noise = models.FloatField(null=True)
    """Relative error of a pixel of it, as far as samples tell [%]."""
    attempts = models.PositiveSmallIntegerField(default=0)
    error = models.TextField(default="")
    created = models.DateTimeField(auto_now_add=True)
    queued = models.DateTimeField(default=timezone.now)
    """Since when it waits: of those of one priority, who has waited longest is made first."""
    ended = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-pk",)

    STILL = "still"
    FILES = ("png", "exr", "layers", "hdr", "jpg", "tif", "film", "frames")

    @property
    def is_film(self) -> bool:
        """Whether it is more than one frame."""
        return self.form != self.STILL

    @property
    def worked_by(self) -> str:
        """The kind of workers that make it (`server.workers.here.KINDS`)."""
        return "films" if self.is_film else "stills"

    @property
    def frames(self) -> int:
        """How many frames it has."""
        motion = self.scene.get("motion")
        return Motion.model_validate(motion).frames if self.is_film and motion else 1

    @property
    def samples(self) -> int:
        """Samples of a pixel of all its frames."""
        return self.frames * int(self.scene["print"]["samples"])

    @property
    def kinds(self) -> tuple[str, ...]:
        """Those of FILES that it has when it is done."""
        if self.is_film:
            return ("frames",) if self.form in SEQUENCES else ("film",)
        fields = PrintSettings.model_fields
        known = {name: value for name, value in self.scene["print"].items() if name in fields}
        return PrintSettings.model_construct(**known).kinds

    @property
    def folder(self) -> Path:
        """Folder on this machine of the film, and of files while they are being written."""
        return Path(settings.FILMS_FOLDER) / str(self.pk)

    def file_name(self, kind: str) -> str:
        """Name of a finished file, one of FILES, in the storage of prints."""
        return f"{self.pk}/print-{self.pk}{self._suffix(kind)}"

    def offered_name(self, kind: str) -> str:
        """Name of a finished file as people get it."""
        return f"{self.name or f'print-{self.pk}'}{self._suffix(kind)}"

    def _suffix(self, kind: str) -> str:
        suffixes = {"hdr": "-hdr.png", "frames": ".zip", "layers": "-layers.zip"}
        if self.is_film and kind == "film":
            suffixes["film"] = FORMS[self.form].suffix
        return suffixes.get(kind, f".{kind}")

    def has_file(self, kind: str) -> bool:
        """Whether a file is there."""
        return storages["prints"].exists(self.file_name(kind))


class Piece(models.Model):
    """A part of a print that any worker can make: a region of its frame, or one of its frames."""

    print = models.ForeignKey(Print, on_delete=models.CASCADE, related_name="pieces")
    frame = models.PositiveIntegerField(null=True)
    x = models.PositiveIntegerField(default=0)
    y = models.PositiveIntegerField(default=0)
    width = models.PositiveIntegerField(default=0)
    height = models.PositiveIntegerField(default=0)
    cost = models.FloatField()
    """Rays that are to be followed."""
    file = models.CharField(max_length=120, blank=True)
    """What was made of it, in the storage of prints; empty until then."""

    @property
    def region(self) -> tuple[int, int, int, int]:
        """Of the frame, in pixels."""
        return self.x, self.y, self.width, self.height


class Lease(models.Model):
    """That a worker makes a piece. Who has lost it, being believed dead, has nothing to hand in."""

    piece = models.ForeignKey(Piece, on_delete=models.CASCADE, related_name="leases")
    worker = models.ForeignKey(Worker, on_delete=models.CASCADE)
    since = models.DateTimeField()
