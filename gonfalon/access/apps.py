from django.apps import AppConfig


class AccessConfig(AppConfig):
    name = "gonfalon.access"
    label = "access"

    def ready(self) -> None:
        from gonfalon.access import checks  # noqa: F401
