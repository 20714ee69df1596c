"""``load_demo``: the demo workshop where there is none; ``--again`` puts it back as it was."""

from django.core.management.base import BaseCommand
from django.db import connection, transaction
from django.utils import timezone

from calm_heron.demo import scenario


class Command(BaseCommand):
    help = "Load the demo workshop if there is none; with --again, put it back as it was."

    def add_arguments(self, parser) -> None:
        parser.add_argument("--again", action="store_true")

    @transaction.atomic
    def handle(self, *args, again: bool = False, **options) -> None:
        # A demo that nobody has touched is renewed, so that its dates end today.
        if scenario.exists() and not again and not scenario.untouched_since_loading():
            return
        scenario.erase(connection)
        scenario.load(timezone.now())
        # A year of readings at once: without fresh statistics the first pages would be planned for empty tables.
        with connection.cursor() as cursor:
            cursor.execute("ANALYZE")
