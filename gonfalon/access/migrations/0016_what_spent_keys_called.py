from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("access", "0015_policy_changes")]

    operations = [
        migrations.AddField("SpentKey", "name", models.CharField(blank=True, default="", max_length=120), preserve_default=False),
    ]
