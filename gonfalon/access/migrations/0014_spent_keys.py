from django.db import migrations, models

import gonfalon.ids


class Migration(migrations.Migration):
    dependencies = [("access", "0013_start")]

    operations = [
        migrations.CreateModel(
            name="SpentKey",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("kind", models.CharField(max_length=20)),
                ("key", gonfalon.ids.IdField(db_collation="utf8mb4_nopad_bin", max_length=120)),
            ],
            options={
                "constraints": [models.UniqueConstraint(fields=("kind", "key"), name="spent_once")],
            },
        ),
    ]
