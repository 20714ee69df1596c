"""``load_demo``: the demo workshop that visitors get copies of, with dates that end now; ``--again`` makes it anew and takes out all
copies.
"""

from typing import Any

from django.core.management.base import BaseCommand
from django.db import transaction
from django.utils import timezone

from calm_heron.demo import copies


class Command(BaseCommand):
    help = "Load the demo workshop unless it was loaded lately, and take out copies that are over; with --again, make everything anew."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--again", action="store_true")

    @transaction.atomic
    def handle(self, *args: Any, again: bool = False, **options: Any) -> None:
        (copies.make_anew if again else copies.ready)(timezone.now())
