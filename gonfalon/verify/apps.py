from django.apps import AppConfig


class VerifyConfig(AppConfig):
    name = "gonfalon.verify"
    label = "verify"
