"""Changes are counted by app and by part of the pieces. Neither counts nor saved answers are carried over: both are made anew."""

from typing import Any

import django.contrib.postgres.fields
from django.db import migrations, models


def begin_anew(apps: Any, editor: Any) -> None:
    """Without the triggers that count in the former way; those of today are put on after the migration."""
    with editor.connection.cursor() as cursor:
        cursor.execute(
            "SELECT c.relname, t.tgname FROM pg_trigger t JOIN pg_class c ON c.oid = t.tgrelid WHERE t.tgname LIKE 'notes\\_%'", None
        )
        for table, name in cursor.fetchall():
            cursor.execute(f"DROP TRIGGER {name} ON {table}")
    apps.get_model("answers", "Change").objects.all().delete()
    apps.get_model("answers", "SavedAnswer").objects.all().delete()


class Migration(migrations.Migration):
    dependencies = [
        ("answers", "0001_answers"),
    ]

    operations = [
        migrations.RunPython(begin_anew, migrations.RunPython.noop),
        migrations.RemoveConstraint(model_name="change", name="one_count_a_transaction"),
        migrations.AddField(model_name="change", name="source", field=models.CharField(default="", max_length=40), preserve_default=False),
        migrations.AddField(model_name="change", name="part", field=models.SmallIntegerField(default=-1), preserve_default=False),
        migrations.AlterField(model_name="savedanswer", name="revision", field=models.CharField(max_length=24)),
        migrations.AddField(
            model_name="savedanswer",
            name="pieces",
            field=django.contrib.postgres.fields.ArrayField(base_field=models.BigIntegerField(), null=True, size=None),
        ),
        migrations.AddConstraint(
            model_name="change",
            constraint=models.UniqueConstraint(fields=("workshop_id", "transaction", "source", "part"), name="one_count_each"),
        ),
    ]
