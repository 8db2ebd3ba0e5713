from django.apps import AppConfig


class MailConfig(AppConfig):
    name = "gonfalon.mail"
    label = "mail"
