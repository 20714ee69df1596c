"""What was typed of the air can be put right, a place retired, and what it usually is remembered."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("air", "0006_rooms_and_published_places"),
        ("workshops", "0007_long_answers"),
    ]

    operations = [
        migrations.AddField(
            model_name="airreading",
            name="struck",
            field=models.BooleanField(default=False),
        ),
        migrations.AddField(
            model_name="airreading",
            name="supersedes",
            field=models.OneToOneField(
                null=True, on_delete=django.db.models.deletion.PROTECT, related_name="superseded_by", to="air.airreading"
            ),
        ),
        migrations.AddField(
            model_name="place",
            name="retired",
            field=models.BooleanField(default=False),
        ),
        migrations.AddField(
            model_name="place",
            name="usual_humidity",
            field=models.FloatField(blank=True, null=True),
        ),
        migrations.AddConstraint(
            model_name="place",
            constraint=models.CheckConstraint(
                condition=models.Q(("usual_humidity__range", (0.01, 0.99)), ("usual_humidity", None), _connector="OR"),
                name="usual_humidity_possible",
            ),
        ),
    ]
