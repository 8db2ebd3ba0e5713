from django.apps import AppConfig


class AccountsConfig(AppConfig):
    name = "gonfalon.accounts"
    label = "accounts"
