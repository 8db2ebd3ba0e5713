"""Kinds of content that came with the application once are data from now on, wherever one of them is in use."""

from django.db import migrations

ONCE = [
    ("notice", "Notice to mariners", "notices to mariners", ["section"], [
        ("hazard", "Hazard level", "choice", ["low", "moderate", "high"]),
        ("valid_from", "Valid from", "date", []),
        ("valid_until", "Valid until", "date", []),
        ("advice", "Advice", "rich", []),
        ("contact", "Internal contact", "text", []),
    ]),
    ("berth", "Berth page", "berth pages", ["section"], [
        ("berth_number", "Berth number", "text", []),
        ("telephone", "Telephone", "text", []),
        ("dues", "Annual dues", "number", []),
        ("plan", "Mooring plan", "picture", []),
    ]),
    ("event", "Event", "events", ["section"], [
        ("starts", "Starts", "date", []),
        ("place", "Place", "text", []),
        ("capacity", "Capacity", "number", []),
        ("budget", "Budget", "number", []),
    ]),
    ("article", "Article", "articles", ["section", "home"], [("lead", "Lead", "long", [])]),
    ("tenant", "Tenant profile", "tenant profiles", ["section"], [
        ("trade", "Trade", "text", []),
        ("opening", "Opening hours", "text", []),
        ("berth", "Berth", "reference", []),
    ]),
]  # fmt: skip


def keep(apps, schema_editor):
    used = set(apps.get_model("content", "Node").objects.values_list("type", flat=True))
    said = apps.get_model("access", "Answer").objects.values_list("capability", flat=True)
    used |= {capability.partition(".")[0] for capability in said}
    if not any(key in used for key, *_ in ONCE):
        return
    row, _ = apps.get_model("access", "Vocabulary").objects.get_or_create(pk=1)
    row.kinds = [
        {
            "key": key,
            "name": name,
            "plural": plural,
            "tree": "content",
            "under": under,
            "components": None,
            "fields": [
                {"key": f, "name": said, "kind": kind, "choices": choices, "help": "", "required": False, "retired": False}
                for f, said, kind, choices in fields
            ],
            "version": 1,
        }
        for key, name, plural, under, fields in ONCE
    ]
    row.save(update_fields=["kinds"])


class Migration(migrations.Migration):
    dependencies = [("content", "0007_the_bin"), ("access", "0012_kinds")]
    operations = [migrations.RunPython(keep, migrations.RunPython.noop)]
