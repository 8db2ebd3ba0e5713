"""What people must have when they come: it binds them at their next visit, and nobody else."""

import pyotp

from gonfalon.access.models import Answer, Vocabulary
from gonfalon.access.snapshot import raise_version
from gonfalon.accounts.models import Account
from tests.api.support import PASSWORD, Asking, ok, refused

NOTHING = {"roles": [], "risky": False, "fields_asked": []}


def come(account: str) -> Asking:
    """Sign in anew, as at the next visit."""
    asking = Asking(None)
    ok(asking.post("session", {"email": Account.objects.get(pk=account).email, "password": PASSWORD}))
    return asking


def ask_for(odile: Asking, **demands) -> dict:
    tag = odile.get("demands")["ETag"]
    return ok(odile.put("demands", {**NOTHING, **demands}, **{"If-Match": tag}))


def test_holders_of_a_role_need_a_second_factor_from_their_next_visit_on(odile, ines):
    told = ask_for(odile, roles=["tenant-editor"])
    assert "ines" in {one["id"] for one in told["lacking"]}
    assert ok(ines.get("session"))["actor"]["id"] == "ines", "whoever is at work goes on"
    ines = come("ines")
    session = ok(ines.get("session"))
    assert session["actor"] is None
    assert session["arriving"] == {
        "name": "Ines Marrow",
        "factor": True,
        "password": False,
        "fields_missing": [],
    }
    assert session["places"] == session["duties"] == []
    refused(ines.get("desk/children"), "not-signed-in", 401)
    assert ok(come("signe").get("session"))["actor"]["id"] == "signe"

    begun = ok(ines.post("me/factors/begun"))
    ok(ines.post("me/factors", {"name": "Telephone", "code": pyotp.TOTP(begun["secret"]).now()}))
    assert ok(ines.get("session"))["actor"]["id"] == "ines"
    ok(ines.get("desk/children"))


def test_risky_duties_need_one_and_others_do_not(odile, ines):
    told = ask_for(odile, risky=True)
    assert "Define roles" in told["duties"]
    odile = come("odile")
    assert ok(odile.get("session"))["arriving"]["factor"]
    refused(odile.get("demands"), "not-signed-in", 401)
    assert ok(come("ines").get("session"))["actor"]["id"] == "ines"


def test_a_field_of_the_profile_is_filled_in_before_anything_else(odile):
    ask_for(odile, fields_asked=["telephone"])
    signe = come("signe")
    assert ok(signe.get("session"))["arriving"]["fields_missing"] == ["telephone"]
    refused(signe.get("desk/children"), "not-signed-in", 401)
    me = signe.get("me")
    assert [field["key"] for field in ok(me)["profile"] if field["asked"]] == ["telephone"]
    ok(signe.patch("me", {"profile": {"telephone": "0550 014 001"}}, **{"If-Match": me["ETag"]}))
    assert ok(signe.get("session"))["actor"]["id"] == "signe"
    assert Account.objects.get(pk="signe").profile == {"telephone": "0550 014 001"}


def test_nobody_is_asked_for_what_they_may_not_change(odile):
    Answer.objects.filter(role="signed-in", capability="account.edit").delete()
    raise_version()
    ask_for(odile, fields_asked=["telephone"])
    assert ok(come("ines").get("session"))["actor"]["id"] == "ines"


def test_whoever_looks_after_accounts_is_not_bound_by_what_they_lack(odile, ines):
    ask_for(odile, roles=["tenant-editor"])
    tag = odile.get("accounts/ines")["ETag"]
    ok(odile.patch("accounts/ines", {"name": "Ines Marrow-Holt"}, **{"If-Match": tag}))


def test_demands_name_what_there_is_and_are_changed_by_one_at_a_time(odile, lone):
    tag = odile.get("demands")["ETag"]
    problem = refused(odile.put("demands", {**NOTHING, "roles": ["nobody"]}, **{"If-Match": tag}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/roles/0"
    refused(odile.put("demands", {**NOTHING, "fields_asked": ["shoe"]}, **{"If-Match": tag}), "invalid", 422)
    ok(odile.put("demands", {**NOTHING, "fields_asked": ["about"]}, **{"If-Match": tag}))
    refused(odile.put("demands", NOTHING, **{"If-Match": tag}), "changed-meanwhile", 412)
    refused(odile.put("demands", NOTHING), "precondition-required", 428)
    refused(lone("roster.see", "roles.assign").get("demands"), "not-granted")
    assert ok(lone("roles.define").get("demands"))["lacking"] == []


def profile_field(odile: Asking, name: str, kind: str, **said) -> str:
    """A new field of profiles, by its key."""
    row = ok(odile.post("kinds/account/fields", {"name": name, "kind": kind, **said}, **_tag(odile)), 201)
    return row["fields"][-1]["key"]


def change_profile_field(odile: Asking, key: str, **said) -> None:
    ok(odile.patch(f"kinds/account/fields/{key}", said, **_tag(odile)))


def _tag(odile: Asking) -> dict[str, str]:
    row = next(kind for kind in ok(odile.get("kinds")) if kind["key"] == "account")
    return {"If-Match": f'"{row["version"]}"'}


def test_only_fields_in_use_are_asked(odile):
    key = profile_field(odile, "Boat", "text")
    ask_for(odile, fields_asked=[key])
    assert ok(come("signe").get("session"))["arriving"]["fields_missing"] == [key]
    row = next(kind for kind in ok(odile.get("kinds")) if kind["key"] == "account")
    assert [field["key"] for field in row["fields"] if field["asked"]] == [key]

    change_profile_field(odile, key, retired=True)
    assert ok(come("signe").get("session"))["actor"]["id"] == "signe"
    assert ok(come("odile").get("session"))["actor"]["id"] == "odile"
    assert odile.client.delete(f"/api/kinds/account/fields/{key}", headers=_tag(odile)).status_code == 200
    assert ok(come("odile").get("session"))["actor"]["id"] == "odile"


def test_a_choice_that_has_lost_its_choices_is_not_asked(odile):
    key = profile_field(odile, "Watch", "choice", choices=["day", "night"])
    ask_for(odile, fields_asked=[key])
    signe = come("signe")
    assert ok(signe.get("session"))["arriving"]["fields_missing"] == [key]
    assert next(f for f in ok(signe.get("me"))["profile"] if f["key"] == key)["choices"] == ["day", "night"]

    Vocabulary.objects.update(kinds=_without_choices(Vocabulary.objects.get().kinds))
    raise_version()
    assert ok(come("signe").get("session"))["actor"]["id"] == "signe"
    tag = odile.get("demands")["ETag"]
    refused(odile.put("demands", {**NOTHING, "fields_asked": [key]}, **{"If-Match": tag}), "invalid", 422)
    assert key not in {field["key"] for field in ok(odile.get("demands"))["fields_asked"]}


def _without_choices(kinds: list[dict]) -> list[dict]:
    return [{**kind, "fields": [{**field, "choices": []} for field in kind["fields"]]} for kind in kinds]


def test_no_is_an_answer(odile):
    key = profile_field(odile, "Swims", "yes")
    ask_for(odile, fields_asked=[key])
    signe = come("signe")
    me = signe.get("me")
    ok(signe.patch("me", {"profile": {key: "no"}}, **{"If-Match": me["ETag"]}))
    assert Account.objects.get(pk="signe").profile[key] is False
    assert ok(signe.get("session"))["actor"]["id"] == "signe"
    assert ok(come("signe").get("session"))["actor"]["id"] == "signe"
