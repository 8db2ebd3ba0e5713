"""Handing out: delegations are staged like everything else; whoever has one gives, changes and ends under it."""

import pytest

from gonfalon.access.models import Assignment, Delegation
from gonfalon.access.snapshot import current
from gonfalon.core.document.reader import load_policy
from gonfalon.core.document.writer import write_policy
from gonfalon.ledger.models import Entry
from gonfalon.verify.documents import whole_policy
from tests.api.support import apply, ok, refused, stage

PIER = {"branches": ["pier-3-branch"]}
LETS = {
    "kind": "put-delegation",
    "to": {"kind": "account", "id": "ines"},
    "roles": ["tenant-editor"],
    "scope": PIER,
    "receivers": "pier-3",
    "ends": "2099-06-01T00:00:00Z",
}
GIVE = {"role": "tenant-editor", "account": "noor", "scope": PIER, "ends": "2099-01-01T00:00:00Z"}


@pytest.fixture
def delegated(odile):
    """Ines leads pier 3, and holds there what she may give."""
    apply(odile, LETS)


def test_a_delegation_is_staged_told_and_undone(odile):
    [staged] = stage(odile, LETS)["operations"]
    assert (staged["what"], staged["now"]) == (
        "Ines Marrow: hand out",
        "may give Tenant editor to members of Pier 3, on Pier 3, until 1 June 2099",
    )
    assert [d["staged"] for d in ok(odile.get("delegations"))] == ["", "new"]
    done = ok(odile.post("change-set/apply"))
    [told] = [d for d in ok(odile.get("delegations")) if d["subject"] == "ines"]
    assert (told["subject_name"], told["receivers_name"], told["staged"]) == ("Ines Marrow", "Pier 3", "")
    assert current().policy.delegations[told["id"]].roles == {"tenant-editor"}
    ok(odile.post(f"change-sets/{done['id']}/undo"))
    assert not Delegation.objects.filter(subject_id="ines").exists()


def test_it_is_changed_in_place_and_ended(odile, delegated):
    row = Delegation.objects.get(subject_id="ines")
    apply(odile, LETS | {"delegation": row.id, "receivers": None})
    row.refresh_from_db()
    assert row.receivers is None
    apply(odile, {"kind": "drop-delegation", "delegation": row.id})
    assert row.id not in current().policy.delegations


def test_a_document_says_it_too(delegated):
    policy = whole_policy()
    assert load_policy(write_policy(policy)) == policy
    assert len(write_policy(policy)["delegations"]) == 2


def test_whoever_has_one_sees_their_people_and_what_they_may_give(ines, delegated):
    told = ok(ines.get("handing-out"))
    assert [role["key"] for role in told["roles"]] == ["tenant-editor"]
    names = {person["name"] for person in told["people"]}
    assert "Noor Castellan" in names
    assert "Ines Marrow" not in names
    refused(ines.get("accounts"), "not-granted")


def test_a_role_is_given_changed_and_ended(ines, delegated):
    told = ok(ines.post("handing-out", GIVE))
    [noor] = [p for p in told["people"] if p["id"] == "noor"]
    [given] = noor["given"]
    assert (given["role"], given["where"]) == ("tenant-editor", "on Pier 3")
    changed = ok(ines.patch(f"handing-out/{given['id']}", {"ends": "2098-01-01T00:00:00Z"}))
    [noor] = [p for p in changed["people"] if p["id"] == "noor"]
    assert noor["given"][0]["ends"] == "2098-01-01T00:00:00Z"
    ok(ines.delete(f"handing-out/{given['id']}"), 204)
    assert not Assignment.objects.filter(account="noor", role="tenant-editor").exists()
    assert Entry.objects.first().actor == "ines"


@pytest.mark.parametrize(
    ("changed", "why"),
    [
        ({"role": "pilot"}, "No delegation lets you give Pilot."),
        ({"scope": {}}, "You may give Tenant editor only on Pier 3."),
        ({"ends": None}, "You may give Tenant editor until 1 June 2099 only; say an end that is no later."),
    ],
)
def test_a_refusal_says_what_is_missing(ines, delegated, changed, why):
    problem = refused(ines.post("handing-out", GIVE | changed), "not-delegated")
    assert problem["detail"] == why


def test_nobody_else_can_be_named_not_even_oneself(ines, delegated):
    for account in ("tomasz", "ines", "nobody"):
        problem = refused(ines.post("handing-out", GIVE | {"account": account}), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/account"


def test_never_more_than_one_has(odile, ines, delegated):
    row = Delegation.objects.get(subject_id="ines")
    apply(odile, LETS | {"delegation": row.id, "roles": ["duty-editor"]})
    problem = refused(ines.post("handing-out", GIVE | {"role": "duty-editor"}), "beyond")
    assert problem["detail"].startswith("Duty editor gives more than you have there: ")


def test_without_a_delegation_there_is_nothing_to_hand_out(ines):
    assert ok(ines.get("handing-out")) == {"delegations": [], "roles": [], "people": []}
    refused(ines.post("handing-out", GIVE), "invalid", 422)
    given = Assignment.objects.filter(account__isnull=False).first()
    refused(ines.delete(f"handing-out/{given.id}"), "not-found", 404)


def test_it_ends_with_the_delegation(odile, ines, delegated):
    given = ok(ines.post("handing-out", GIVE))
    [noor] = [p for p in given["people"] if p["id"] == "noor"]
    apply(odile, {"kind": "drop-delegation", "delegation": Delegation.objects.get(subject_id="ines").id})
    refused(ines.delete(f"handing-out/{noor['given'][0]['id']}"), "not-found", 404)


def test_a_role_or_group_that_goes_takes_its_delegations_along(odile, delegated):
    ok(odile.post("groups/pier-3/ending"))
    ok(odile.post("change-set/apply"))
    assert not Delegation.objects.filter(subject_id="ines").exists()


def test_only_whoever_gives_roles_delegates(ask):
    assert ask("bashir").post("change-set/operations", {"operations": [LETS]}).status_code == 403
