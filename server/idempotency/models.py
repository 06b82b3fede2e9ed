"""Answers that are kept for requests that carry a key."""

from django.conf import settings
from django.db import models


class KeptAnswer(models.Model):
    """What a request was answered; asked again with its key, the person gets this and nothing is done."""

    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    key = models.CharField(max_length=64)
    fingerprint = models.CharField(max_length=64)
    """Digest of what was asked, so that a key is not used for something else."""
    status = models.PositiveSmallIntegerField(default=0)
    content_type = models.CharField(max_length=100, default="")
    body = models.BinaryField(default=b"")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = (models.UniqueConstraint(fields=("person", "key"), name="one_answer_a_key"),)
