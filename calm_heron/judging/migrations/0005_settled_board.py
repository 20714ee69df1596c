"""Wood is held against the settled board of its place unless another approach is chosen; what stood at the mean of the year stood there
because that was the usual one."""

from django.db import migrations, models


def to_settled(apps, schema_editor):
    for name in ("Aim", "PieceAim"):
        apps.get_model("judging", name).objects.filter(approach="year").update(approach="board")


def to_year(apps, schema_editor):
    for name in ("Aim", "PieceAim"):
        apps.get_model("judging", name).objects.filter(approach="board").update(approach="year")


class Migration(migrations.Migration):
    dependencies = [
        ("judging", "0004_approach"),
    ]

    operations = [
        migrations.AlterField(
            model_name="aim",
            name="approach",
            field=models.CharField(
                choices=[("board", "board"), ("year", "year"), ("weeks", "weeks"), ("typed", "typed")], default="board", max_length=5
            ),
        ),
        migrations.AlterField(
            model_name="aim",
            name="use_key",
            field=models.CharField(
                choices=[
                    ("fine", "Fine work"),
                    ("general", "General work"),
                    ("strip", "Strip floor"),
                    ("plank", "Plank floor"),
                    ("framing", "Framing"),
                    ("outdoors", "Outdoor work"),
                    ("turning", "Finish turning"),
                    ("instrument", "Instruments"),
                    ("resawn", "Stock to be resawn"),
                ],
                default="general",
                max_length=12,
            ),
        ),
        migrations.AlterField(
            model_name="pieceaim",
            name="approach",
            field=models.CharField(
                choices=[("board", "board"), ("year", "year"), ("weeks", "weeks"), ("typed", "typed")], default="board", max_length=5
            ),
        ),
        migrations.AlterField(
            model_name="pieceaim",
            name="use_key",
            field=models.CharField(
                choices=[
                    ("fine", "Fine work"),
                    ("general", "General work"),
                    ("strip", "Strip floor"),
                    ("plank", "Plank floor"),
                    ("framing", "Framing"),
                    ("outdoors", "Outdoor work"),
                    ("turning", "Finish turning"),
                    ("instrument", "Instruments"),
                    ("resawn", "Stock to be resawn"),
                ],
                default="general",
                max_length=12,
            ),
        ),
        migrations.AlterField(
            model_name="userule",
            name="use_key",
            field=models.CharField(
                choices=[
                    ("fine", "Fine work"),
                    ("general", "General work"),
                    ("strip", "Strip floor"),
                    ("plank", "Plank floor"),
                    ("framing", "Framing"),
                    ("outdoors", "Outdoor work"),
                    ("turning", "Finish turning"),
                    ("instrument", "Instruments"),
                    ("resawn", "Stock to be resawn"),
                ],
                max_length=12,
            ),
        ),
        migrations.RunPython(to_settled, to_year),
    ]
