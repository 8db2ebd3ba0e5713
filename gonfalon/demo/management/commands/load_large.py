"""`manage.py load_large`: fill an empty database with a harbour company grown very large, for measuring."""

import os
from itertools import product
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from gonfalon.access.kinds import NewKind, make_kind
from gonfalon.access.models import KnownCapability, Role
from gonfalon.access.snapshot import current
from gonfalon.access.vocabulary import vocabulary
from gonfalon.accounts.models import Account
from gonfalon.core import load_policy
from gonfalon.demo.large import large_document
from gonfalon.ledger.models import By
from gonfalon.verify.documents import install
from gonfalon.work import NODES, POLICY, unit

KEEPER = "keeper@skerrow.example"
PLACES = ("Quay", "Pier", "Slip", "Lock", "Basin", "Mole", "Spit", "Ferry", "Watch", "Dock")
WORK = ("writer", "editor", "keeper", "reader", "pilot", "clerk", "warden", "mender", "caller", "tallier")
TURNS = ("", "early ", "late ", "night ", "relief ")


class Command(BaseCommand):
    help = f"Fill an empty database with 10,000 accounts. {KEEPER} signs in with GONFALON_DEMO_PASSWORD."

    def handle(self, *args: Any, **options: Any) -> None:
        password = os.environ.get("GONFALON_DEMO_PASSWORD")
        if not password:
            raise CommandError("Set GONFALON_DEMO_PASSWORD, the password the keyholder will have.")
        if Account.objects.exists():
            return
        self._build(password)
        self.stdout.write("The large harbour is built.")

    @unit(POLICY, NODES)
    def _build(self, password: str) -> None:
        install(load_policy(large_document()), By(None))
        keeper = Account.objects.get(keyholder=True)
        keeper.name, keeper.email = "Harbour Keeper", KEEPER
        keeper.set_password(password)
        keeper.save()
        _name_roles()
        _make_kind(By(keeper.id))
        known = vocabulary().in_use.catalogue.capabilities()
        KnownCapability.objects.bulk_create((KnownCapability(key=key) for key in known), ignore_conflicts=True)


def _name_roles() -> None:
    """Names one can tell apart, in the place of keys; nothing else of the roles."""
    roles = list(Role.objects.filter(baseline=""))
    for role, (turn, work, place) in zip(roles, product(TURNS, WORK, PLACES), strict=False):
        role.name = f"{place} {turn}{work}"
    Role.objects.bulk_update(roles, ["name"])


def _make_kind(by: By) -> None:
    """A kind that may stand under every page: a policy document does not say where kinds may stand."""
    pages = tuple(sorted(key for key, type in current().policy.types.items() if type.tree == "content"))
    make_kind(NewKind("Note", "notes", under=pages), by)
