"""Takes and what people say about them."""

from django.conf import settings
from django.db import models

from server.projects.models import Project, StoredFile
from server.runtime.documents import DocumentField


class Take(models.Model):
    """A picture as it was seen once, and the document whole, so that it can be had again."""

    class Reason(models.TextChoices):
        KEPT = "kept"
        PRINT = "print"
        RESTORE = "restore"
        SHOWING = "showing"

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="takes")
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    reason = models.CharField(max_length=10, choices=Reason.choices, default=Reason.KEPT)
    """Why it was kept: by somebody, or at a moment at which it might be missed later."""
    scene = DocumentField()
    revision = models.PositiveIntegerField()
    picture = models.ForeignKey(StoredFile, on_delete=models.PROTECT)  # PNG
    film = models.ForeignKey(StoredFile, on_delete=models.PROTECT, null=True, related_name="films_of_takes")
    """Its samples, as `lantern.engine.kept_film` writes them, if they were kept as well."""
    thumbnail = models.BinaryField()  # JPEG
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    samples = models.PositiveIntegerField()
    noise = models.FloatField(null=True)
    """What was left of it, relative; none where it was not measured."""
    shown = models.CharField(max_length=200, default="")
    """The variants and the edition that were on, in words."""
    note = models.TextField(default="")
    stars = models.PositiveSmallIntegerField(default=0)
    labels = models.JSONField(default=list)
    board = models.CharField(max_length=80, default="")
    """The group of the contact sheet that it hangs in; none has its own."""
    marks = models.JSONField(default=list)
    """What is drawn on it, as `server.takes.marks.Mark`."""
    request = models.CharField(max_length=64)
    """By which it was asked for: asked for again after a broken connection, it is kept once."""
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-pk",)
        constraints = (models.UniqueConstraint(fields=("project", "request"), name="one_take_a_request"),)


class Comment(models.Model):
    """What somebody says about a take, or answers."""

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="comments")
    answers = models.ForeignKey("self", on_delete=models.CASCADE, null=True, related_name="answered_by")
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    visitor = models.CharField(max_length=60, default="")
    """What somebody without an account calls themselves, who saw it in a showing."""
    pin = models.JSONField(null=True)
    """The place in the picture that is meant: shares of its width and height."""
    text = models.TextField()
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)
