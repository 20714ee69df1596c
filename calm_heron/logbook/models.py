"""The log: what was done, by whom, when, and by which rule. Entries are added, never changed."""

from django.db import models
from django.utils import timezone

from calm_heron.workshops.models import Person, WorkshopRow

# The code of entries from before there were codes; their data hold the text.
AS_WRITTEN = "as_written"


class Entry(WorkshopRow):
    """One line of the log: what was done, as a code, with the raw and computed values and the rule's version as ``data``.

    It becomes a sentence when it is read (see :mod:`words`).

    The database itself refuses to change or delete a row (see the migration).
    """

    changes_answers = False

    append_only = True

    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="+")
    kind = models.CharField(max_length=20)
    what = models.CharField(max_length=40)
    subject = models.CharField(max_length=60, blank=True)
    data = models.JSONField(default=dict)

    class Meta:
        indexes = [
            models.Index(fields=["workshop", "-at", "-id"], name="log_newest_first"),
            models.Index(fields=["workshop", "subject", "-at"], name="log_of_a_subject"),
        ]
