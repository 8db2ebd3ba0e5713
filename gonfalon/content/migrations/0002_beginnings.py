"""The version row."""

from django.db import migrations


def begin(apps, schema_editor):
    apps.get_model("content", "ContentVersion").objects.create(pk=1, number=1)


class Migration(migrations.Migration):
    dependencies = [("content", "0001_initial")]
    operations = [migrations.RunPython(begin, migrations.RunPython.noop)]
