"""The log: what was done, by whom, when, and by which rule. Entries are added, never changed."""

from django.db import models
from django.utils import timezone

from calm_heron.workshops.models import Person, WorkshopRow


class Entry(WorkshopRow):
    """One line of the log. ``text`` is the sentence, ``data`` the raw and computed values with the rule's version.

    The database itself refuses to change or delete a row (see the migration).
    """

    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    kind = models.CharField(max_length=20)
    subject = models.CharField(max_length=60, blank=True)
    text = models.CharField(max_length=400)
    data = models.JSONField(default=dict)

    class Meta:
        indexes = [
            models.Index(fields=["workshop", "-at", "-id"], name="log_newest_first"),
            models.Index(fields=["workshop", "subject", "-at"], name="log_of_a_subject"),
        ]
