"""Stacks that stand, and the lots that lie in them."""

import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    initial = True

    dependencies = [
        ("air", "0007_put_right"),
        ("stock", "0003_whole_stock"),
        ("workshops", "0008_clock_and_english"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="Stack",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("version", models.PositiveIntegerField(default=1)),
                ("tag", models.CharField(max_length=32)),
                ("built_on", models.DateField(default=django.utils.timezone.localdate)),
                ("width_m", models.FloatField()),
                ("sticker_m", models.FloatField()),
                ("spacing_m", models.FloatField()),
                ("clear_m", models.FloatField()),
                (
                    "turned",
                    models.CharField(
                        choices=[("all", "to no side in particular"), ("across", "through the stickers"), ("along", "along its boards")],
                        default="all",
                        max_length=8,
                    ),
                ),
                (
                    "cover",
                    models.CharField(
                        choices=[
                            ("roof", "under a roof or lid of its own"),
                            ("tarp", "under a tarpaulin that reaches the ground"),
                            ("none", "under nothing"),
                        ],
                        default="roof",
                        max_length=8,
                    ),
                ),
                ("start_moisture", models.FloatField()),
                ("x_m", models.FloatField(blank=True, null=True)),
                ("y_m", models.FloatField(blank=True, null=True)),
                ("note", models.CharField(blank=True, max_length=200)),
                ("standing", models.BooleanField(default=True)),
                ("added_by", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="+", to=settings.AUTH_USER_MODEL)),
                ("place", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="stacks", to="air.place")),
                ("workshop", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="+", to="workshops.workshop")),
            ],
        ),
        migrations.CreateModel(
            name="StackLot",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("standing", models.BooleanField(default=True)),
                ("piece", models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name="stacked", to="stock.piece")),
                ("stack", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="lots", to="stacks.stack")),
                ("workshop", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="+", to="workshops.workshop")),
            ],
        ),
        migrations.AddConstraint(
            model_name="stack",
            constraint=models.UniqueConstraint(fields=("workshop", "tag"), name="stack_tags_differ"),
        ),
        migrations.AddConstraint(
            model_name="stack",
            constraint=models.CheckConstraint(condition=models.Q(("width_m__range", (0.2, 4.0))), name="stack_width_possible"),
        ),
        migrations.AddConstraint(
            model_name="stack",
            constraint=models.CheckConstraint(condition=models.Q(("sticker_m__range", (0.004, 0.1))), name="stickers_possible"),
        ),
        migrations.AddConstraint(
            model_name="stack",
            constraint=models.CheckConstraint(condition=models.Q(("spacing_m__range", (0.1, 2.0))), name="spacing_possible"),
        ),
        migrations.AddConstraint(
            model_name="stack",
            constraint=models.CheckConstraint(condition=models.Q(("clear_m__range", (0.0, 2.0))), name="clear_possible"),
        ),
        migrations.AddConstraint(
            model_name="stacklot",
            constraint=models.UniqueConstraint(condition=models.Q(("standing", True)), fields=("piece",), name="a_lot_lies_in_one_stack"),
        ),
    ]
