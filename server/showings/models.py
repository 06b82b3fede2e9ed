"""Showings, the pictures that were prepared for them, and who has come."""

from django.conf import settings
from django.db import models

from server.projects.models import Project, StoredFile
from server.runtime.documents import DocumentField
from server.takes.models import Take


class Showing(models.Model):
    """A link under which chosen pictures of a project are seen by whoever has it."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="showings")
    maker = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    name = models.CharField(max_length=80)
    scene = DocumentField()
    """The document as it was when the showing was made: later edits are nobody else's business."""
    revision = models.PositiveIntegerField()
    nonce = models.CharField(max_length=64)
    """What the token of the link is made of, together with the server's own secret."""
    digest = models.CharField(max_length=64, unique=True)
    """Of the token, by which it is found."""
    password = models.CharField(max_length=128, blank=True)
    """As Django hashes it; none is asked for when it is empty."""
    ends = models.DateTimeField()
    withdrawn = models.DateTimeField(null=True)
    rights = models.JSONField(default=list)
    """What visitors may do beside looking, as `server.showings.rights.Right`."""
    longer_side = models.PositiveIntegerField()
    """Pixels of its pictures."""
    samples = models.PositiveIntegerField()
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-pk",)


class Slide(models.Model):
    """One combination of edition, shot and conditions that a showing has a picture of."""

    class State(models.TextChoices):
        WAITING = "waiting"
        DONE = "done"
        FAILED = "failed"

    showing = models.ForeignKey(Showing, on_delete=models.CASCADE, related_name="slides")
    place = models.PositiveIntegerField()
    edition = models.CharField(max_length=200, null=True)
    shot = models.CharField(max_length=200, null=True)
    conditions = models.CharField(max_length=200, null=True)
    names = models.JSONField(default=list)
    """Of edition, shot and conditions, empty where there is nothing to tell."""
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    attempts = models.PositiveSmallIntegerField(default=0)
    error = models.TextField(default="")
    take = models.ForeignKey(Take, on_delete=models.SET_NULL, null=True, related_name="+")
    """Kept in the project, where comments and choices of visitors arrive."""

    class Meta:
        ordering = ("place",)


class SlidePicture(models.Model):
    """A slide as it is seen at one place of its ring; 0 is the shot itself."""

    slide = models.ForeignKey(Slide, on_delete=models.CASCADE, related_name="pictures")
    turn = models.PositiveSmallIntegerField(default=0)
    picture = models.ForeignKey(StoredFile, on_delete=models.PROTECT)  # JPEG

    class Meta:
        ordering = ("turn",)
        constraints = (models.UniqueConstraint(fields=("slide", "turn"), name="one_picture_a_turn"),)


class Visit(models.Model):
    """Somebody who has opened a showing, told apart by the browser."""

    showing = models.ForeignKey(Showing, on_delete=models.CASCADE, related_name="visits")
    visitor = models.CharField(max_length=64)
    first = models.DateTimeField(auto_now_add=True)
    last = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = (models.UniqueConstraint(fields=("showing", "visitor"), name="one_visit_a_visitor"),)
