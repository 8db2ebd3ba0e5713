"""What a site has already: capabilities that are not new, the prose that texts held so far, extensions in use."""

from django.db import migrations, models

PROSE = {"a": ["href"], **{e: [] for e in ("blockquote", "br", "em", "h3", "h4", "li", "ol", "p", "strong", "ul")}}
SCHEMES = ["http", "https", "mailto", "tel"]


def begin(apps, schema_editor):
    from gonfalon.access.catalogue import Catalogue, installed

    there_is = installed()
    said = apps.get_model("access", "Answer").objects
    used = {capability.partition(".")[0] for capability in said.values_list("capability", flat=True)}
    on = {key for key, e in there_is.extensions.items() if any(type.key in used for type in e.types)}
    apps.get_model("access", "Vocabulary").objects.update_or_create(pk=1, defaults={"extensions": sorted(on)})
    new = {thing for key, e in there_is.extensions.items() if key not in on for thing in e.brings}
    there = Catalogue(
        {key: type for key, type in there_is.types.items() if key not in new},
        {},
        {key: duty for key, duty in there_is.duties.items() if key not in new},
    )
    known = apps.get_model("access", "KnownCapability")
    known.objects.bulk_create(known(key=key) for key in (*there.capabilities(), "markup.prose"))
    apps.get_model("access", "MarkupSet").objects.create(key="prose", name="Prose", elements=PROSE, schemes=SCHEMES)
    for role in apps.get_model("access", "Role").objects.filter(baseline="signed-in"):
        said.create(role=role, capability="markup.prose", says="yes")
    apps.get_model("access", "PolicyVersion").objects.update(number=models.F("number") + 1)


class Migration(migrations.Migration):
    dependencies = [("access", "0005_extensions_and_markup")]
    operations = [migrations.RunPython(begin, migrations.RunPython.noop)]
