"""Projects, their edits, and files by content."""

from datetime import datetime

from django.conf import settings
from django.db import models

from lantern.scene.document import Scene
from lantern.scene.reading import read_scene
from server.runtime.documents import DocumentField


def content_path(instance: "StoredFile", name: str) -> str:
    """Where a file lies in the storage: by its digest, in one of 256 folders."""
    return f"{instance.sha256[:2]}/{instance.sha256}"


class StoredFile(models.Model):
    """A file named by its content; the same content is stored once."""

    sha256 = models.CharField(max_length=64, unique=True)
    size = models.BigIntegerField()
    file = models.FileField(upload_to=content_path, max_length=200)
    created = models.DateTimeField(auto_now_add=True)
    is_public = models.BooleanField(default=False)
    """Built in: everybody may use it."""
    readers = models.ManyToManyField(settings.AUTH_USER_MODEL, related_name="+")
    """Who has brought this content, and so may name it: its digest alone opens nothing."""


class Project(models.Model):
    """A scene document with its revision. `cursor` is the number of the newest edit that is applied."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="projects")
    name = models.CharField(max_length=200)
    scene = DocumentField()
    revision = models.PositiveIntegerField(default=1)
    cursor = models.PositiveIntegerField(default=0)
    bounds = models.JSONField(null=True)
    """Lowest and highest corner [m] of the asset as it came."""
    archived = models.BooleanField(default=False)
    """Out of the way, and as it was."""
    created = models.DateTimeField(auto_now_add=True)
    updated = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("-updated",)

    def document(self) -> Scene:
        """The scene as a typed document."""
        return read_scene(self.scene)

    @property
    def state(self) -> tuple[int, datetime]:
        """Which document it has: equal states of a project are equal documents."""
        return self.revision, self.updated

    @property
    def can_undo(self) -> bool:
        return self.edits.filter(number=self.cursor).exists()

    @property
    def can_redo(self) -> bool:
        return self.edits.filter(number__gt=self.cursor).exists()


class Start(models.Model):
    """A set-up without an asset, with which new projects begin."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="starts")
    name = models.CharField(max_length=200)
    scene = DocumentField()
    bounds = models.JSONField(null=True)
    """Of the asset around which it was made."""
    is_default = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("name", "pk")
        constraints = (
            models.UniqueConstraint(
                fields=("owner",), condition=models.Q(is_default=True), name="one_default_start_a_person"
            ),
        )


class Cover(models.Model):
    """The picture by which a project is known in the list."""

    project = models.OneToOneField(Project, on_delete=models.CASCADE, related_name="cover", primary_key=True)
    picture = models.BinaryField()  # JPEG
    made = models.DateTimeField(auto_now=True)


class Edit(models.Model):
    """One step of undo: a JSON Patch and its inverse."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="edits")
    number = models.PositiveIntegerField()
    patch = models.JSONField()
    inverse = models.JSONField()
    label = models.CharField(max_length=200)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("number",)
        constraints = (models.UniqueConstraint(fields=("project", "number"), name="one_edit_a_number"),)


class AssetReport(models.Model):
    """What was odd about a file that is or was a project's asset: it counts while the document is of that file."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="reports")
    sha256 = models.CharField(max_length=64)
    problems = models.JSONField(default=list)
    findings = models.JSONField(default=list)

    class Meta:
        constraints = (models.UniqueConstraint(fields=("project", "sha256"), name="one_report_a_file"),)


class HandledRequest(models.Model):
    """A change that was asked for and done: asked for again after a broken connection, it is not repeated."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="handled")
    key = models.CharField(max_length=64)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = (models.UniqueConstraint(fields=("project", "key"), name="one_request_a_key"),)
