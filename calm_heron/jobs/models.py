"""Jobs that failed, as the operator reads of them. The queue itself is procrastinate's own tables."""

from django.db import models
from django.utils import timezone


class JobFailure(models.Model):
    """One failed attempt at a job: which, for what, and what went wrong. Nothing that people typed is in it but ids."""

    at = models.DateTimeField(default=timezone.now)
    job = models.CharField(max_length=80)
    arguments = models.JSONField(default=dict)
    error = models.TextField()

    class Meta:
        indexes = [models.Index(fields=["-at"], name="newest_failures")]

    def __str__(self) -> str:
        return f"{self.job} {self.arguments}"
