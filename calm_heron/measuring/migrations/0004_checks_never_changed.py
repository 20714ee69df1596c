"""The database itself refuses to change or delete a check of an instrument."""

from django.db import migrations

TABLE = "measuring_metercheck"


class Migration(migrations.Migration):
    dependencies = [("measuring", "0003_instruments"), ("workshops", "0002_refuse_change")]

    operations = [
        migrations.RunSQL(
            f"CREATE TRIGGER never_changed BEFORE UPDATE OR DELETE ON {TABLE} FOR EACH ROW EXECUTE FUNCTION calm_heron_refuse_change()",
            f"DROP TRIGGER never_changed ON {TABLE}",
        )
    ]
