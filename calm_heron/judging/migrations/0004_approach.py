"""What was a school is an approach."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("judging", "0003_piece_aims")]

    operations = [
        migrations.RenameField(model_name="aim", old_name="school", new_name="approach"),
        migrations.RenameField(model_name="pieceaim", old_name="school", new_name="approach"),
    ]
