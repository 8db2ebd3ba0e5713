from django.apps import AppConfig


class ContentConfig(AppConfig):
    name = "gonfalon.content"
    label = "content"

    def ready(self) -> None:
        from django.conf import settings

        from gonfalon.access.extensions import install
        from gonfalon.access.names import titles_come_from
        from gonfalon.content import types  # noqa: F401
        from gonfalon.content.nodes import titles

        for package in settings.EXTENSIONS:
            install(package)
        titles_come_from(titles)
