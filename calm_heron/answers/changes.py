"""How often what belongs to a workshop was changed, by the app whose rows they are and, for rows of a piece, by a part of all pieces.

The database counts by itself, in triggers on every table whose rows belong to a workshop, whatever hand changes them: a form, a device, a
table of five thousand pieces, SQL. So no action has to know which answers it makes stale: an answer says which apps' rows it stands on,
and for which pieces. Models that no answer stands on say so (``changes_answers = False``).
"""

from collections.abc import Collection, Mapping
from hashlib import blake2b

from django.apps import apps
from django.db import connection, transaction

from calm_heron.answers.models import Change
from calm_heron.workshops.models import Workshop, WorkshopRow

# The pieces of a workshop are counted in so many parts, by their ids: a workshop of five thousand has few rows to read.
PARTS = 32
# The part of what belongs to no piece.
NO_PIECE = -1
# Each function counts the rows of tables of one sort: by where such a row names its workshop and its piece.
FUNCTIONS = {
    "calm_heron_note_workshop": ("id", str(NO_PIECE)),
    "calm_heron_note_change": ("workshop_id", str(NO_PIECE)),
    "calm_heron_note_piece": ("workshop_id", f"id % {PARTS}"),
    "calm_heron_note_of_piece": ("workshop_id", f"piece_id % {PARTS}"),
}
COUNT = """
INSERT INTO answers_change (workshop_id, transaction, source, part, weight)
    SELECT DISTINCT {workshop}, pg_current_xact_id()::text::bigint, split_part(TG_TABLE_NAME::text, '_', 1), {part}, 1 FROM {rows}
    ON CONFLICT (workshop_id, transaction, source, part) DO UPDATE SET weight = answers_change.weight + 1;
"""
# A row that goes from one piece to another is counted for both.
FUNCTION = """
CREATE OR REPLACE FUNCTION {name}() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    {count_changed}
    IF TG_OP = 'UPDATE' THEN
        {count_before}
    END IF;
    RETURN NULL;
END $$
"""
# What is there to see what changed, by what is done to rows.
SEEN_AS = {"INSERT": "NEW TABLE AS changed", "UPDATE": "OLD TABLE AS before NEW TABLE AS changed", "DELETE": "OLD TABLE AS changed"}

# Weights by app and part of the pieces.
Counts = Mapping[tuple[str, int], int]


def tables() -> dict[str, str]:
    """The tables whose changes are counted, and by which function."""
    models = [model for model in apps.get_models() if issubclass(model, WorkshopRow) and model.changes_answers]
    return {Workshop._meta.db_table: "calm_heron_note_workshop"} | {model._meta.db_table: _function_of(model) for model in models}


def _function_of(model: type[WorkshopRow]) -> str:
    if not model.is_of_a_piece:
        return "calm_heron_note_change"
    return "calm_heron_note_of_piece" if any(field.name == "piece" for field in model._meta.fields) else "calm_heron_note_piece"


def note_everywhere() -> None:
    """Put the triggers on every table that wants them, and take them off the others; run by the owner, after migrating."""
    wanted = tables()
    with transaction.atomic(), connection.cursor() as cursor:
        for name, (workshop, part) in FUNCTIONS.items():
            changed, before = (COUNT.format(workshop=workshop, part=part, rows=rows) for rows in ("changed", "before"))
            cursor.execute(FUNCTION.format(name=name, count_changed=changed, count_before=before))
        cursor.execute(
            "SELECT c.relname, p.proname FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid JOIN pg_proc p ON p.oid = t.tgfoid"
            " WHERE t.tgname = 'notes_update'"
        )
        there = dict(cursor.fetchall())
        cursor.execute("SELECT relname FROM pg_class WHERE relnamespace = 'public'::regnamespace AND relkind = 'r'")
        exist = {name for (name,) in cursor.fetchall()}
        for table in {table for table, function in there.items() if wanted.get(table) != function}:
            for done in SEEN_AS:
                cursor.execute(f"DROP TRIGGER notes_{done.lower()} ON {table}")
        for table in {table for table in wanted if table in exist and there.get(table) != wanted[table]}:
            for done, seen in SEEN_AS.items():
                cursor.execute(
                    f"CREATE TRIGGER notes_{done.lower()} AFTER {done} ON {table} REFERENCING {seen}"
                    f" FOR EACH STATEMENT EXECUTE FUNCTION {wanted[table]}()"
                )


def counts_of(workshop_id: int) -> dict[tuple[str, int], int]:
    """How often each part of a workshop was changed. One query of at most a few hundred rows."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT source, part, sum(weight)::bigint FROM answers_change WHERE workshop_id = %s GROUP BY 1, 2", [workshop_id])
        return {(source, part): weight for source, part, weight in cursor.fetchall()}


def revision(counts: Counts, stands_on: Collection[str] | None = None, pieces: Collection[int] | None = None) -> str:
    """How far what an answer stands on has changed, as a word that is never the same again once something of it did.

    Args:
        stands_on: the apps whose rows count; None for all.
        pieces: ids; of rows that belong to pieces those of these count alone. None for all.
    """
    parts = None if pieces is None else {NO_PIECE, *(pk % PARTS for pk in pieces)}
    rows = sorted(
        (source, part, weight)
        for (source, part), weight in counts.items()
        if (stands_on is None or source in stands_on) and (parts is None or part in parts)
    )
    return blake2b(repr((sorted(pieces or ()), rows)).encode(), digest_size=12).hexdigest()


def bring_together() -> None:
    """Make one row of each part's many; no sum changes. What is counted of workshops that are gone goes with them."""
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute(
            """
            WITH counted AS (DELETE FROM answers_change WHERE transaction <> 0 RETURNING workshop_id, source, part, weight)
            INSERT INTO answers_change (workshop_id, transaction, source, part, weight)
                SELECT workshop_id, 0, source, part, sum(weight) FROM counted GROUP BY 1, 3, 4
                ON CONFLICT (workshop_id, transaction, source, part) DO UPDATE SET weight = answers_change.weight + excluded.weight
            """
        )
        Change.objects.exclude(workshop_id__in=Workshop.objects.values("pk")).delete()
