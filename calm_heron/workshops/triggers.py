"""Tables whose rows are added and never changed: the database itself refuses. Which they are is declared by their models (``append_only``)
and put in force by ``rights.settle`` after every migration; older migrations put the first of them on by hand."""

from django.db import migrations

FUNCTION = "calm_heron_refuse_change"


def never_changed(table: str) -> migrations.RunSQL:
    """From this migration on, rows of the table can be added and neither changed nor deleted, nor all of them at once."""
    return migrations.RunSQL(put_on(table), take_off(table))


def put_on(table: str) -> str:
    """SQL that has the database refuse changes of a table's rows."""
    return (
        f"CREATE TRIGGER never_changed BEFORE UPDATE OR DELETE ON {table} FOR EACH ROW EXECUTE FUNCTION {FUNCTION}();"
        f"CREATE TRIGGER never_emptied BEFORE TRUNCATE ON {table} FOR EACH STATEMENT EXECUTE FUNCTION {FUNCTION}()"
    )


def take_off(table: str) -> str:
    """SQL that lets them be changed again."""
    return f"DROP TRIGGER never_changed ON {table}; DROP TRIGGER IF EXISTS never_emptied ON {table}"


def changing(table: str, statement: str) -> str:
    """SQL that changes what such a table holds, for a migration that moves it to another form."""
    return f"ALTER TABLE {table} DISABLE TRIGGER never_changed; {statement}; ALTER TABLE {table} ENABLE TRIGGER never_changed"
