"""The table behind the cache that counts sign-in attempts."""

from django.core.management import call_command
from django.db import migrations


def create(apps, schema_editor) -> None:
    call_command("createcachetable", "calm_heron_cache", verbosity=0, database=schema_editor.connection.alias)


class Migration(migrations.Migration):
    dependencies = [("workshops", "0002_refuse_change")]

    operations = [migrations.RunPython(create, migrations.RunPython.noop)]
