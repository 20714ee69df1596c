"""Whether some reading tells of the inside of the wood is kept with the estimate."""

from django.db import migrations, models


def tell_what_is_known(apps, _) -> None:
    """A core that was read, or a weighing, tells of the inside; fresh cuts of before are told with the next reading."""
    kept = apps.get_model("measuring", "PieceMoisture").objects
    kept.filter(models.Q(gradient__isnull=False) | models.Q(by_weight=True)).update(inside=True)


class Migration(migrations.Migration):
    dependencies = [
        ("measuring", "0006_steps_as_codes"),
    ]

    operations = [
        migrations.AddField(
            model_name="piecemoisture",
            name="inside",
            field=models.BooleanField(default=False),
        ),
        migrations.RunPython(tell_what_is_known, migrations.RunPython.noop),
    ]
