"""Rehearsing: done and seen as they would do it, kept by nothing and nobody."""

import json
from datetime import timedelta
from typing import Any

import pytest
from django.apps import apps
from django.core.files.storage import default_storage
from django.utils.dateparse import parse_datetime

from gonfalon.access.models import Answer, ChangeSet, Role
from gonfalon.access.snapshot import raise_version
from gonfalon.accounts.models import Account
from gonfalon.clock import now
from gonfalon.content.models import Node
from gonfalon.mail.models import Letter
from gonfalon.verify.models import Expectation, Rehearsal, RehearsedRequest
from tests.api.support import Asking, apply, in_tree, ok, refused, stage
from tests.api.writes import LATER, WRITES, Write

LOFT = "desk/pages/p3-sail-loft"
PIA = {"name": "Pia", "email": "pia@skerrow.example"}
NOT_OF_IT = {"Session", "Rehearsal", "RehearsedRequest", "WalkTick"}
REAL = {
    "change_me", "add_factor", "begin_codes", "begin_passkey", "new_recovery_codes", "remove_factor",
    "change_password", "take_own_away",
    "end_other_sessions", "end_session", "let_own_address_go", "sign_in", "sign_out", "give_factor",
    "forgotten", "prove",
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


@pytest.fixture(autouse=True)
def no_hurry(monkeypatch):
    """A slow machine says nothing about what is done."""
    monkeypatch.setattr("gonfalon.api.rehearsing.AT_MOST", 60.0)


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
    assert b'"password"' not in bytes(RehearsedRequest.objects.get().body), "passwords are never kept"


def test_what_is_done_is_seen_there_and_nowhere_else(as_myself):
    made = ok(as_myself.post(f"{LOFT}/duplicate", {}), 201)
    assert ok(as_myself.get(f"desk/pages/{made['id']}"))["id"] == made["id"]
    assert made["id"] in in_tree(as_myself)
    assert not Node.everywhere.filter(pk=made["id"]).exists()
    refused(Asking("ines").get(f"desk/pages/{made['id']}"), "not-found", 404)


def test_what_is_refused_is_told_and_not_done_again(as_ines):
    tag = {"If-Match": as_ines.get(LOFT)["ETag"]}
    refused(as_ines.post(f"{LOFT}/publish", **tag), "not-granted")
    [step] = ok(as_ines.get("rehearsal"))["steps"]
    assert (step["refused"]["reason"], step["said"], step["fails"]) == ("not-granted", ["Pier 3, Sail loft"], None)
    assert RehearsedRequest.objects.get().body == b""


def test_what_cannot_be_read_is_no_step(as_ines):
    refused(as_ines.post("desk/pages", {"parent": "p3"}), "invalid", 422)
    assert ok(as_ines.get("rehearsal"))["steps"] == []


def save(asking: Asking, **said: Any) -> Any:
    return asking.patch(LOFT, said, **{"If-Match": asking.get(LOFT)["ETag"]})


def test_saves_of_one_page_in_a_row_are_one_step(as_ines):
    for title in ("One", "Two", "Three"):
        ok(save(as_ines, title=title))
    [step] = ok(as_ines.get("rehearsal"))["steps"]
    assert step["said"] == ["Saved One", "Saved Two", "Saved Three"]
    assert ok(as_ines.get(LOFT))["title"] == "Three"


def test_a_step_is_taken_back_alone_and_what_rested_on_it_fails(as_myself):
    ok(save(as_myself, title="The loft"))
    made = ok(as_myself.post(f"{LOFT}/duplicate", {}), 201)["id"]
    ok(save(as_myself, values={"telephone": "0550"}))
    tag = as_myself.get(f"desk/pages/{made}")["ETag"]
    ok(as_myself.patch(f"desk/pages/{made}", {"title": "Another"}, **{"If-Match": tag}))
    left = ok(as_myself.delete("rehearsal/steps/1"))["steps"]
    assert [(step["n"], step["fails"]) for step in left] == [(2, None), (3, None), (4, None)]
    page = ok(as_myself.get(LOFT))
    assert page["title"] == "Pier 3, Sail loft"
    assert next(field["value"] for field in page["fields"] if field["key"] == "telephone") == "0550"
    left = ok(as_myself.delete("rehearsal/steps/2"))["steps"]
    assert [(step["n"], step["fails"] and step["fails"]["reason"]) for step in left] == [(3, None), (4, "not-found")]
    refused(as_myself.delete("rehearsal/steps/2"), "not-found", 404)


def test_no_more_fits_than_fifty_steps(as_myself, monkeypatch):
    monkeypatch.setattr("gonfalon.verify.rehearsals.MOST_STEPS", 3)
    for _ in range(3):
        ok(as_myself.post(f"{LOFT}/duplicate", {}), 201)
    refused(as_myself.post(f"{LOFT}/duplicate", {}), "rehearsal-full", 409)
    assert len(ok(as_myself.get("rehearsal"))["steps"]) == 3


def test_nor_more_than_fits_into_its_journal(as_myself, monkeypatch):
    monkeypatch.setattr("gonfalon.verify.rehearsals.MOST_BYTES", 40)
    ok(as_myself.post(f"{LOFT}/duplicate", {}), 201)
    refused(as_myself.post("desk/pages", {"parent": "p3", "type": "berth", "title": "x" * 40}), "rehearsal-full", 409)


def test_ids_and_secrets_are_the_same_each_time(as_myself):
    [made] = ok(as_myself.post("accounts", {"people": [PIA], "groups": ["pilots"]}), 201)["people"]
    before = ok(as_myself.get(f"accounts/{made['id']}"))
    ok(as_myself.post("groups", {"name": "Night crew"}), 201)
    assert ok(as_myself.get(f"accounts/{made['id']}")) == before
    assert Letter.objects.filter(to="pia@skerrow.example").count() == 0


def test_a_password_is_never_kept(as_myself):
    [made] = ok(as_myself.post("accounts", {"people": [PIA], "how": "password"}), 201)["people"]
    [kept] = RehearsedRequest.objects.all()
    assert made["password"] not in str((bytes(kept.body), kept.ids, kept.said))


def test_who_is_there_and_ones_own_account_are_no_part_of_it(as_ines):
    for response in (
        as_ines.post("me/password", {"current": "x", "password": "y"}),
        as_ines.post("session/forgotten", {"email": "ines@sailloft.example"}),
        as_ines.post("session", {"email": "ines@sailloft.example", "password": "x"}),
        as_ines.post("stand-in", {"account": "aiko"}),
    ):
        assert response.status_code == 403, response.content
    assert Letter.objects.count() == 0
    assert [step["refused"]["reason"] for step in ok(as_ines.get("rehearsal"))["steps"]] == ["look-only"]


def test_what_is_applied_there_counts_there(as_myself):
    stage(as_myself, {"kind": "set-answer", "role": "tenant-editor", "capability": "berth.publish", "says": "own"})
    ok(as_myself.post("change-set/apply"))
    also = ok(as_myself.get("roles/duty-editor/cell", capability="berth.publish"))["also"]
    assert {"role": "tenant-editor", "says": "own"} in also
    assert "publish" not in ok(Asking("ines").get(LOFT))["may"]


def test_what_is_staged_is_applied_in_it_to_see(odile):
    stage(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "berth.publish", "says": "own"})
    ok(odile.post("stand-in", {"account": "ines", "mode": "rehearse", "staged": True}), 204)
    assert "retire" in ok(odile.get(LOFT))["may"]
    Node.objects.filter(pk="p3-sail-loft").update(state="draft")
    tag = odile.get(LOFT)["ETag"]
    assert ok(odile.post(f"{LOFT}/publish", **{"If-Match": tag}))["state"] == "published"
    assert Node.objects.get(pk="p3-sail-loft").state == "draft"
    assert ChangeSet.objects.get(owner="odile", state="open").operations.count() == 1


def test_at_a_moment_to_come_it_stands_still(odile):
    ok(odile.post("stand-in", {"account": "ines", "mode": "rehearse", "at": LATER}), 204)
    ok(save(odile, title="The loft"))
    assert RehearsedRequest.objects.get().at == parse_datetime(LATER)


def test_what_is_past_is_only_looked_at(odile):
    past = (now() - timedelta(days=1)).isoformat()
    for moment in (past, "9999-12-31T23:59:59Z"):
        refused(odile.post("stand-in", {"account": "ines", "mode": "rehearse", "at": moment}), "invalid", 422)


def test_the_mode_is_changed_on_the_way_and_what_was_done_is_gone(odile):
    ok(odile.post("stand-in", {"account": "ines"}), 204)
    refused(save(odile, title="The loft"), "look-only")
    ok(odile.patch("stand-in", {"mode": "rehearse"}), 204)
    ok(save(odile, title="The loft"))
    ok(odile.patch("stand-in", {}), 204)
    assert len(ok(odile.get("rehearsal"))["steps"]) == 1
    ok(odile.patch("stand-in", {"mode": "look"}), 204)
    assert ok(odile.get(LOFT))["title"] == "Pier 3, Sail loft"
    assert Rehearsal.objects.count() == RehearsedRequest.objects.count() == 0


def test_stepping_out_leaves_nothing(as_ines):
    ok(save(as_ines, title="The loft"))
    ok(as_ines.delete("stand-in"), 204)
    assert Rehearsal.objects.count() == RehearsedRequest.objects.count() == 0
    assert ok(as_ines.get(LOFT))["title"] == "Pier 3, Sail loft"


def test_one_whose_time_is_up_is_over(as_ines):
    ok(save(as_ines, title="The loft"))
    Rehearsal.objects.update(until=now())
    refused(as_ines.get(LOFT), "stand-in-over")
    assert ok(as_ines.get("session"))["standing_in"] is None
    assert ok(as_ines.get(LOFT))["title"] == "Pier 3, Sail loft"


def test_the_reads_of_a_screen_travel_together(as_ines):
    ok(save(as_ines, title="The loft"))
    paths = ["/api/session", f"/api/{LOFT}", "/api/roles", "/api/nothing", "/api/rehearsal", "/api/desk/children?x=1"]
    answers = ok(as_ines.post("rehearsal/reads", {"paths": paths}))
    assert [answer["status"] for answer in answers] == [200, 200, 403, 404, 404, 200]
    assert json.loads(answers[1]["body"])["title"] == "The loft"
    assert answers[1]["headers"]["ETag"] == as_ines.get(LOFT)["ETag"]
    refused(Asking("odile").post("rehearsal/reads", {"paths": paths}), "conflict", 409)


def test_somebody_made_up_rehearses_as_the_author_of_everything_or_nothing(odile):
    ok(odile.post("stand-in", {"roles": ["site-steward"], "own": True, "mode": "rehearse"}), 204)
    before = everything()
    ok(save(odile, title="The loft"))
    ok(odile.post(f"{LOFT}/duplicate", {}), 201)
    assert everything() == before
    assert [row["title"] for row in ok(odile.get("start"))["left_off"]] == ["The loft"]
    ok(odile.delete("stand-in"), 204)
    ok(odile.post("stand-in", {"roles": ["tenant-editor"], "mode": "rehearse"}), 204)
    refused(save(odile, title="The loft"), "out-of-extent")


def test_as_oneself_only_with_the_duty(ask, odile):
    ines = ask("ines")
    refused(ines.post("stand-in", {"account": "ines", "mode": "rehearse"}), "not-granted")
    give = {"kind": "give-capability", "capability": "rehearsal.start", "says": "yes"}
    apply(odile, give | {"to": {"kind": "account", "id": "ines"}})
    ok(ines.post("stand-in", {"account": "ines", "mode": "rehearse"}), 204)
    ok(save(ines, title="The loft"))
    assert ok(ines.get(LOFT))["title"] == "The loft"
    assert Node.objects.get(pk="p3-sail-loft").title == "Pier 3, Sail loft"


def test_whoever_loses_the_duty_rehearses_no_more(ask, odile):
    bashir = rehearse(ask("bashir"), account="tomasz")
    ok(bashir.get("start"))
    apply(odile, {"kind": "set-answer", "role": "harbour-lead", "capability": "impersonate.start", "says": "withheld"})
    assert ok(bashir.get("session"))["standing_in"] is None


DUTIES = (
    "impersonate.start", "rehearsal.start", "roles.assign", "roster.see", "roles.define", "desk.open", "content.open",
)  # fmt: skip


@pytest.fixture
def raiser(ask, odile):
    """Somebody who may rehearse and give roles, and sees nothing that a harbour lead sees."""
    Account.objects.create(id="raiser", name="Raiser", email="raiser@skerrow.example", password="x")
    raise_version()
    to = {"kind": "account", "id": "raiser"}
    apply(odile, *({"kind": "give-capability", "capability": duty, "says": "yes", "to": to} for duty in DUTIES))
    return ask("raiser")


@pytest.mark.parametrize("to", ["raiser", "aiko"])
def test_nobody_raises_themselves_by_what_they_do_there(raiser, to):
    """A role that gives more is given: to oneself, and the rehearsal ends; to somebody else, and nothing is learnt."""
    rehearse(raiser, account="raiser")
    ok(raiser.post("accounts/many", {"accounts": [to], "action": "give-role", "role": "harbour-lead"}))
    applied = raiser.post("change-set/apply")
    if to == "raiser":
        problem = refused(applied, "stand-in-over")
        assert problem["detail"].startswith("With this, they would go further than you do.")
        assert ok(raiser.get("session"))["standing_in"] is None
        assert Rehearsal.objects.count() == RehearsedRequest.objects.count() == 0
    else:
        ok(applied)
        assert ok(raiser.get("session"))["standing_in"]["mode"] == "rehearse"
    refused(raiser.get("desk/pages/min-2026-10"), "not-found", 404)
    assert raiser.get("xray/pages/min-2026-10").status_code in (404, 409)
    assert raiser.get("why", action="edit", node="min-2026-10").status_code == 404


def test_nor_by_what_whom_they_stand_in_for_gives_them(raiser):
    """Somebody made up gives the raiser a role there: what whoever signed in may look into stays as it is in force."""
    Role.objects.create(key="giver", name="Giver", colour="azure", pattern="plain", position=99)
    Answer.objects.bulk_create(Answer(role_id="giver", capability=duty, says="yes") for duty in DUTIES)
    raise_version()
    rehearse(raiser, roles=["giver"])
    ok(raiser.post("accounts/many", {"accounts": ["raiser"], "action": "give-role", "role": "harbour-lead"}))
    ok(raiser.post("change-set/apply"))
    assert "harbour-lead" in str(ok(raiser.get("accounts/raiser")))
    for node in ("min-2026-10", "n-old-cable"):
        refused(raiser.get(f"xray/pages/{node}"), "not-found", 404)
        refused(raiser.get("why", action="edit", node=node), "not-found", 404)
    assert "min-2026-10" not in in_tree(raiser, of="xray")
    assert ok(raiser.get("xray/rows", of="waiting")) == []


def test_what_is_made_there_ends_nothing_for_whoever_is_no_keyholder(ask):
    """Of a page made there nobody can be asked in force; what its maker may do with it is nobody's loss."""
    bashir = rehearse(ask("bashir"), account="tomasz")
    made = ok(bashir.post("desk/pages", {"parent": "notices", "type": "notice", "title": "Dredging"}), 201)
    ok(bashir.get(f"desk/pages/{made['id']}"))
    assert ok(bashir.get("session"))["standing_in"]["mode"] == "rehearse"
    assert made["id"] in in_tree(bashir, of="xray")
    assert ok(bashir.get(f"xray/pages/{made['id']}"))["title"] == "Dredging"


def test_a_refused_request_leaves_nothing_for_those_after_it(as_myself):
    """It got as far as writing, and what it wrote is not there for what follows."""
    ok(as_myself.post("groups", {"name": "Night crew"}), 201)
    refused(as_myself.post("groups", {"name": "Night crew"}), "invalid", 422)
    tag = {"If-Match": '"1"'}
    key = ok(as_myself.post("kinds", {"name": "Leaflet", "plural": "leaflets", "under": ["section"]}), 201)["key"]
    refused(as_myself.patch(f"kinds/{key}", {"name": "Flyer"}, **{"If-Match": '"7"'}), "changed-meanwhile", 412)
    ok(as_myself.patch(f"kinds/{key}", {"name": "Flyer"}, **tag))
    groups = [row["name"] for row in ok(as_myself.get("groups"))]
    assert groups.count("Night crew") == 1
    assert [step["fails"] for step in ok(as_myself.get("rehearsal"))["steps"]] == [None] * 3


def test_nor_by_what_they_have_staged_or_by_another_moment(raiser):
    give = {"kind": "give-role", "role": "harbour-lead", "to": {"kind": "account", "id": "raiser"}}
    stage(raiser, give | {"starts": LATER})
    later = (parse_datetime(LATER) + timedelta(days=1)).isoformat()
    for whom in ({"account": "raiser"}, {"roles": ["harbour-lead"]}):
        for more in ({"staged": True, "at": later}, {"staged": True, "at": later, "mode": "look"}):
            refused(raiser.post("stand-in", {"mode": "rehearse", **whom, **more}), "beyond")


def test_what_was_removed_is_brought_back_only_where_it_gives_no_more_than_one_has(ask, odile):
    """Of a page in the bin nobody is asked in force; once it is back there, both are."""
    page, type = "winter-rates", Node.objects.get(pk="winter-rates").type
    for id in ("raiser", "other"):
        Account.objects.create(id=id, name=id.capitalize(), email=f"{id}@skerrow.example", password="x")
    Role.objects.create(key="binner", name="Binner", colour="azure", pattern="plain", position=99)
    Answer.objects.bulk_create(
        Answer(role_id="binner", capability=f"{type}.{verb}", says="all") for verb in ("restore", "history")
    )
    raise_version()
    seen = {one for row in Node.objects.all() for one in (f"{row.type}.see", f"{row.type}.see-draft")}
    both = [
        "desk.open",
        "content.open",
        "impersonate.start",
        "roster.see",
        "account.see",
        "account.edit",
        "fields.private",
    ]
    kinds = dict.fromkeys((*seen, f"{type}.create", "account.see", "account.edit"), "all")
    for id in ("raiser", "other"):
        to = {"kind": "account", "id": id}
        given = ({"capability": c, "says": kinds.get(c, "yes")} for c in dict.fromkeys([*both, *kinds]))
        apply(odile, *({"kind": "give-capability", "to": to} | one for one in given))
    to = {"kind": "account", "id": "other"}
    apply(odile, {"kind": "give-role", "role": "binner", "to": to, "scope": {"branches": [page]}})
    raiser = ask("raiser")
    refused(raiser.post("stand-in", {"account": "other", "mode": "rehearse"}), "beyond")
    tag = odile.get(f"desk/pages/{page}")["ETag"]
    ok(odile.post(f"desk/pages/{page}/remove", **{"If-Match": tag}), 204)
    rehearse(raiser, account="other")
    assert [row["id"] for row in ok(raiser.get("desk/bin"))] == [page]
    problem = refused(raiser.post(f"desk/pages/{page}/restore", {}), "stand-in-over")
    assert "What came back there is more theirs than yours." in problem["detail"]
    assert ok(raiser.get("session"))["standing_in"] is None
    rehearse(odile, account="other")
    ok(odile.post(f"desk/pages/{page}/restore", {}))
    refused(Asking("odile").get(f"desk/pages/{page}"), "not-found", 404)


def test_signing_out_ends_it_and_what_is_over_is_swept_away(as_ines, ask):
    ok(save(as_ines, title="The loft"))
    ok(as_ines.delete("session"), 204)
    assert Rehearsal.objects.count() == RehearsedRequest.objects.count() == 0
    again = rehearse(ask("odile"), account="ines")
    ok(save(again, title="The loft"))
    Rehearsal.objects.update(until=now())
    rehearse(ask("odile"), account="aiko")
    assert Rehearsal.objects.count() == 1
    assert RehearsedRequest.objects.count() == 0


def test_what_is_done_longer_than_others_may_wait_is_refused_and_can_be_taken_back(as_ines, monkeypatch):
    ok(save(as_ines, title="The loft"))
    monkeypatch.setattr("gonfalon.api.rehearsing.AT_MOST", -1.0)
    refused(as_ines.get(LOFT), "held-too-long", 409)
    [step] = ok(as_ines.get("rehearsal"))["steps"]
    assert step["fails"] is None
    assert ok(as_ines.delete(f"rehearsal/steps/{step['n']}"))["steps"] == []
    assert ok(as_ines.get(LOFT))["title"] == "Pier 3, Sail loft"


def test_what_is_too_long_to_be_kept_is_refused_in_words(as_ines):
    refused(as_ines.post(f"{LOFT}/duplicate?x={'x' * 3000}", {}), "address-too-long", 414)
    answer = as_ines.patch(LOFT, {"title": "The loft"}, **{"If-Match": '"' + "1" * 900 + '"'})
    refused(answer, "changed-meanwhile", 412)


def test_what_one_sees_there_is_noted_in_earnest_where_that_is_asked_for(as_ines):
    said = {"account": "ines", "action": "see", "node": "p3-sail-loft", "expect": "allow"}
    before = Expectation.objects.count()
    ok(as_ines.post("expectations", said), 201)
    assert Expectation.objects.count() == before
    ok(as_ines.post("expectations", said, **{"In-Earnest": "yes"}), 201)
    assert Expectation.objects.latest("recorded_at").recorded_by == "odile"
    assert Expectation.objects.count() == before + 1
    assert len(ok(as_ines.get("rehearsal"))["steps"]) == 1
    made = as_ines.post(f"{LOFT}/retire", **{"If-Match": as_ines.get(LOFT)["ETag"], "In-Earnest": "yes"})
    assert made.status_code == 200
    assert Node.objects.get(pk="p3-sail-loft").state == "published", "no other address is asked"


def test_what_was_refused_can_be_expected_as_it_was_asked(as_ines):
    refused(as_ines.post(f"{LOFT}/publish", **{"If-Match": as_ines.get(LOFT)["ETag"]}), "not-granted")
    dues = {"values": {"dues": 77}}
    refused(as_ines.patch(LOFT, dues, **{"If-Match": as_ines.get(LOFT)["ETag"]}), "field")
    made = ok(as_ines.post("desk/pages", {"parent": "events", "type": "event", "title": "Mending day"}), 201)
    page = f"desk/pages/{made['id']}"
    assert as_ines.post(f"{page}/publish", **{"If-Match": as_ines.get(page)["ETag"]}).status_code == 403
    steps = [step["refused"] for step in ok(as_ines.get("rehearsal"))["steps"] if step["refused"]]
    assert [step["question"] for step in steps] == [
        {"account": "ines", "action": "publish", "node": "p3-sail-loft"},
        {"account": "ines", "action": "change-field", "node": "p3-sail-loft", "field": "dues"},
        None,
    ]
    kept = ok(as_ines.post("expectations", {**steps[1]["question"], "expect": "deny"}, **{"In-Earnest": "yes"}), 201)
    assert kept["holds"]
