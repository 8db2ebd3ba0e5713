"""The version row, and the two baseline roles that every installation has."""

from django.db import migrations


def begin(apps, schema_editor):
    apps.get_model("access", "PolicyVersion").objects.create(pk=1, number=1)
    role = apps.get_model("access", "Role").objects.create
    role(key="everyone", name="Everyone", description="Visitors and every account.", baseline="everyone",
         colour="slate", pattern="plain", position=0)
    role(key="signed-in", name="Signed in", description="Every active account.", baseline="signed-in",
         colour="slate", pattern="band", position=1)


class Migration(migrations.Migration):
    dependencies = [("access", "0001_initial")]
    operations = [migrations.RunPython(begin, migrations.RunPython.noop)]
