"""Each piece may have an aim of its own, and every aim a school."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("air", "0006_rooms_and_published_places"),
        ("judging", "0002_use_rules"),
        ("stock", "0003_whole_stock"),
        ("workshops", "0007_long_answers"),
    ]

    operations = [
        migrations.AddField(
            model_name="aim",
            name="moisture",
            field=models.FloatField(blank=True, null=True),
        ),
        migrations.AddField(
            model_name="aim",
            name="school",
            field=models.CharField(choices=[("year", "year"), ("weeks", "weeks"), ("typed", "typed")], default="year", max_length=5),
        ),
        migrations.CreateModel(
            name="PieceAim",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "use_key",
                    models.CharField(
                        choices=[
                            ("fine", "Fine work"),
                            ("general", "General work"),
                            ("strip", "Strip floor"),
                            ("plank", "Plank floor"),
                            ("framing", "Framing"),
                            ("outdoors", "Outdoor work"),
                            ("turning", "Finish turning"),
                            ("instrument", "Instruments"),
                        ],
                        default="fine",
                        max_length=12,
                    ),
                ),
                (
                    "school",
                    models.CharField(choices=[("year", "year"), ("weeks", "weeks"), ("typed", "typed")], default="year", max_length=5),
                ),
                ("moisture", models.FloatField(blank=True, null=True)),
                ("piece", models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name="aim", to="stock.piece")),
                ("place", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="+", to="air.place")),
                ("workshop", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="+", to="workshops.workshop")),
            ],
            options={
                "constraints": [
                    models.CheckConstraint(
                        condition=models.Q(("moisture__range", (0.03, 0.3)), ("moisture", None), _connector="OR"),
                        name="named_moisture_possible",
                    )
                ],
            },
        ),
    ]
