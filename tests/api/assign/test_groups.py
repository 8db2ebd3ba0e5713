"""Groups: made, renamed, moved, ended; and circles refused in words."""

from gonfalon.access.snapshot import current
from gonfalon.accounts.models import Group
from gonfalon.ledger.models import Entry
from tests.api.support import apply, ok, refused, stage


def test_a_group_is_made_empty_and_renamed(odile):
    made = ok(odile.post("groups", {"name": " Night  crew ", "parent": "staff"}), 201)
    assert (made["key"], made["name"], made["parent"], made["members"]) == ("night-crew", "Night crew", "staff", 0)
    page = odile.get("groups/night-crew")
    renamed = odile.patch("groups/night-crew", {"name": "Night watch"}, **{"If-Match": page["ETag"]})
    assert ok(renamed)["name"] == "Night watch"
    refused(odile.patch("groups/night-crew", {"name": "Other"}, **{"If-Match": page["ETag"]}), "changed-meanwhile", 412)
    assert [e.kind for e in Entry.objects.filter(about_id="night-crew")] == ["group.changed", "group.made"]


def test_two_groups_never_share_a_name(odile):
    problem = refused(odile.post("groups", {"name": "PILOTS"}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/name"
    page = odile.get("groups/museum")
    refused(odile.patch("groups/museum", {"name": "pilots"}, **{"If-Match": page["ETag"]}), "invalid", 422)


def test_moving_tells_what_members_gain_before_it_counts(odile):
    operation = {"kind": "move-group", "group": "museum", "parent": "tenants"}
    touched = ok(odile.post("change-set/preview/touched", {"operations": [operation]}))
    assert touched["gain"] > 0
    stage(odile, operation)
    page = ok(odile.get("groups/museum"))
    assert (page["group"]["parent"], page["parent"]) == ("staff", "tenants")
    ok(odile.post("change-set/apply"))
    assert "tenants" in current().policy.group_chain("museum")


def test_a_circle_is_refused_in_words(odile):
    operation = {"kind": "move-group", "group": "tenants", "parent": "pier-3"}
    problem = refused(odile.post("change-set/operations", {"operations": [operation]}), "invalid", 422)
    assert problem["errors"][0]["message"] == "The group would be inside itself: Tenants in Pier 3 in Tenants."


def test_a_group_that_is_used_cannot_just_be_dropped(odile):
    operation = {"kind": "drop-group", "group": "tenants"}
    problem = refused(odile.post("change-set/operations", {"operations": [operation]}), "invalid", 422)
    assert "still" in problem["errors"][0]["message"]


def test_ending_a_group_stages_all_that_needs_and_is_undone_as_one(odile):
    before = current().policy
    staged = ok(odile.post("groups/tenants/ending"))["operations"]
    assert {op["kind"] for op in staged} == {"take-role", "drop-limit", "move-group", "drop-group"}
    done = ok(odile.post("change-set/apply"))
    assert "tenants" not in current().policy.groups
    assert current().policy.groups["pier-3"].parent is None
    ok(odile.post(f"change-sets/{done['id']}/undo"))
    assert current().policy == before
    assert Group.objects.get(pk="tenants").name == "Tenants"


def test_members_leave_a_group_that_ends(odile):
    ok(odile.post("groups/pilots/ending"))
    ok(odile.post("change-set/apply"))
    assert not any("pilots" in account.groups for account in current().policy.accounts.values())


def test_a_page_of_a_group_tells_of_what_is_above_it(odile):
    page = ok(odile.get("groups/pier-3"))
    assert page["above"] == ["tenants"]
    assert page["given"][0]["group"] == "tenants"
    refused(odile.get("groups/no-such-group"), "not-found", 404)


def test_an_operation_on_a_group_made_and_gone_meanwhile_is_stale(odile):
    ok(odile.post("groups", {"name": "Short lived"}), 201)
    stage(odile, {"kind": "set-member", "account": "ines", "group": "short-lived", "member": True})
    other = {"kind": "drop-group", "group": "short-lived"}
    ok(odile.post("change-set/put-aside", {"name": "later"}))
    apply(odile, other)
    [kept] = ok(odile.get("change-set"))["kept"]
    taken = ok(odile.post(f"change-sets/{kept['id']}/take-up"))
    assert taken["operations"][0]["stale"]


def test_whom_one_has_staged_to_come_or_leave_is_told(odile):
    leaving = next(iter(a.id for a in current().policy.accounts.values() if "pilots" in a.groups))
    member = {"kind": "set-member", "group": "pilots"}
    stage(odile, member | {"account": "ines", "member": True}, member | {"account": leaving, "member": False})
    told = {one["id"]: one["member"] for one in ok(odile.get("groups/pilots"))["staged"]}
    assert told == {"ines": True, leaving: False}
    assert ok(odile.get("groups/volunteers"))["staged"] == []
