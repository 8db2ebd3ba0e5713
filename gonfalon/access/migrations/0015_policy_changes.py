from django.db import migrations, models

import gonfalon.clock


def begin(apps, schema_editor):
    """What was before is not known: from here on it is."""
    version = apps.get_model("access", "PolicyVersion").objects.values_list("number", flat=True).first() or 0
    apps.get_model("access", "PolicyChange").objects.create(version=version, at=gonfalon.clock.now(), changes=None)


class Migration(migrations.Migration):
    dependencies = [("access", "0014_spent_keys")]

    operations = [
        migrations.CreateModel(
            name="PolicyChange",
            fields=[
                ("version", models.PositiveBigIntegerField(primary_key=True, serialize=False)),
                ("at", models.DateTimeField(db_index=True)),
                ("changes", models.JSONField(null=True)),
            ],
        ),
        migrations.RunPython(begin, migrations.RunPython.noop),
    ]
