"""What the application's own role may do in the database: no more than it needs. It owns nothing.

Tables of what was recorded (``append_only`` in their models) can be read and added to; rows of the others can be changed and removed as
well. Workshops go through one function only, which writes down what it erased.
"""

from typing import Any

from django.apps import apps
from psycopg import sql

from calm_heron.workshops import triggers

# Looked into, never written by the application: how far the tables were moved on, and what was erased.
READ_ONLY = ("django_migrations", "workshops_erasure")
KEPT = ("workshops_workshop",)
FUNCTIONS = ("calm_heron_erase_workshop(bigint, text)", "calm_heron_fresh_statistics()")


def append_only() -> set[str]:
    """The tables whose rows are added and never changed, as their models declare it."""
    return {model._meta.db_table for model in apps.get_models() if getattr(model, "append_only", False)}


def settle(cursor: Any, role: str) -> None:
    """Give ``role`` its rights on every table there is, and take all others from it; put the triggers of tables that are never changed
    where they are declared, and nowhere else. Run by the owner, after migrating."""
    name, declared = sql.Identifier(role), append_only()
    cursor.execute("""SELECT c.relname, EXISTS (SELECT 1 FROM pg_trigger t WHERE t.tgrelid = c.oid AND t.tgname = 'never_changed')
           FROM pg_class c WHERE c.relnamespace = 'public'::regnamespace AND c.relkind = 'r'""")
    for table, has_trigger in cursor.fetchall():
        never_changed = table in declared
        if never_changed != has_trigger:
            cursor.execute(triggers.put_on(table) if never_changed else triggers.take_off(table))
        if table in READ_ONLY:
            rights = "SELECT"
        elif never_changed:
            rights = "SELECT, INSERT"
        elif table in KEPT:
            rights = "SELECT, INSERT, UPDATE"
        else:
            rights = "SELECT, INSERT, UPDATE, DELETE"
        named = {"table": sql.Identifier(table), "role": name, "rights": sql.SQL(rights)}
        cursor.execute(sql.SQL("REVOKE ALL ON {table} FROM {role}").format(**named).as_string())
        cursor.execute(sql.SQL("GRANT {rights} ON {table} TO {role}").format(**named).as_string())
    for statement in (
        "REVOKE CREATE ON SCHEMA public FROM PUBLIC",
        "GRANT USAGE ON SCHEMA public TO {role}",
        "GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO {role}",
        *(f"REVOKE ALL ON FUNCTION {function} FROM PUBLIC" for function in FUNCTIONS),
        *(f"GRANT EXECUTE ON FUNCTION {function} TO {{role}}" for function in FUNCTIONS),
    ):
        cursor.execute(sql.SQL(statement).format(role=name).as_string())
