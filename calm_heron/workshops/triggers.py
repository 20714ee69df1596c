"""Tables whose rows are added and never changed: the database itself refuses. For migrations."""

from django.db import migrations

FUNCTION = "calm_heron_refuse_change"


def never_changed(table: str) -> migrations.RunSQL:
    """From this migration on, rows of the table can be added and neither changed nor deleted, nor all of them at once."""
    return migrations.RunSQL(
        f"CREATE TRIGGER never_changed BEFORE UPDATE OR DELETE ON {table} FOR EACH ROW EXECUTE FUNCTION {FUNCTION}();"
        f"CREATE TRIGGER never_emptied BEFORE TRUNCATE ON {table} FOR EACH STATEMENT EXECUTE FUNCTION {FUNCTION}()",
        f"DROP TRIGGER never_changed ON {table}; DROP TRIGGER IF EXISTS never_emptied ON {table}",
    )


def changing(table: str, statement: str) -> str:
    """SQL that changes what such a table holds, for a migration that moves it to another form."""
    return f"ALTER TABLE {table} DISABLE TRIGGER never_changed; {statement}; ALTER TABLE {table} ENABLE TRIGGER never_changed"
