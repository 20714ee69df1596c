"""The database itself refuses to change or delete a check of an instrument."""

from django.db import migrations

from calm_heron.workshops.triggers import never_changed


class Migration(migrations.Migration):
    dependencies = [("measuring", "0003_instruments"), ("workshops", "0002_refuse_change")]

    operations = [never_changed("measuring_metercheck")]
