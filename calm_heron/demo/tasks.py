"""This app's jobs: the demo is kept fresh behind the pages, so that nobody's first click waits for it."""

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from calm_heron.demo import copies
from calm_heron.jobs.queue import job


@job("demo.sweep", cron="41 * * * *")
def sweep() -> None:
    """Take out visitors' copies whose day is over, and make the pattern anew where its days have moved on."""
    if settings.DEMO:
        with transaction.atomic():
            copies.ready(timezone.now())
