"""Workers as they have said themselves, and the version that all have to be of."""

from django.db import models


class Release(models.Model):
    """What the tables are of now: the only row, written whenever they are brought up to date."""

    version = models.CharField(max_length=64)


class Worker(models.Model):
    """A process that takes prints, on this machine or another."""

    name = models.CharField(max_length=80)
    machine = models.CharField(max_length=120, default="")
    """Where it runs, as `here.this_machine` tells it."""
    version = models.CharField(max_length=64)
    threads = models.PositiveSmallIntegerField()
    memory = models.BigIntegerField()
    """Bytes that the film of a print may take there."""
    kinds = models.CharField(max_length=40)
    """Of KINDS, with commas."""
    started = models.DateTimeField(auto_now_add=True)
    seen = models.DateTimeField(db_index=True)
    speed = models.FloatField(default=0.0)
    """Rays a second, of what it did last; 0 before that."""
    print = models.PositiveBigIntegerField(null=True)
    """Number of the print that it is at."""
    helps = models.BooleanField(default=False)
    """Whether another worker leads that print."""

    class Meta:
        ordering = ("pk",)
