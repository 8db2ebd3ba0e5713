from django.apps import AppConfig


class StandInConfig(AppConfig):
    name = "gonfalon.standin"
    label = "standin"
