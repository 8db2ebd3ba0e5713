"""What a role or account may do where, limits at a place, and the rules of fields."""

from collections import Counter

from gonfalon.access import models
from gonfalon.access.snapshot import current
from gonfalon.content.nodes import content
from gonfalon.core import Question
from tests.api.support import apply, in_tree, ok, refused, stage

ACTIONS = ["see", "create", "edit", "publish", "retire", "remove", "move", "history", "restore"]
STOP = {
    "kind": "set-limit",
    "node": "fees",
    "to": {"kind": "role", "id": "duty-editor"},
    "effect": "stop",
    "applies": "branch",
    "actions": ["edit"],
}
LIFT = STOP | {"node": "hardship-fund", "effect": "lift", "applies": "node"}


def mark(tree, node, action):
    return tree[node]["marks"][ACTIONS.index(action)]


def test_the_tree_has_a_mark_for_every_node_and_action(odile):
    tree = in_tree(odile, of="limits", role="duty-editor")
    assert mark(tree, "fees", "edit")["extent"] == 3
    assert mark(tree, "museum", "edit") == {
        "extent": 0,
        "stopped": True,
        "barred": False,
        "outside": False,
        "baseline": False,
        "set": "stop",
    }
    assert mark(tree, "museum-visit", "edit")["extent"] == 3
    assert mark(tree, "results", "see")["baseline"] is False


def test_extents_show_as_far_as_they_reach(odile):
    tree = in_tree(odile, of="limits", role="tenant-editor")
    assert mark(tree, "p3-sail-loft", "edit")["extent"] == 1
    assert mark(tree, "events", "create")["extent"] == 3
    assert mark(tree, "p3-sail-loft", "create")["extent"] == 0


def test_of_a_retired_kind_nothing_can_be_made_as_a_mark_tells_too(odile):
    role = "notice-writer"
    assert mark(in_tree(odile, of="limits", role=role), "notices", "create")["extent"] > 0
    kinds = {row["key"]: row for row in ok(odile.get("kinds"))}
    for key, kind in kinds.items():
        if "section" in kind["under"]:
            ok(odile.patch(f"kinds/{key}", {"retired": True}, **{"If-Match": f'"{kind["version"]}"'}))
    for extension in ("results-board", "tide-table"):
        odile.put(f"extensions/{extension}", {"on": False})
    assert mark(in_tree(odile, of="limits", role=role), "notices", "create")["extent"] == 0


def test_a_bar_shows_for_whom_it_bars(odile):
    tree = in_tree(odile, of="limits", account="ines")
    assert mark(tree, "minutes", "see")["barred"]
    assert not mark(tree, "notices", "see")["barred"]


def test_the_media_tree_shows_reach(odile):
    tree = in_tree(odile, "media", of="limits", account="ciaran")
    assert mark(tree, "pic-ferry", "see")["outside"]
    assert not mark(tree, "pic-choir", "see")["outside"]
    assert {row["type"] for row in tree.values()} == {"folder", "picture", "document"}


def test_a_stop_and_a_lift_show_while_staged_and_hold_once_applied(odile, ask):
    stage(odile, STOP, LIFT)
    tree = in_tree(odile, of="limits", role="duty-editor")
    assert [mark(tree, n, "edit")["extent"] for n in ("fees", "winter-rates", "hardship-fund")] == [0, 0, 3]
    assert tree["fees"]["staged"]
    ok(odile.post("change-set/apply"))
    signe = ask("signe")
    assert "edit" not in ok(signe.get("desk/pages/winter-rates"))["may"]
    assert "edit" in ok(signe.get("desk/pages/hardship-fund"))["may"]


def test_one_place_tells_what_is_set_there_above_and_beneath(odile):
    apply(odile, STOP, LIFT)
    fees = ok(odile.get("limits/places/fees"))
    assert {"duty-editor"} == {k["subject"] for k in fees["here"]}
    assert [k["node"] for k in fees["lifted_beneath"]] == ["hardship-fund"]
    assert fees["beneath"] == 14
    winter = ok(odile.get("limits/places/winter-rates"))
    assert {k["effect"] for k in winter["from_above"]} == {"stop"}
    mine = next(k for k in fees["here"] if k["subject"] == "duty-editor")
    assert (mine["set_by"], mine["actions"], mine["subject_name"]) == ("Odile Varga", ["edit"], "Duty editor")


def test_who_can_edit_here_counts_accounts_by_role(odile):
    editors = editors_of(odile, "museum")
    assert editors == {"museum-keeper": 5, "site-steward": 2}
    assert ok(odile.get("limit/who", action="edit", node="museum"))["keyholders"] == 1


def test_all_limits_in_one_list_with_staged_ones(odile):
    stage(odile, STOP, {"kind": "drop-limit", "limit": "limit-1"})
    limits = {k["id"]: k for k in ok(odile.get("limits"))}
    assert len(limits) == 11
    assert limits["limit-1"]["staged"] == "ending"
    assert sum(k["staged"] == "new" for k in limits.values()) == 1


def test_fields_of_all_types_with_their_rules(odile):
    rules = {(r["type"], r["field"]): r for r in ok(odile.get("fields"))}
    assert rules["notice", "hazard"]["table"]["pilot"] == ["change-all", "fill", "see-all"]
    assert rules["berth", "telephone"]["mode"] == "open"
    assert ("account", "telephone") in rules


def test_names_out_of_sight_stay_out_of_sight(ask):
    """A steward sets limits, but does not see what the harbour office keeps to itself."""
    ludo = ask("ludo")
    hidden = {"min-2026-10", "watch-rota"}
    assert not hidden & in_tree(ludo, of="limits", role="pilot").keys()
    assert not hidden & in_tree(ludo).keys()
    assert "fees" in in_tree(ludo)
    refused(ludo.get("limits/places/min-2026-10"), "not-found", 404)
    assert "limit-5" in {k["id"] for k in ok(ask("odile").get("limits"))}


def test_no_such_place_role_or_account(odile):
    refused(odile.get("limits/places/atlantis"), "not-found", 404)
    refused(odile.get("limits/children", role="nobody"), "not-found", 404)
    refused(odile.get("limits/children", account="nobody"), "not-found", 404)


def test_the_tree_costs_a_fixed_number_of_queries(odile, django_assert_max_num_queries):
    odile.get("limits/children", role="duty-editor")
    with django_assert_max_num_queries(8):
        ok(odile.get("limits/children", role="duty-editor"))


def test_a_page_out_of_sight_is_as_good_as_not_there_for_whoever_stages(ask, odile):
    for capability in ("limits.set", "roles.assign"):
        apply(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": capability, "says": "yes"})
    ines = ask("ines")
    given = {"kind": "give-role", "role": "pilot", "to": {"kind": "account", "id": "edda"}}

    def told(node, path="change-set/operations"):
        """What is said of naming a node, with its id left out."""
        answers = []
        for operation in (STOP | {"node": node}, given | {"scope": {"branches": [node]}}):
            answer = refused(ines.post(path, {"operations": [operation]}), "invalid", 422)
            answers.append(str(answer).replace(node, "…"))
        return answers

    assert ok(odile.get("desk/pages/min-2026-10"))
    refused(ines.get("desk/pages/min-2026-10"), "not-found", 404)
    assert told("min-2026-10") == told("atlantis")
    assert told("min-2026-10", "change-set/preview") == told("atlantis", "change-set/preview")
    stage(ines, STOP | {"node": "p3-sail-loft"})


def editors_of(asking, node):
    told = ok(asking.get("limit/who", action="edit", node=node))["can"]
    return Counter(way["role"]["key"] for row in told for way in row["through"] if way["role"])


def test_who_can_edit_a_place_is_told_by_the_grants_that_reach_it(odile):
    """A role held elsewhere, or stopped here, lets nobody edit, whatever else its holders may do by other roles."""
    give = {"kind": "give-role", "role": "duty-editor", "to": {"kind": "account", "id": "ines"}, "ends": None}
    before = editors_of(odile, "fees")
    apply(odile, give | {"scope": {"branches": ["museum"]}})
    assert editors_of(odile, "fees") == before
    apply(odile, give | {"scope": {"branches": ["fees"]}})
    assert editors_of(odile, "fees") == before | {"duty-editor": before.get("duty-editor", 0) + 1}
    stop = {"kind": "set-limit", "node": "fees", "effect": "stop", "applies": "branch", "actions": ["edit"]}
    apply(odile, stop | {"to": {"kind": "role", "id": "duty-editor"}})
    assert "duty-editor" not in editors_of(odile, "fees")


def test_only_limits_that_reach_beneath_come_from_above(odile):
    for applies in ("node", "beneath", "branch"):
        apply(odile, STOP | {"applies": applies, "to": {"kind": "role", "id": "pilot"}})
    winter = ok(odile.get("limits/places/winter-rates"))
    assert sorted(k["applies"] for k in winter["from_above"] if k["subject"] == "pilot") == ["beneath", "branch"]
    fees = ok(odile.get("limits/places/fees"))
    assert sorted(k["applies"] for k in fees["here"] if k["subject"] == "pilot") == ["beneath", "branch", "node"]


def test_fill_in_a_field_s_rule_counts_while_something_is_made(odile):
    field = {"kind": "set-field-rule", "type": "event", "field": "budget", "mode": "table"}
    apply(odile, field | {"table": {"season-intern": ["fill"]}})
    tree, engine = content().tree, current().engine
    new = tree.target("season-events").child("event")

    def may(action, target):
        return engine.decide(Question("ciaran", action, target, field="budget")).allow

    assert may("fill-field", new)
    assert not may("see-field", tree.target("quay-cinema"))
    assert not may("change-field", tree.target("quay-cinema"))


def cells(asking, **asked):
    to = {"kind": "role", "id": "tenant-editor"}
    said = {"to": to, "nodes": ["fees"], "actions": ["edit"], "effect": "stop", "applies": "branch"} | asked
    return ok(asking.post("limits/cells", said))["operations"]


class TestCells:
    def test_one_limit_is_set_for_all_actions_of_a_node(self, odile):
        operations = cells(odile, nodes=["p3-sail-loft", "p3-sea-school"], actions=["edit", "publish"])
        assert [(o["kind"], o["node"], o["actions"]) for o in operations] == [
            ("set-limit", "p3-sail-loft", ["edit", "publish"]),
            ("set-limit", "p3-sea-school", ["edit", "publish"]),
        ]
        stage(odile, *operations)
        assert cells(odile, nodes=["p3-sail-loft", "p3-sea-school"], actions=["edit", "publish"]) == []

    def test_what_is_there_is_said_otherwise_or_let_go_of(self, odile):
        node = {"nodes": ["p3-sail-loft"]}
        apply(odile, *cells(odile, **node, actions=["edit", "publish"]))
        [more] = cells(odile, **node, actions=["retire"])
        assert (more["kind"], more["actions"]) == ("change-limit", ["edit", "publish", "retire"])
        less, lift = cells(odile, **node, effect="lift")
        assert (less["actions"], lift["kind"], lift["effect"]) == (["publish"], "set-limit", "lift")
        apply(odile, less, lift)
        [gone] = cells(odile, **node, effect=None)
        assert gone["kind"] == "drop-limit"
        here = [k for k in ok(odile.get("limits/places/p3-sail-loft"))["here"] if k["subject"] == "tenant-editor"]
        assert {(k["effect"], *k["actions"]) for k in here} == {("stop", "publish"), ("lift", "edit")}

    def test_out_of_everything_the_rest_stays(self, odile):
        everything = {"kind": "set-limit", "node": "p3-sail-loft", "to": {"kind": "role", "id": "tenant-editor"}}
        apply(odile, everything | {"effect": "stop", "applies": "branch", "actions": None})
        assert cells(odile, nodes=["p3-sail-loft"]) == []
        [less] = cells(odile, nodes=["p3-sail-loft"], effect=None)
        assert "edit" not in less["actions"]
        assert {"publish", "locks.open", "discussion.moderate"} <= set(less["actions"])

    def test_what_cannot_be_set_names_the_field(self, odile, lone):
        to = {"kind": "role", "id": "tenant-editor"}
        said = {"to": to, "nodes": ["nowhere"], "actions": ["edit"], "effect": "stop"}
        assert refused(odile.post("limits/cells", said), "invalid", 422)["errors"][0]["pointer"] == "/nodes"
        limiting = lone("limits.set")
        hidden = refused(limiting.post("limits/cells", said | {"nodes": ["min-2026-10"]}), "invalid", 422)
        assert hidden["errors"][0]["message"] == "There is no node “min-2026-10”."


class TestWhom:
    """What may a role, a group, a visitor, some roles do where."""

    def marks(self, odile, action="edit", node="p3-sail-loft", **whom):
        rows = {row["id"]: row for row in ok(odile.get(f"limits/way/{node}", **whom))}
        return rows[node]["marks"][ACTIONS.index(action)]

    def test_a_visitor_sees_what_is_public_and_changes_nothing(self, odile):
        assert self.marks(odile, "see", visitor="true")["extent"] == 3
        assert self.marks(odile, "edit", visitor="true")["extent"] == 0

    def test_a_member_of_a_group_has_what_it_is_given(self, odile):
        apply(odile, {"kind": "give-role", "role": "duty-editor", "to": {"kind": "group", "id": "pilots"}})
        assert self.marks(odile, group="pilots")["extent"] == 3

    def test_of_several_roles_grants_add_up(self, odile):
        both = ["tenant-editor", "duty-editor"]
        apart = [self.marks(odile, role=role)["extent"] for role in both]
        assert self.marks(odile, roles=both)["extent"] == max(apart)

    def test_what_is_set_at_the_very_node_is_told_and_what_comes_from_above_is_not(self, odile):
        stage(odile, *cells(odile, nodes=["pier-3-branch"]))
        assert self.marks(odile, node="pier-3-branch", role="tenant-editor")["set"] == "stop"
        loft = self.marks(odile, role="tenant-editor")
        assert (loft["set"], loft["stopped"]) == ("", True)

    def test_duties_on_pages_have_columns_after_the_actions(self, odile):
        [row, *_] = ok(odile.get("limits/children", role="duty-editor"))
        assert len(row["marks"]) > len(ACTIONS)

    def test_nobody_unknown(self, odile):
        refused(odile.get("limits/children", group="nobody"), "not-found", 404)
        refused(odile.get("limits/children", roles=["nobody"]), "not-found", 404)


class TestAllLimits:
    def listed(self, asking, **asked):
        return {row["id"]: row for row in ok(asking.get("limits", **asked))}

    def made(self, odile, **more):
        before = set(models.Limit.objects.values_list("id", flat=True))
        apply(odile, STOP | more)
        [made] = set(models.Limit.objects.values_list("id", flat=True)) - before
        return made

    def test_each_tells_what_it_narrows_today(self, odile):
        id = self.made(odile)
        row = self.listed(odile)[id]
        [role] = [one for one in ok(odile.get("roles")) if one["key"] == "duty-editor"]
        assert row["narrows"]["accounts"] == role["holders"]
        assert row["narrows"]["pages"] == 15
        assert row["idle"] == ""

    def test_those_that_change_nothing_say_why(self, odile):
        idle = {
            "keyholder": {"to": {"kind": "account", "id": "odile"}},
            "nothing-to-lift": {"effect": "lift", "node": "notices"},
        }
        for why, more in idle.items():
            id = self.made(odile, **more)
            assert self.listed(odile)[id]["idle"] == why

    def test_they_are_filtered_by_branch_subject_and_who_set_them(self, odile):
        id = self.made(odile)
        assert id in self.listed(odile, branch="moorings", subject="role duty-editor", set_by="odile")
        for other in ({"branch": "events"}, {"subject": "role pilot"}, {"set_by": "ines"}, {"id": "nothing"}):
            assert id not in self.listed(odile, **other)
        assert [*self.listed(odile, id=id)] == [id]

    def test_what_is_counted_is_for_those_who_may_know(self, odile, lone):
        id = self.made(odile)
        assert self.listed(lone("limits.set", "section.see"))[id]["narrows"] is None
