"""Sections of the desk are opened one by one: whatever is said about the desk is said about each new one of them."""

from django.db import migrations, models

from gonfalon.clock import new_id

NEW = ("content.open", "discussion.open", "topics.open", "accounts.open", "settings.open")


def open_sections(apps, schema_editor):
    answers = apps.get_model("access", "Answer").objects
    direct = apps.get_model("access", "DirectGrant").objects
    for answer in answers.filter(capability="desk.open"):
        answers.bulk_create(
            (type(answer)(role_id=answer.role_id, capability=key, says=answer.says) for key in NEW),
            ignore_conflicts=True,
        )
    for given in direct.filter(capability="desk.open"):
        for key in NEW:
            given.pk, given.capability = new_id(), key
            given.save(force_insert=True)
    for role in apps.get_model("access", "Role").objects.exclude(shipped=None):
        if "desk.open" in role.shipped:
            role.shipped = {**dict.fromkeys(NEW, role.shipped["desk.open"]), **role.shipped}
            role.save(update_fields=["shipped"])
    known = apps.get_model("access", "KnownCapability")
    if known.objects.filter(key="desk.open").exists():
        known.objects.bulk_create((known(key=key) for key in NEW), ignore_conflicts=True)
    apps.get_model("access", "PolicyVersion").objects.update(number=models.F("number") + 1)


class Migration(migrations.Migration):
    dependencies = [("access", "0016_what_spent_keys_called")]
    operations = [migrations.RunPython(open_sections, migrations.RunPython.noop)]
