"""Invitations: the only way to an account for somebody whom no administrator has given one."""

from django.conf import settings
from django.db import models


class Invitation(models.Model):
    """A link by which one person may make themselves an account. The link is known to whoever was shown it alone."""

    inviter = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    note = models.CharField(max_length=200, blank=True)
    """Whom it is for, in the inviter's words."""
    digest = models.CharField(max_length=64, unique=True)
    created = models.DateTimeField(auto_now_add=True)
    expires = models.DateTimeField()
    account = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    """What was made with it."""
    used = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-pk",)
