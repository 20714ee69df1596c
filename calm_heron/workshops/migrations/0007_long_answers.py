"""Where a submission led may be a long address."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("workshops", "0006_least_right")]

    operations = [migrations.AlterField("submission", "answer_url", models.TextField())]
