"""The database itself refuses to change or delete a salt check."""

from django.db import migrations

from calm_heron.workshops.triggers import never_changed


class Migration(migrations.Migration):
    dependencies = [("air", "0004_hygrometers"), ("workshops", "0002_refuse_change")]

    operations = [never_changed("air_hygrometercheck")]
