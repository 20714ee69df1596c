"""Long ago visitors of the demo signed in as one of its people. Their sessions end, also where the demo is not started any more."""

from django.db import migrations

PEOPLE = ("wren", "tamsin", "idris", "oona")


def sign_out(apps, schema_editor):
    people = apps.get_model("workshops", "Person").objects.filter(email__in=[f"{name}@saltmarsh.example" for name in PEOPLE])
    people.update(is_active=False, password="!")


class Migration(migrations.Migration):
    dependencies = [("workshops", "0010_operator")]

    operations = [migrations.RunPython(sign_out, migrations.RunPython.noop)]
