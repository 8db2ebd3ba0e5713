from django.apps import AppConfig


class VerifyConfig(AppConfig):
    name = "gonfalon.verify"
    label = "verify"

    def ready(self) -> None:
        from gonfalon.verify import checks  # noqa: F401
