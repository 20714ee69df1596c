"""The database itself refuses to change or delete a salt check."""

from django.db import migrations

TABLE = "air_hygrometercheck"


class Migration(migrations.Migration):
    dependencies = [("air", "0004_hygrometers"), ("workshops", "0002_refuse_change")]

    operations = [
        migrations.RunSQL(
            f"CREATE TRIGGER never_changed BEFORE UPDATE OR DELETE ON {TABLE} FOR EACH ROW EXECUTE FUNCTION calm_heron_refuse_change()",
            f"DROP TRIGGER never_changed ON {TABLE}",
        )
    ]
