"""Items of the library."""

from django.conf import settings
from django.db import models

from server.projects.models import StoredFile


class EnvironmentItem(models.Model):
    """An HDR map to choose; without an owner it is built in and everybody's."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, null=True)
    name = models.CharField(max_length=200)
    file_name = models.CharField(max_length=200)
    file = models.ForeignKey(StoredFile, on_delete=models.PROTECT)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    problems = models.JSONField(default=list)
    thumbnail = models.BinaryField()
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("owner_id", "pk")
