from django.apps import AppConfig


class ContentConfig(AppConfig):
    name = "gonfalon.content"
    label = "content"
