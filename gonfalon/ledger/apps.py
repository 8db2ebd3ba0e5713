from django.apps import AppConfig


class LedgerConfig(AppConfig):
    name = "gonfalon.ledger"
    label = "ledger"
