from typing import TYPE_CHECKING

from django.apps import AppConfig

if TYPE_CHECKING:
    from gonfalon.content.models import Site, Topic


class ContentConfig(AppConfig):
    name = "gonfalon.content"
    label = "content"

    def ready(self) -> None:
        from django.conf import settings

        from gonfalon.access.extensions import install
        from gonfalon.access.names import LookUps, names_come_from
        from gonfalon.content import types  # noqa: F401
        from gonfalon.content.models import Site, Topic
        from gonfalon.content.nodes import titles

        for package in settings.EXTENSIONS:
            install(package)
        names_come_from(LookUps(titles, lambda: _names(Site), lambda: _names(Topic)))


def _names(things: "type[Site | Topic]") -> dict[str, str]:
    return dict(things.objects.values_list("key", "name"))
