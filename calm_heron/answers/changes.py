"""The revision of a workshop: a number that any change of what belongs to it raises.

The database counts by itself, in triggers on every table whose rows belong to a workshop, whatever hand changes them: a form, a device, a
table of five thousand pieces, SQL. So no action has to know which answers it makes stale. Models that no answer stands on say so
(``changes_answers = False``).
"""

from django.apps import apps
from django.db import connection, transaction

from calm_heron.answers.models import Change
from calm_heron.workshops.models import Workshop, WorkshopRow

FUNCTION = """
CREATE OR REPLACE FUNCTION calm_heron_note_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_TABLE_NAME = 'workshops_workshop' THEN
        INSERT INTO answers_change (workshop_id, transaction, weight)
            SELECT DISTINCT id, pg_current_xact_id()::text::bigint, 1 FROM changed
            ON CONFLICT (workshop_id, transaction) DO UPDATE SET weight = answers_change.weight + 1;
    ELSE
        INSERT INTO answers_change (workshop_id, transaction, weight)
            SELECT DISTINCT workshop_id, pg_current_xact_id()::text::bigint, 1 FROM changed
            ON CONFLICT (workshop_id, transaction) DO UPDATE SET weight = answers_change.weight + 1;
    END IF;
    RETURN NULL;
END $$;
"""
# What is there to see what changed, by what is done to rows.
SEEN_AS = {"INSERT": "NEW", "UPDATE": "NEW", "DELETE": "OLD"}


def tables() -> list[str]:
    """The tables whose changes are noted."""
    models = [model for model in apps.get_models() if issubclass(model, WorkshopRow) and model.changes_answers]
    return sorted([Workshop._meta.db_table, *(model._meta.db_table for model in models)])


def note_everywhere() -> None:
    """Put the triggers on every table that wants them, and take them off the others; run by the owner, after migrating."""
    wanted = set(tables())
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute(FUNCTION)
        cursor.execute("SELECT c.relname FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid WHERE t.tgname = 'notes_insert'")
        there = {name for (name,) in cursor.fetchall()}
        cursor.execute("SELECT relname FROM pg_class WHERE relnamespace = 'public'::regnamespace AND relkind = 'r'")
        exist = {name for (name,) in cursor.fetchall()}
        for table in (wanted & exist) - there:
            for done, seen in SEEN_AS.items():
                cursor.execute(
                    f"CREATE TRIGGER notes_{done.lower()} AFTER {done} ON {table} REFERENCING {seen} TABLE AS changed"
                    " FOR EACH STATEMENT EXECUTE FUNCTION calm_heron_note_change()"
                )
        for table in there - wanted:
            for done in SEEN_AS:
                cursor.execute(f"DROP TRIGGER notes_{done.lower()} ON {table}")


def revision(workshop_id: int) -> int:
    """How far a workshop has changed. One query of few rows."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT coalesce(sum(weight), 0) FROM answers_change WHERE workshop_id = %s", [workshop_id])
        return int(cursor.fetchone()[0])


def bring_together() -> None:
    """Make one row of each workshop's many; no sum changes. What is counted of workshops that are gone goes with them."""
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute(
            """
            WITH counted AS (DELETE FROM answers_change WHERE transaction <> 0 RETURNING workshop_id, weight)
            INSERT INTO answers_change (workshop_id, transaction, weight)
                SELECT workshop_id, 0, sum(weight) FROM counted GROUP BY workshop_id
                ON CONFLICT (workshop_id, transaction) DO UPDATE SET weight = answers_change.weight + excluded.weight
            """
        )
        Change.objects.exclude(workshop_id__in=Workshop.objects.values("pk")).delete()
