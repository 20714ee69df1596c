"""Entries are kept as codes and data, and worded when they are read; those that were kept as a text stay that text."""

from django.db import migrations, models

from calm_heron.workshops.triggers import changing

TABLE = "logbook_entry"


class Migration(migrations.Migration):
    dependencies = [("logbook", "0002_never_changed")]

    operations = [
        migrations.AddField("entry", "what", models.CharField(max_length=40, default="as_written"), preserve_default=False),
        migrations.RunSQL(
            changing(TABLE, f"UPDATE {TABLE} SET data = data || jsonb_build_object('text', text)"),
            changing(TABLE, f"UPDATE {TABLE} SET text = coalesce(data ->> 'text', what)"),
        ),
        migrations.RemoveField("entry", "text"),
    ]
