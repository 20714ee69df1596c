"""Erasing a workshop through one function with its own log; append-only also against TRUNCATE and whoever only sets the session.

The functions run as the owner of the tables, so that the application's role needs no right to delete what was recorded. They are given
out in ``rights.py``. The application can erase demo workshops only; any other goes at the hand of the owner.
"""

import django.utils.timezone
from django.db import migrations, models

REFUSE = """
CREATE OR REPLACE FUNCTION calm_heron_refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'DELETE' THEN
        -- Only rows of the workshop that is being erased, and only by the hand that owns the table.
        IF current_setting('calm_heron.erasing_workshop', true) = OLD.workshop_id::text
           AND pg_has_role(current_user, (SELECT relowner FROM pg_class WHERE oid = TG_RELID), 'USAGE') THEN
            RETURN OLD;
        END IF;
    END IF;
    RAISE EXCEPTION 'rows of % are added, never changed', TG_TABLE_NAME USING ERRCODE = 'restrict_violation';
END $$;
"""
BEFORE = """
CREATE OR REPLACE FUNCTION calm_heron_refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'DELETE' AND current_setting('calm_heron.erasing_workshop', true) = 'yes' THEN
        RETURN OLD;
    END IF;
    RAISE EXCEPTION 'rows of % are added, never changed', TG_TABLE_NAME USING ERRCODE = 'restrict_violation';
END $$;
"""
# Tables that came to be before this step; later ones get both triggers from ``triggers.never_changed``.
NEVER_EMPTIED = """
DO $$
DECLARE kept regclass;
BEGIN
    FOR kept IN
        SELECT t.tgrelid FROM pg_trigger t WHERE t.tgname = 'never_changed'
        AND NOT EXISTS (SELECT 1 FROM pg_trigger e WHERE e.tgrelid = t.tgrelid AND e.tgname = 'never_emptied')
    LOOP
        EXECUTE format(
            'CREATE TRIGGER never_emptied BEFORE TRUNCATE ON %s FOR EACH STATEMENT EXECUTE FUNCTION calm_heron_refuse_change()', kept);
    END LOOP;
END $$;
"""
ERASE = """
CREATE FUNCTION calm_heron_erase_workshop(erased bigint, by_whom text) RETURNS bigint
LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
DECLARE
    held record;
    gone_shop record;
    gone bigint := 0;
    removed bigint;
BEGIN
    SELECT * INTO gone_shop FROM workshops_workshop WHERE id = erased FOR UPDATE;
    IF NOT FOUND THEN
        RETURN 0;
    END IF;
    -- Inside this function the owner acts; who called it is the role that was taken on, or who signed in.
    IF NOT pg_has_role(coalesce(nullif(current_setting('role', true), 'none'), session_user::text), current_user, 'USAGE') AND EXISTS (
        SELECT 1 FROM workshops_membership m JOIN workshops_person p ON p.id = m.person_id
        WHERE m.workshop_id = erased AND p.is_active AND NOT p.is_visitor
    ) THEN
        RAISE EXCEPTION 'people work in this workshop: only the owner of the tables erases it' USING ERRCODE = 'insufficient_privilege';
    END IF;
    PERFORM set_config('calm_heron.erasing_workshop', erased::text, true);
    FOR held IN
        SELECT c.conrelid::regclass AS name, a.attname AS column FROM pg_constraint c
        JOIN pg_attribute a ON a.attrelid = c.conrelid AND a.attnum = c.conkey[1]
        WHERE c.contype = 'f' AND c.confrelid = 'workshops_workshop'::regclass
    LOOP
        EXECUTE format('DELETE FROM %s WHERE %I = $1', held.name, held.column) USING erased;
        GET DIAGNOSTICS removed = ROW_COUNT;
        gone := gone + removed;
    END LOOP;
    DELETE FROM workshops_workshop WHERE id = erased;
    PERFORM set_config('calm_heron.erasing_workshop', '', true);
    INSERT INTO workshops_erasure (name, slug, by, rows, at) VALUES (gone_shop.name, gone_shop.slug, by_whom, gone, now());
    RETURN gone;
END $$;
"""
STATISTICS = """
CREATE FUNCTION calm_heron_fresh_statistics() RETURNS void
LANGUAGE plpgsql SECURITY DEFINER SET search_path = pg_catalog, public AS $$
BEGIN
    EXECUTE 'ANALYZE';
END $$;
"""


class Migration(migrations.Migration):
    dependencies = [("workshops", "0005_visitors")]

    operations = [
        migrations.CreateModel(
            name="Erasure",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=80)),
                ("slug", models.CharField(max_length=60)),
                ("by", models.CharField(max_length=80)),
                ("rows", models.BigIntegerField()),
                ("at", models.DateTimeField(default=django.utils.timezone.now)),
            ],
        ),
        migrations.RunSQL(REFUSE, BEFORE),
        migrations.RunSQL(NEVER_EMPTIED, migrations.RunSQL.noop),
        migrations.RunSQL(ERASE, "DROP FUNCTION calm_heron_erase_workshop(bigint, text)"),
        migrations.RunSQL(STATISTICS, "DROP FUNCTION calm_heron_fresh_statistics()"),
    ]
