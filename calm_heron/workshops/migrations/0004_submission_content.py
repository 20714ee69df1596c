"""A form is known by its token and by what it carried."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("workshops", "0003_cache_table")]

    operations = [
        migrations.RemoveConstraint("submission", "a_submission_is_done_once"),
        migrations.AddField("submission", "content", models.CharField(default="", max_length=64)),
        migrations.AddConstraint(
            "submission", models.UniqueConstraint(fields=["workshop", "token", "content"], name="a_submission_is_done_once")
        ),
    ]
