"""Years from published places and from moistures; a pattern or a file given to a room is outdoor air that comes in.

Until now such a year was taken for the room's own air. It gets the settings of a usual heated room, and a store those of a building
nobody heats; what a dwelling adds to its air is less than was thought.
"""

from django.db import migrations, models

SOURCES = [
    ("typed", "typed"),
    ("emc", "typed as moistures"),
    ("published", "a published place"),
    ("pattern", "a climate pattern"),
    ("file", "a file"),
    ("room", "worked out from another place"),
]


def heat_rooms(apps, _) -> None:
    years = apps.get_model("air", "Normals").objects
    outdoors = years.filter(source__in=["pattern", "file"])
    outdoors.filter(place__kind="room", heated_to_c=None).update(heated_to_c=20.0, moisture_gain=0.002)
    outdoors.filter(place__kind="store").update(air_changes=1.0)
    years.filter(moisture_gain=0.0025).update(moisture_gain=0.002)


class Migration(migrations.Migration):
    dependencies = [("air", "0005_checks_never_changed")]

    operations = [
        migrations.AlterField("normals", "source", models.CharField(choices=SOURCES, max_length=10)),
        migrations.AddField("normals", "air_changes", models.FloatField(default=0.5)),
        migrations.RunPython(heat_rooms, migrations.RunPython.noop, elidable=True),
    ]
