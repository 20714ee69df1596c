"""The database itself refuses to change or delete what a sample weighed."""

from django.db import migrations

from calm_heron.workshops.triggers import never_changed


class Migration(migrations.Migration):
    dependencies = [("kiln", "0001_loads"), ("workshops", "0002_refuse_change")]

    operations = [never_changed("kiln_sampleweight")]
