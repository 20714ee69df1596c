"""Forecasts are kept as they were shown, and never changed."""

import django.contrib.postgres.fields
import django.db.models.deletion
import django.utils.timezone
from django.db import migrations, models

from calm_heron.workshops.triggers import never_changed


class Migration(migrations.Migration):
    initial = True

    dependencies = [
        ("stock", "0003_whole_stock"),
        ("workshops", "0007_long_answers"),
    ]

    operations = [
        migrations.CreateModel(
            name="Forecast",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("at", models.DateTimeField(default=django.utils.timezone.now)),
                ("day", models.DateField(default=django.utils.timezone.localdate)),
                ("rule", models.CharField(default="2026-11a", max_length=10)),
                ("aim", models.CharField(max_length=160)),
                ("asked", models.JSONField(default=dict)),
                ("state", models.CharField(max_length=12)),
                ("days", models.FloatField(null=True)),
                ("low", models.FloatField(null=True)),
                ("high", models.FloatField(null=True)),
                ("chances", models.JSONField(default=list)),
                ("curve_days", django.contrib.postgres.fields.ArrayField(base_field=models.FloatField(), size=None)),
                ("curve_mean", django.contrib.postgres.fields.ArrayField(base_field=models.FloatField(), size=None)),
                ("curve_low", django.contrib.postgres.fields.ArrayField(base_field=models.FloatField(), size=None)),
                ("curve_high", django.contrib.postgres.fields.ArrayField(base_field=models.FloatField(), size=None)),
                ("digest", models.CharField(max_length=40)),
                ("piece", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="forecasts", to="stock.piece")),
                ("workshop", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="+", to="workshops.workshop")),
            ],
            options={
                "indexes": [models.Index(fields=["piece", "-at"], name="forecasts_newest_first")],
                "constraints": [models.UniqueConstraint(fields=("piece", "day", "digest"), name="a_forecast_a_day")],
            },
        ),
        never_changed("drying_forecast"),
    ]
