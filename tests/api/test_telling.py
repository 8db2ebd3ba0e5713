"""Who is told what where lists, changes and refusals name things: one place after another of docs/knowledge.md."""

from gonfalon.access.models import Role
from gonfalon.access.snapshot import current
from gonfalon.clock import now
from gonfalon.content.models import Node
from gonfalon.core import Question
from gonfalon.ledger.models import Entry
from gonfalon.viewpoint.viewpoint import viewpoint
from tests.api.support import apply, in_tree, ok, refused, stage
from tests.api.test_knowledge import HIDDEN, MADE_UP, SEEN, Secrets


class TestAnswersToChanges:
    def test_apply_and_undo_tell_as_much_as_may_be_known(self, lone, odile):
        given = apply(
            odile,
            {
                "kind": "give-role",
                "role": "pilot",
                "to": {"kind": "account", "id": "ines"},
                "scope": {"branches": [HIDDEN]},
            },
        )
        assert "Ines Marrow" in given["summary"]
        for asking in (lone("roles.assign"), lone("roles.assign", "roster.see")):  # the page is out of sight of both
            hidden, made_up = (asking.post(f"change-sets/{id}/undo") for id in (given["id"], MADE_UP))
            assert hidden.content == made_up.content
            refused(hidden, "not-found", 404)
            assert given["id"] not in [row["id"] for row in ok(asking.get("change-sets"))]
        assert next(row["id"] for row in ok(odile.get("change-sets"))) == given["id"]
        here = {"kind": "give-role", "role": "pilot", "to": {"kind": "account", "id": "ines"}}
        known = apply(odile, here | {"scope": {"branches": [SEEN]}})
        asking = lone("roles.assign", "roster.see")
        assert known["id"] in [row["id"] for row in ok(asking.get("change-sets"))]
        told = ok(asking.post(f"change-sets/{known['id']}/undo"))
        assert told["summary"] == "Undone: Ines Marrow: Pilot"

    def test_changes_are_listed_where_all_that_they_name_and_named_is_known(self, lone, odile):
        to = {"to": {"kind": "account", "id": "ines"}}
        of_somebody = apply(odile, {"kind": "give-role", "role": "pilot", "scope": {}, **to})["id"]
        of_a_group = apply(odile, {"kind": "give-role", "role": "pilot", "to": {"kind": "group", "id": "pier-3"}})["id"]
        reach = {"kind": "set-reach", "account": "ines", "tree": "content"}
        apply(odile, reach | {"branches": [HIDDEN]})
        once_confined_there = apply(odile, reach | {"branches": None})["id"]

        def listed(*duties):
            return {row["id"] for row in ok(lone(*duties).get("change-sets"))}

        assert listed("roles.assign") >= {of_a_group}
        assert not listed("roles.assign") & {of_somebody, once_confined_there}
        assert listed("roles.assign", "roster.see") >= {of_a_group, of_somebody}
        assert once_confined_there not in listed("roles.assign", "roster.see")

    def test_taking_a_role_away_asks_for_the_roster_where_people_hold_it(self, lone):
        asking = lone("roles.define", "roles.assign", "limits.set")
        problem = refused(asking.post("roles/duty-editor/removal", {}), "not-granted")
        assert "see all accounts" in problem["detail"]
        ok(lone("roles.define", "roles.assign", "limits.set", "roster.see").post("roles/duty-editor/removal", {}))

    def test_standing_in_names_nobody_who_is_not_known(self, lone):
        asking = lone("impersonate.start")
        hidden, made_up = (asking.post("stand-in", {"account": id}) for id in ("bashir", MADE_UP))
        assert hidden.content == made_up.content
        refused(hidden, "invalid", 422)
        named = refused(lone("impersonate.start", "roster.see").post("stand-in", {"account": "bashir"}), "beyond")
        assert named["detail"].startswith("You may not stand in for Bashir Teague. They may ")

    def test_expectations_are_recorded_of_what_is_known_only(self, lone):
        asking = lone("expectations.keep")
        asked = {"action": "edit", "node": SEEN, "expect": "deny"}
        hidden, made_up = (asking.post("expectations", asked | {"account": id}) for id in ("ines", MADE_UP))
        assert hidden.content.decode().replace("ines", "?") == made_up.content.decode().replace(MADE_UP, "?")
        hidden, made_up = (
            asking.post("expectations", asked | {"account": None, "node": id}) for id in (HIDDEN, MADE_UP)
        )
        assert hidden.content == made_up.content


def test_the_reasons_for_not_standing_in_are_of_what_one_knows(ask):
    told = refused(ask("bashir").post("stand-in", {"account": "ines"}), "beyond")["detail"]
    secrets = Secrets("bashir", {"roster.see"})
    assert not {title for title in secrets.titles if title in told}
    assert told.count(" and ") + told.count(",") >= 1, told


def test_titles_beneath_what_is_hidden_stay_hidden(lone):
    hidden = Node.objects.get(pk=HIDDEN)
    rows = in_tree(lone("limits.set"), of="limits", role="pilot")
    assert HIDDEN not in rows
    named = [row for row in rows.values() if row["type"] is None]
    assert all(row["state"] is None and row["marks"] == [] for row in named)
    assert hidden.title not in {row["title"] for row in rows.values()}


class TestWhatListsTell:
    def test_of_the_roles_that_use_a_markup_set_only_whoever_defines_roles(self, lone, odile):
        settings = lone("site.settings")
        assert all(row["roles"] is None for row in ok(settings.get("markup-sets")))
        assert any(row["roles"] for row in ok(lone("roles.define").get("markup-sets")))
        used = next(row["key"] for row in ok(odile.get("markup-sets")) if row["roles"])
        settings = lone("site.settings")
        problem = refused(settings.delete(f"markup-sets/{used}"), "conflict", 409)
        names = set(Role.objects.values_list("name", flat=True))
        assert not {name for name in names if name in problem["detail"]}
        assert all(row["roles"] is None for row in ok(settings.get("extensions")))

    def test_of_the_catalogue_what_one_needs(self, lone, ask):
        whole = ok(lone("roles.define").get("catalogue"))
        assert any(type["fields"] for type in whole["types"])
        assert whole["duties"]
        stranger = ok(lone().get("catalogue"))
        assert (stranger["types"], stranger["duties"], stranger["components"], stranger["new"]) == ([], [], [], [])
        assert stranger["reasons"]
        tenant = ok(ask("ines").get("catalogue"))
        assert {type["key"] for type in tenant["types"]} >= {"berth", "section", "home"}
        named = {type["key"] for type in tenant["types"]}
        seen = {node.type for node in Node.objects.filter(state="published")}
        assert named < {type["key"] for type in whole["types"]}
        assert not any(type["fields"] for type in tenant["types"])
        assert (tenant["duties"], tenant["new"]) == ([], [])
        assert tenant["components"]
        closed = next(type["key"] for type in whole["types"] if type["key"] not in named | seen)
        lone_sees = {type["key"] for type in ok(lone("desk.open").get("catalogue"))["types"]}
        given = {type["key"] for type in ok(lone("desk.open", f"{closed}.create").get("catalogue"))["types"]}
        assert given - lone_sees == {closed}

    def test_of_how_many_answers_an_expectation_is_of_what_may_be_counted(self, lone, odile):
        ranging = {"holders_of": "pilot", "action": "edit", "node": SEEN, "expect": "deny"}
        id = ok(odile.post("expectations", ranging), 201)["id"]
        one = {"account": None, "action": "edit", "node": SEEN, "expect": "deny"}
        plain = ok(odile.post("expectations", one), 201)["id"]
        everybody = {row["id"]: row for row in ok(odile.get("expectations"))}
        assert everybody[id]["asked"] > 1
        told = {row["id"]: row for row in ok(lone("expectations.keep").get("expectations"))}
        assert (told[id]["asked"], told[id]["failed"]) == (None, None)
        assert told[plain]["asked"] == 1
        branch = {"account": None, "action": "edit", "branch": "events", "expect": "deny"}
        whole = ok(odile.post("expectations", branch), 201)["id"]
        seeing = {row["id"]: row for row in ok(lone("expectations.keep", "roster.see").get("expectations"))}
        assert seeing[whole]["asked"] is None
        assert seeing[id]["asked"] == everybody[id]["asked"]

    def test_of_profiles_in_the_ledger_what_the_rules_let_one_see(self, lone, odile):
        apply(odile, {"kind": "set-field-rule", "type": "account", "field": "telephone", "mode": "author", "table": {}})
        tag = odile.get("accounts/ines")["ETag"]
        ok(odile.patch("accounts/ines", {"profile": {"telephone": "0471 99"}, "name": "Ines M."}, **{"If-Match": tag}))
        assert "0471 99" in str(ok(odile.get("ledger"))["entries"][0]["changes"])
        [entry, *_] = ok(lone("ledger.read", "account.see").get("ledger"))["entries"]
        assert [change["what"] for change in entry["changes"]] == ["Name"]
        Entry.objects.create(
            at=now(), kind="account.changed", summary="Changed Ines", about_kind="account", about_id="ines",
            changes=[{"what": "Telephone", "was": None, "now": "0471 99"}],
        )  # fmt: skip
        assert ok(lone("ledger.read", "account.see").get("ledger"))["entries"][0]["changes"] == []

    def test_of_an_account_that_is_changed_no_more_than_of_one_that_is_read(self, lone, odile):
        asking = lone("account.see", "account.edit")
        for id in ("ines", MADE_UP):
            refused(asking.get(f"accounts/{id}"), "not-granted")
            refused(asking.patch(f"accounts/{id}", {"name": "Other"}, **{"If-Match": '"1"'}), "not-granted")
            assert asking.client.delete(f"/api/accounts/{id}/portrait").status_code == 404


def test_what_may_be_made_is_not_counted_and_is_listed_where_it_can_stand(odile):
    stage(odile, {"kind": "set-answer", "role": "signed-in", "capability": "event.create", "says": "all"})
    turns = {turn["key"]: turn for turn in ok(odile.get("change-set/impact"))["turns"]}
    assert turns["create:event"]["most_gained"] is None
    pages = ok(odile.get("change-set/impact/pages", key="create:event"))
    beneath = current().catalogue.type("event").under
    can_hold = set(Node.objects.filter(type__in=beneath).values_list("title", flat=True))
    assert {row["title"] for row in pages} <= can_hold, {row["title"] for row in pages} - can_hold


def test_numbers_of_where_are_those_of_the_engine(odile):
    """§4, asked one by one: of what somebody sees."""
    here = viewpoint("odile", now())
    for account in ("ines", "tomasz", "gwenda"):
        for branch in ok(odile.get(f"accounts/{account}/where")):
            counted = dict.fromkeys(branch["counts"], 0)
            for node in here.nodes.tree.nodes[here.nodes.tree.branch(branch["id"])]:
                target = here.nodes.tree.target(node.id)
                if here.engine.decide(Question(account, "see", target, here.at)).allow:
                    for action in counted:
                        counted[action] += here.engine.decide(Question(account, action, target, here.at)).allow
            assert branch["counts"] == counted, (account, branch["title"])
