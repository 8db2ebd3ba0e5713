from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("access", "0017_sections")]
    operations = [migrations.AddField("Role", "shipped_lists", models.JSONField(null=True))]
