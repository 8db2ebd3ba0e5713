from django.apps import AppConfig


class DemoConfig(AppConfig):
    name = "gonfalon.demo"
    label = "demo"
