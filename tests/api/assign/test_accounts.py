"""The roster, and what one account is given and comes to."""

from gonfalon.access.snapshot import current, raise_version
from gonfalon.accounts.models import Account
from tests.api.support import apply, ok, stage

GIVE = {
    "kind": "give-role",
    "role": "picture-desk",
    "to": {"kind": "account", "id": "ines"},
    "scope": {"branches": ["pier-3-branch"]},
    "ends": "2099-06-01T00:00:00Z",
}


def names(roster):
    return [row["name"] for row in roster["results"]]


def test_the_roster_holds_everyone_by_name(odile):
    roster = ok(odile.get("accounts"))
    assert roster["count"] == 86 == len(roster["results"])
    assert names(roster) == sorted(names(roster))


def test_it_filters_by_words_role_group_and_state(odile):
    assert names(ok(odile.get("accounts", search="marrow"))) == ["Ines Marrow"]
    assert names(ok(odile.get("accounts", search="sailloft ines"))) == ["Ines Marrow"]
    assert names(ok(odile.get("accounts", role="season-intern"))) == ["Aiko Lindqvist", "Ciaran Ubukata"]
    assert "Ines Marrow" in names(ok(odile.get("accounts", group="tenants")))
    assert ok(odile.get("accounts", state="disabled"))["count"] == 2
    assert ok(odile.get("accounts", search="nobody at all"))["count"] == 0


def test_it_comes_in_pages(odile):
    first, second = (ok(odile.get("accounts", limit=10, offset=n)) for n in (0, 10))
    assert len(first["results"]) == len(second["results"]) == 10
    assert not set(names(first)) & set(names(second))


def test_a_page_costs_the_same_however_many_there_are(odile, django_assert_num_queries):
    odile.get("accounts")
    with django_assert_num_queries(5):
        odile.get("accounts")
    Account.objects.bulk_create(
        Account(id=f"more-{n}", email=f"more-{n}@berth.example", name=f"More {n}") for n in range(60)
    )
    raise_version()
    odile.get("accounts")
    with django_assert_num_queries(5):
        assert ok(odile.get("accounts"))["count"] == 146


def test_an_account_shows_what_it_is_given_and_through_whom(odile):
    page = ok(odile.get("accounts/ines"))
    given = {g["role"] or g["capability"]: g for g in page["given"]}
    assert given["tenant-editor"]["group"] == "tenants"
    assert given["regatta-crew"]["scope"] == {"sites": ["regatta"]}
    single = given["article.publish"]
    assert single["words"] == "publish articles"
    assert single["branches"] == [{"id": "pier-3-branch", "title": "Pier 3"}]
    assert single["says"] == "own"
    assert single["ends"]


def test_what_it_adds_up_to(odile):
    rows = {row["type"]: row["marks"] for row in ok(odile.get("accounts/ines"))["sum"]["kinds"]}
    marks = {mark["role"]: (mark["extent"], mark["somewhere"]) for mark in rows["event"]["edit"]}
    assert marks == {"regatta-crew": (3, True), "tenant-editor": (1, False)}
    assert rows["notice"]["remove"][0]["barred"]
    assert rows["notice"]["see"] == [
        {"role": "everyone", "extent": 3, "baseline": True, "barred": False, "somewhere": False}
    ]


def test_it_adds_up_for_profiles_fields_and_components_too(odile):
    total = ok(odile.get("accounts/ines"))["sum"]
    kinds = {row["type"]: row for row in total["kinds"]}
    assert kinds["account"]["marks"]["edit"][0]["extent"] == 1
    assert kinds["berth"]["example"]["id"] == "p3-sail-loft", "one that she wrote, to ask why by"
    [dues] = [field for field in total["fields_narrowed"] if field["name"] == "Annual dues"]
    assert [(mark["role"], mark["extent"]) for mark in dues["see"]] == [("tenant-editor", 1)]
    assert dues["change"] == dues["fill"] == []
    components = {one["key"]: one for one in total["components"]}
    role = current().policy.roles["tenant-editor"]
    listed = role.components or set(components)
    by = {key for key, one in components.items() if "tenant-editor" in {mark["role"] for mark in one["marks"]}}
    assert by == set(listed) & set(components)


def test_what_bars_and_narrows_is_told_in_sentences(odile):
    limit = {"kind": "set-limit", "node": "museum", "to": {"kind": "account", "id": "ines"}, "effect": "stop"}
    apply(odile, GIVE, limit | {"applies": "branch", "actions": ["edit"]})
    told = {note["text"]: note["role"] for note in ok(odile.get("accounts/ines"))["sum"]["narrowed"]}
    assert told["Picture desk: only on Pier 3."] == "picture-desk"
    assert told["A limit on and beneath Shipyard museum stops this account from this: edit."] is None


def test_the_sentences_name_no_page_out_of_sight(odile, lone):
    limit = {"kind": "set-limit", "node": "minutes", "to": {"kind": "account", "id": "ines"}, "effect": "stop"}
    apply(odile, limit | {"applies": "branch", "actions": ["edit"]})
    told = [note["text"] for note in ok(lone("roster.see").get("accounts/ines"))["sum"]["narrowed"]]
    assert "A limit on and beneath a page out of sight stops this account from this: edit." in told


def test_why_is_asked_of_the_fields_of_a_profile(odile, lone):
    asked = {"account": "ines", "action": "change-field", "type": "account", "field": "telephone", "profile": "ines"}
    assert ok(odile.get("why", **asked))["title"].startswith("Why ")
    unknown = lone("roles.define").get("why", **asked | {"account": "lone"})
    assert unknown.status_code == 404


def test_the_sum_of_an_example_stays_in_sight(lone):
    total = ok(lone("roster.see").get("accounts/bashir"))["sum"]
    titles = {row["example"]["title"] for row in total["kinds"] if row["example"]}
    assert not titles & {"Storm plan", "Minutes"}


def test_a_staged_role_shows_as_new_until_it_is_applied(odile):
    stage(odile, GIVE)
    [staged] = [g for g in ok(odile.get("accounts/ines"))["given"] if g["role"] == "picture-desk"]
    assert staged["staged"] == "new"
    ok(odile.post("change-set/apply"))
    [given] = [g for g in ok(odile.get("accounts/ines"))["given"] if g["role"] == "picture-desk"]
    assert (given["staged"], given["active"], given["ends"]) == ("", True, "2099-06-01T00:00:00Z")
    [row] = ok(odile.get("accounts", search="ines marrow"))["results"]
    assert {"key": "picture-desk", "somewhere": True, "ends": "2099-06-01T00:00:00Z"} in row["roles"]


def test_two_roles_of_one_account_stand_beside_each_other(odile):
    apply(odile, GIVE, GIVE | {"role": "pilot", "scope": {"types": ["notice"]}, "ends": None})
    direct = [g for g in ok(odile.get("accounts/ines"))["given"] if g["role"] and g["group"] is None]
    assert {(g["role"], str(g["scope"])) for g in direct} == {
        ("picture-desk", "{'branches': ['pier-3-branch']}"),
        ("pilot", "{'types': ['notice']}"),
    }


def test_a_role_that_is_taken_shows_as_ending(odile):
    stage(odile, {"kind": "take-role", "assignment": "given-11"})
    given = {g["id"]: g["staged"] for g in ok(odile.get("accounts/nadia"))["given"]}
    assert given["given-11"] == "ending"


def test_where_an_account_can_do_something(odile):
    where = {b["id"]: b for b in ok(odile.get("accounts/ines/where"))}
    assert where["moorings"]["edits"] == 1
    assert where["races"]["edits"] == where["races"]["nodes"] - 1
    assert "harbour-office" not in where


def test_the_keyholder_has_no_board(odile):
    page = ok(odile.get("accounts/odile"))
    assert page["account"]["keyholder"]
    assert page["sum"] is None


def test_groups_with_members_and_roles(odile):
    groups = {g["key"]: g for g in ok(odile.get("groups"))}
    assert groups["pier-3"]["parent"] == "tenants"
    assert groups["tenants"]["members"] == groups["pier-3"]["members"] + groups["pier-5"]["members"]
    assert groups["tenants"]["roles"] == ["tenant-editor"]
