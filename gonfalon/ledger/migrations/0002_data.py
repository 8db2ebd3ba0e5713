from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("ledger", "0001_initial")]

    operations = [migrations.AddField("entry", "data", models.JSONField(null=True))]
