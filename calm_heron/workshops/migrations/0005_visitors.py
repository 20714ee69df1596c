"""Visitors of the demo are told from people with an account."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("workshops", "0004_submission_content")]

    operations = [migrations.AddField("person", "is_visitor", models.BooleanField(default=False))]
