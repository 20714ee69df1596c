"""The database itself refuses to change or delete what was recorded."""

from django.db import migrations

from calm_heron.workshops.triggers import never_changed


class Migration(migrations.Migration):
    dependencies = [("measuring", "0001_initial"), ("workshops", "0002_refuse_change")]

    operations = [never_changed("measuring_reading")]
