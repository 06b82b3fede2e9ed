"""Items of the library."""

from django.conf import settings
from django.db import models

from server.projects.models import StoredFile


class LibraryItem(models.Model):
    """A file to choose; without an owner it is built in and everybody's."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, null=True)
    name = models.CharField(max_length=200)
    file_name = models.CharField(max_length=200)
    file = models.ForeignKey(StoredFile, on_delete=models.PROTECT)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        abstract = True
        ordering = ("owner_id", "pk")


class EnvironmentItem(LibraryItem):
    """An HDR map."""

    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    luminance = models.FloatField(null=True)  # cd/m², mean over the sphere
    problems = models.JSONField(default=list)
    thumbnail = models.BinaryField()


class ProfileItem(LibraryItem):
    """An IES profile."""

    lumens = models.FloatField()
    curve = models.JSONField()  # as `lantern.picture.thumbnails.profile_curve` gives it


class ImageItem(LibraryItem):
    """An image of one's own: for inputs of materials and for decals, or the picture of a lit ball."""

    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    has_alpha = models.BooleanField()
    is_ball = models.BooleanField(default=False)
    problems = models.JSONField(default=list)
    thumbnail = models.BinaryField()


class SwatchItem(models.Model):
    """A material that somebody has kept, and those that lie over it."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="swatches")
    name = models.CharField(max_length=200)
    tags = models.CharField(max_length=200, default="")
    problems = models.JSONField(default=list)
    """What of its file could not be had."""
    content = models.JSONField()  # a document of materials alone, of the version that it was kept by
    created = models.DateTimeField(auto_now_add=True)


class RigItem(models.Model):
    """Light that somebody has kept, about an asset of the standard size."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="rigs")
    name = models.CharField(max_length=200)
    content = models.JSONField()  # a document of light alone, of the version that it was kept by
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)


class LookItem(models.Model):
    """A look that somebody has kept, or brought in."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="looks")
    name = models.CharField(max_length=200)
    content = models.JSONField()  # a document of a look alone, of the version that it was kept by
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("pk",)


class FavouriteSwatch(models.Model):
    """A swatch of the shelf that somebody wants at hand."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    key = models.CharField(max_length=80)

    class Meta:
        constraints = (models.UniqueConstraint(fields=("owner", "key"), name="one_favourite_each"),)
