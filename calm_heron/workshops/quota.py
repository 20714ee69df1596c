"""What a visitor of the demo may add to a copy of it, all in all: enough for a day's trying out, and no more than the disk can bear."""

from django.apps import apps
from django.db import connection, models

from calm_heron.workshops.models import Membership, Workshop, WorkshopRow

# The demo itself has some five thousand rows.
MOST_ROWS = 20_000
MOST_BYTES = 12_000_000

FULL = (
    "This copy of the demo holds all that it can. It goes after a day, and you may step into a fresh one after signing out; a workshop of"
    " your own has no such limit."
)


def is_full(workshop: Workshop) -> bool:
    """Whether a visitor's copy of the demo holds as much as it may; never so of a workshop that somebody founded."""
    if not Membership.objects.of(workshop).filter(person__is_visitor=True).exists():
        return False
    rows, taken = held(workshop)
    return rows > MOST_ROWS or taken > MOST_BYTES


def held(workshop: Workshop) -> tuple[int, int]:
    """How many rows a workshop has in all tables together, and how many bytes its files take."""
    tables = [model for model in apps.get_models() if issubclass(model, WorkshopRow)]
    files = [(model, field) for model in tables for field in model._meta.fields if isinstance(field, models.BinaryField)]
    counts = _sum("count(*)", [(model._meta.db_table, "") for model in tables], workshop)
    return counts, _sum("coalesce(sum(length({column})), 0)", [(model._meta.db_table, field.column) for model, field in files], workshop)


def _sum(what: str, of: list[tuple[str, str]], workshop: Workshop) -> int:
    parts = " + ".join(f"(SELECT {what.format(column=column)} FROM {table} WHERE workshop_id = %s)" for table, column in of)
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT {parts or 0}", [workshop.pk] * len(of))
        return int(cursor.fetchone()[0])
