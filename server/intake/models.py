"""Uploads and how far they are; Procrastinate's own tables hold the jobs."""

from django.conf import settings
from django.db import models

from server.projects.models import Project, Start


class Upload(models.Model):
    """A file that somebody has sent and that is to become something."""

    class Kind(models.TextChoices):
        ASSET = "asset"
        ENVIRONMENT = "environment"
        PROFILE = "profile"
        IMAGE = "image"
        MATERIAL = "material"
        LOOK = "look"
        PICTURE = "picture"

    class State(models.TextChoices):
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELED = "canceled"

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="uploads")
    kind = models.CharField(max_length=12, choices=Kind.choices)
    file_name = models.CharField(max_length=200)
    start = models.ForeignKey(Start, on_delete=models.SET_NULL, null=True, related_name="+")
    """The set-up with which the project of an asset begins."""
    swaps = models.ForeignKey(Project, on_delete=models.CASCADE, null=True, related_name="+")
    """The project whose asset it is a newer version of, or that gets the take which a picture is opened as."""
    joins = models.BooleanField(default=False)
    """Whether it is another asset for that project, beside its own."""
    offer = models.JSONField(null=True)
    """What the newer version would make of that project: a patch, and a table of its parts."""
    state = models.CharField(max_length=10, choices=State.choices, default=State.RUNNING)
    stage = models.CharField(max_length=80, default="Waiting")
    share = models.FloatField(default=0.0)
    attempts = models.PositiveSmallIntegerField(default=0)
    error = models.TextField(default="")
    result = models.PositiveBigIntegerField(null=True)
    """Number of the project, environment, profile, image, swatch, look or take that it has become."""
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-pk",)

    @property
    def stored_name(self) -> str:
        """Name of the file in the storage of uploads, until it is read."""
        return f"{self.pk}/upload"
