"""Answers as rows, and how far each workshop has changed since."""

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.utils import timezone

from calm_heron.workshops.models import WorkshopRow


class SavedAnswer(WorkshopRow):
    """An answer of one ``kind`` about one ``subject`` (an id, 0 for the whole workshop), as it was worked out.

    It is true while what it stands on is at the ``revision`` it was worked out at, on that ``day``, and its ``rule`` is the one in force.
    Nothing depends on these rows: with all of them deleted the same answers are worked out again.
    """

    # A saved answer changes nothing that answers stand on.
    changes_answers = False

    kind = models.CharField(max_length=24)
    subject = models.BigIntegerField(default=0)
    value = models.JSONField()
    revision = models.CharField(max_length=24)
    # Where it stands, of all that belongs to pieces, on what belongs to these alone; empty for all.
    pieces = ArrayField(models.BigIntegerField(), null=True)
    rule = models.CharField(max_length=40)
    day = models.DateField()
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workshop", "kind", "subject"], name="one_answer_each")]


class Change(models.Model):
    """How often one transaction has changed rows of one app (``source``) that belong to a workshop, and to one ``part`` of its pieces.

    Each transaction counts in rows of its own, so that none waits for another, and one that commits late still raises the sums. Rows are
    brought together now and then under the transaction 0. They are written by the database's own triggers.
    """

    workshop_id = models.BigIntegerField()
    transaction = models.BigIntegerField()
    source = models.CharField(max_length=40)
    part = models.SmallIntegerField()
    weight = models.BigIntegerField(default=1)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["workshop_id", "transaction", "source", "part"], name="one_count_each")]
