from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("content", "0009_places_of_nodes")]

    operations = [
        migrations.AlterField(
            "Node", "address", models.CharField(blank=True, db_collation="ascii_general_ci", max_length=2000)
        ),
    ]
