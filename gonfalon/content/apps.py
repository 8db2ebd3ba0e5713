from django.apps import AppConfig


class ContentConfig(AppConfig):
    name = "gonfalon.content"
    label = "content"

    def ready(self) -> None:
        from django.conf import settings

        from gonfalon.access.extensions import install
        from gonfalon.content import types  # noqa: F401

        for package in settings.EXTENSIONS:
            install(package)
