from django.apps import AppConfig


class AccessConfig(AppConfig):
    name = "gonfalon.access"
    label = "access"
