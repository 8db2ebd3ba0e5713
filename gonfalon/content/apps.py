from django.apps import AppConfig


class ContentConfig(AppConfig):
    name = "gonfalon.content"
    label = "content"

    def ready(self) -> None:
        from gonfalon.access.operations import KINDS
        from gonfalon.content.authorship import HandOver

        KINDS["hand-over"] = HandOver()
