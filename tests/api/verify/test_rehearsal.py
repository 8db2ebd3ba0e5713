"""Rehearsing: done and seen as they would do it, kept by nothing and nobody."""

from typing import Any

import pytest
from django.apps import apps
from django.core.files.storage import default_storage

from gonfalon.content.models import Node
from tests.api.support import Asking, ok, refused
from tests.api.writes import WRITES, Write

LOFT = "desk/pages/p3-sail-loft"
NOT_OF_IT = {"Session", "Rehearsal", "RehearsedRequest"}
REAL = {
    "change_me", "add_factor", "begin_codes", "begin_passkey", "new_recovery_codes", "remove_factor", "change_password",
    "end_other_sessions", "end_session", "let_own_address_go", "sign_in", "sign_out", "give_factor", "forgotten", "prove",
    "stand_in", "stand_in_on", "step_out", "use_welcome",
}  # fmt: skip
"""Who is there, one's own account, and the standing in itself: these are no part of a rehearsal."""
REHEARSED = [write for write in WRITES if write.name not in REAL]


def everything() -> dict[str, Any]:
    """All rows of all tables, and the names of all files."""
    models = [m for m in apps.get_models() if m.__name__ not in NOT_OF_IT]
    rows = {m._meta.label: sorted(map(repr, m._base_manager.values_list())) for m in models}
    return {
        **rows,
        "files": sorted(default_storage.listdir("portraits")[1]) if default_storage.exists("portraits") else [],
    }


def rehearse(asking: Asking, **whom: Any) -> Asking:
    ok(asking.post("stand-in", {**whom, "mode": "rehearse"}), 204)
    return asking


@pytest.fixture
def as_ines(odile):
    return rehearse(odile, account="ines")


@pytest.fixture
def as_myself(odile):
    return rehearse(odile, account="odile")


@pytest.mark.parametrize("write", REHEARSED, ids=lambda write: write.name)
def test_every_writing_address_rehearses(write: Write, odile):
    asking = Asking(write.account)
    send = write.ready(asking)
    if write.name == "begin":
        odile = Asking("odile")
    rehearse(odile, account=write.account)
    asking.client = odile.client
    before = everything()
    done = send()
    assert done.status_code < 400, done.content
    steps = ok(odile.get("rehearsal"))["steps"]
    assert everything() == before
    assert [(step["refused"], step["fails"]) for step in steps] == [(None, None)]


def test_what_is_done_is_seen_there_and_nowhere_else(as_ines):
    made = ok(as_ines.post("desk/pages", {"parent": "p3", "type": "berth", "title": "Spar store"}), 201)
    assert ok(as_ines.get(f"desk/pages/{made['id']}"))["title"] == "Spar store"
    assert made["id"] in {row["id"] for row in ok(as_ines.get("desk/children/p3"))}
    assert not Node.everywhere.filter(pk=made["id"]).exists()
    refused(Asking("ines").get(f"desk/pages/{made['id']}"), "not-found", 404)
