"""The function behind every append-only table.

It lets a row go only while a transaction has said that it erases a whole workshop; that is how the demo is reset.
"""

from django.db import migrations

CREATE = """
CREATE FUNCTION calm_heron_refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'DELETE' AND current_setting('calm_heron.erasing_workshop', true) = 'yes' THEN
        RETURN OLD;
    END IF;
    RAISE EXCEPTION 'rows of % are added, never changed', TG_TABLE_NAME USING ERRCODE = 'restrict_violation';
END $$
"""


class Migration(migrations.Migration):
    dependencies = [("workshops", "0001_initial")]

    operations = [migrations.RunSQL(CREATE, "DROP FUNCTION calm_heron_refuse_change()")]
