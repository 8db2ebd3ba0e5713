from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("content", "0004_changes_of_single_nodes")]

    operations = [
        migrations.AddField(model_name="site", name="footer", field=models.CharField(blank=True, max_length=200)),
    ]
