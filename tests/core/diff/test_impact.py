"""What differs between two policies is what one question after another finds to differ."""

from collections import Counter
from dataclasses import replace

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from gonfalon.core import Engine, Question
from gonfalon.core.diff.affected_accounts import affected_accounts
from gonfalon.core.diff.impact import impact
from gonfalon.core.diff.planner import Comparison
from gonfalon.core.model.policy import Account, Assignment, FieldRule, Limit, Lock, Role, Subject
from gonfalon.core.model.tree import Tree, profile
from gonfalon.core.model.vocabulary import ACTIONS, Effect
from gonfalon.core.operations import (
    SetAnswer,
    SetLimit,
    apply,
)
from tests.core.harbour import CAPABILITIES, COMPONENTS, CREW, EDITS, NODES, NOW, TYPES, WRITER, give, harbour
from tests.core.strategies import ROLES, TREE, graded_answers, operations, policies
from tests.examples import examples

WHO = (None, "ada", "ben", "cy", "gone", "key")
AUTHORS = st.sampled_from(["ada", "ben", "cy", None])
FEW = settings(max_examples=examples(25), suppress_health_check=list(HealthCheck), deadline=None)


def questions(tree, who, accounts):
    """Every question an impact answers, with the name it goes by there."""
    for account in accounts:
        for action in (a for a in ACTIONS if a != "create"):
            yield f"{action} account", account, Question(who, action, profile(account), NOW)
        for verb in ("see", "change"):
            asked = Question(who, f"{verb}-field", profile(account), NOW, field="phone")
            yield f"{verb}-field account.phone", account, asked
    for capability, kind in CAPABILITIES.items():
        if kind != "placed":
            yield capability, None, Question(who, capability, at=NOW)
    placed = [c for c, kind in CAPABILITIES.items() if kind == "placed"]
    for node in tree.nodes:
        target = tree.target(node.id)
        for action in (*(a for a in ACTIONS if a != "create"), *placed):
            yield action, node.id, Question(who, action, target, NOW)
        for type in ("notice", "berth", "picture"):
            yield f"create:{type}", node.id, Question(who, "create", target.child(type), NOW)
        for component, facets in COMPONENTS.items():
            yield (
                f"insert-component {component}",
                node.id,
                Question(who, "insert-component", target, NOW, component=component),
            )
            for facet in facets:
                part = {"component": component, "facet": facet}
                yield f"change-facet {component}.{facet}", node.id, Question(who, "change-facet", target, NOW, **part)
        for field in TYPES[node.type].fields:
            for verb in ("see", "change"):
                asked = Question(who, f"{verb}-field", target, NOW, field=field)
                yield f"{verb}-field {node.type}.{field}", node.id, asked
        for type, field in (("berth", "dues"), ("berth", "title"), ("notice", "hazard")):
            asked = Question(who, "fill-field", target.child(type), NOW, field=field)
            yield f"fill-field {type}.{field}", node.id, asked


def restricted(policy, name):
    """Whether an impact tells of a part: only of those that something restricts."""
    kind, _, part = name.partition(" ")
    if part == "account":
        return True
    if kind.endswith("-field"):
        type, _, field = part.partition(".")
        rule = policy.fields.get((type, field))
        return rule is not None and rule.mode != "open"
    if kind == "insert-component":
        return any(role.components is not None for role in policy.roles.values())
    return any(part.partition(".")[0] in role.facets for role in policy.roles.values())


def asked_one_by_one(before, after, who, trees=(TREE, TREE)):
    """Deltas by asking one question after another, and the nodes they are at; of trees with the same places."""
    told = [p for p in (before, after) if who is None or who in p.accounts]
    if not told:
        return {}, {}
    deltas, nodes = Counter(), {}
    engines = [Engine(p, tree) if p in told else None for p, tree in zip((before, after), trees, strict=True)]
    everyone = {**before.accounts, **after.accounts}
    for (name, node, question), (_, _, later) in zip(*(questions(t, who, everyone) for t in trees), strict=True):
        if " " in name and not (restricted(before, name) or restricted(after, name)):
            continue
        about = question.target.author if question.target and question.target.profile else None
        was, now = (
            e is not None and (about is None or about in e.policy.accounts) and e.decide(asked).allow
            for e, asked in zip(engines, (question, later), strict=True)
        )
        if was != now:
            deltas[name, now] += 1
            nodes.setdefault((name, now), []).append(node)
    return deltas, nodes


def compare(before, after, *, came_from=True, tree=TREE):
    """Also where the policy that came from another takes over what was compiled of that; the other is over a tree."""
    was = Engine(before, TREE)
    if came_from:
        was.survey([who for who in WHO if who is None or who in before.accounts], None, ["see", "remove"], NOW)
    now = was.changed(after, tree) if came_from else Engine(after, tree)
    changed = impact(was, now, NOW)
    affected = affected_accounts(was, now, NOW)
    assert (affected.gain, affected.lose) == (changed.gain, changed.lose)
    alone = {*WHO[::2]}
    assert impact(was, now, NOW, only=alone).deltas == {id: t for id, t in changed.deltas.items() if id in alone}
    affected = affected_accounts(was, now, NOW, alone)
    assert (affected.gain, affected.lose) == (changed.gain & alone, changed.lose & alone)
    for who in WHO:
        deltas, nodes = asked_one_by_one(before, after, who, (TREE, tree))
        told = changed.deltas.get(who, {})
        found = {(name, True): t.gained for name, t in told.items() if t.gained}
        found |= {(name, False): t.lost for name, t in told.items() if t.lost}
        assert found == dict(deltas), who
        assert (who in changed.gain, who in changed.lose) == (any(n for _, n in deltas), any(not n for _, n in deltas))
        for (name, now), at in nodes.items():
            if at != [None]:
                assert changed.nodes(who, name)[0 if now else 1] == at


@pytest.fixture(params=["each by itself", "those alike at once", "of the whole tree"])
def asked_how(request, monkeypatch):
    """Accounts are asked each by itself where there are few, and those that are alike at once where many.

    About branches the whole tree is asked at once where what changed may count widely.
    """
    if request.param == "those alike at once":
        tell_apart_any_number(monkeypatch)
    if request.param == "of the whole tree":
        monkeypatch.setattr("gonfalon.core.diff.planner._LITTLE", 0)
        monkeypatch.setattr("gonfalon.core.diff.planner._PART", 0)


def tell_apart_any_number(monkeypatch):
    monkeypatch.setattr("gonfalon.core.diff.planner._FEW", 0)
    monkeypatch.setattr("gonfalon.core.diff.planner._SOME", 0)


@pytest.mark.usefixtures("asked_how")
@FEW
@given(policies(), st.lists(operations, min_size=1, max_size=3))
def test_a_change_set_turns_what_asking_everything_turns(before, changes):
    compare(before, apply(before, changes))


@FEW
@given(policies(), policies())
def test_two_policies_differ_as_asking_everything_differs(before, after):
    compare(before, after, came_from=False)
    compare(before, after)


@pytest.mark.usefixtures("asked_how")
@FEW
@given(policies(), st.lists(operations, max_size=2), st.sets(st.sampled_from([n.id for n in NODES])), AUTHORS)
def test_handing_nodes_over_turns_what_asking_everything_turns(before, changes, handed, author):
    after = apply(before, changes)
    tree = TREE.with_authors(dict.fromkeys(handed, author))
    compare(before, after, came_from=False, tree=tree)
    compare(before, after, tree=tree)


def test_only_those_are_asked_whom_other_authors_can_matter_to():
    """Ada's pages become Cy's: Ben is in Ada's team, and is asked only where something is given as far as a team."""
    handed = TREE.with_authors({"loft": "cy", "fees": "cy"})
    alone, team = ({"berth.edit": extent, "berth.see": "all"} for extent in ("own", "team"))
    for said, whom in ((alone, {"ada", "cy"}), (team, {"ada", "ben", "cy"})):
        policy = harbour(roles={"writer": said}, assignments=[give(to=CREW)])
        compare = Comparison(Engine(policy, TREE), Engine(policy, handed), NOW)
        assert set(compare.affected) == whom
    assert [TREE.nodes[i].id for i in TREE.reauthored(handed)] == ["loft", "fees"]
    assert TREE.reauthored(TREE.with_states({"loft": "draft"})) is None
    assert TREE.reauthored(Tree.build(NODES[:3])) is None


@pytest.mark.usefixtures("asked_how")
@FEW
@given(policies(), graded_answers, st.sampled_from(ROLES[:2]))
def test_a_change_of_the_baseline_alone_turns_what_asking_everything_turns(before, change, role):
    compare(before, apply(before, [replace(change, role=role)]))


@pytest.mark.parametrize("said", ["own", "team", None])
def test_whoever_is_given_the_same_besides_the_baseline_keeps_it(said, monkeypatch):
    """Among many who cannot be told apart before the change."""
    tell_apart_any_number(monkeypatch)
    roles = {"everyone": {"berth.see": "all"}, "reader": {"berth.see": "all"}, "helper": {"berth.see": "team"}}
    given = [Assignment("a1", "reader", Subject.account("ada")), Assignment("a2", "helper", Subject.account("cy"))]
    before = harbour(roles=roles, assignments=given, accounts=[Account(f"p{i}") for i in range(30)])
    compare(before, apply(before, [SetAnswer("everyone", "berth.see", said)]))


@pytest.mark.parametrize("role", ["everyone", "signed-in"])
def test_what_both_roles_of_the_baseline_say_is_kept_where_one_says_it_no_more(role, monkeypatch):
    """Whoever is signed in has both, so that they are not told with visitors, who have one."""
    tell_apart_any_number(monkeypatch)
    before = harbour(roles={each: {"berth.see": "all"} for each in ("everyone", "signed-in")})
    compare(before, apply(before, [SetAnswer(role, "berth.see", None)]))


def test_people_and_locks_that_change_count():
    before = harbour(
        roles={"everyone": {"berth.see": "all"}, "writer": {"berth.edit": "team", "berth.edit-live": "team"}},
        assignments=[Assignment("a", "writer", Subject.group("tenants"))],
        accounts=[Account("gone", "disabled")],
    )
    moved = replace(before.accounts["cy"], groups=frozenset({"pier-3"}))
    confined = replace(before.accounts["ada"], reach={"content": frozenset()})
    closed = replace(before.roles["writer"], facets={"text": frozenset()})
    for after in (
        replace(before, accounts={**before.accounts, "cy": moved}),
        replace(before, accounts={**before.accounts, "ben": replace(before.accounts["ben"], keyholder=True)}),
        replace(before, accounts={**before.accounts, "ada": confined}),
        replace(before, groups={**before.groups, "pier-5": replace(before.groups["pier-5"], parent=None)}),
        replace(before, locks={"k": Lock("k", "loft")}),
        replace(before, locks={"k": Lock("k", "loft", field="dues")}, fields={("berth", "dues"): FieldRule("author")}),
        replace(before, roles={**before.roles, "writer": Role("writer", {}, "everyone", frozenset({"text"}))}),
        replace(before, roles={**before.roles, "writer": closed}),
        replace(before, accounts={id: a for id, a in before.accounts.items() if id != "cy"}),
    ):
        compare(before, after)
        compare(after, before)


@pytest.mark.parametrize("effect", [Effect.STOP, Effect.BAR])
def test_a_limit_on_opening_locks_turns_all_that_rests_on_editing(effect):
    """Of a node that is locked as a whole: its fields and components too."""
    before = harbour(
        roles={
            "writer": Role("writer", {**EDITS, "berth.see": "all", "locks.open": "all"}, components=frozenset({"text"}))
        },
        assignments=[give()],
        fields={("berth", "dues"): FieldRule("table", {"writer": frozenset({"change-all"})})},
        locks=[Lock("k", "loft")],
    )
    after = apply(before, [SetLimit(Limit("new", "moorings", WRITER, effect, "branch", frozenset({"locks.open"})))])
    compare(before, after)
    changed = impact(Engine(before, TREE), Engine(after, TREE), NOW)
    lost = {name for name, deltas in changed.deltas["ada"].items() if deltas.lost}
    assert lost >= {"edit", "change-field berth.dues", "insert-component text"}


def test_nodes_that_only_one_policy_has_are_gained_and_lost():
    roles = {"everyone": {"berth.see": "all", "notice.see": "all"}}
    before, after = (
        replace(harbour(roles=roles), tree=Tree.build(nodes))
        for nodes in (NODES, [n for n in NODES if n.id not in ("loft", "winter")])
    )
    changed = impact(Engine(before), Engine(after), NOW)
    assert changed.deltas[None]["see"] == (0, 2)
    assert changed.nodes(None, "see") == ([], ["loft", "winter"])
    assert changed.deltas["key"]["publish"] == (0, 2)
    assert set(TYPES) > {"berth", "notice"}


def test_visitors_are_no_account():
    before = harbour(roles={"everyone": {"berth.see": "all"}})
    after = apply(before, [SetAnswer("everyone", "berth.see", None)])
    changed = impact(Engine(before, TREE), Engine(after, TREE), NOW)
    total, accounts = changed.totals["see"], changed.deltas.keys() - {None}
    assert (total.lose, total.visitors) == (len(accounts), changed.deltas[None]["see"])
    assert changed.deltas[None]["see"].lost > 0
    assert changed.at_nodes("see", accounts)[1].max() == len(accounts)
    assert changed.at_nodes("see", {None})[1].max() == 1


def test_what_turns_for_all_together_by_action_and_by_node():
    roles = {"everyone": {"berth.see": "all"}, "writer": {"berth.publish": "own"}}
    given = [Assignment("a", "writer", Subject.group("tenants"))]
    before = harbour(roles=roles, assignments=given)
    changes = [SetAnswer("writer", "berth.publish", "all"), SetAnswer("everyone", "berth.see", None)]
    was = Engine(before, TREE)
    changed = impact(was, was.changed(apply(before, changes)), NOW)
    for action, (gain, lose, most_gained, most_lost, visitors) in changed.totals.items():
        each = [turns[action] for turns in changed.deltas.values() if action in turns]
        both = (gain + (visitors.gained > 0), lose + (visitors.lost > 0))
        assert both == (sum(t.gained > 0 for t in each), sum(t.lost > 0 for t in each))
        assert (most_gained, most_lost) == (max(t.gained for t in each), max(t.lost for t in each))
    assert {"see", "publish"} <= changed.totals.keys()
    for action in ("see", "publish"):
        gained, lost = Counter(), Counter()
        for who in changed.deltas:
            if action in changed.deltas[who]:
                for counted, ids in zip((gained, lost), changed.nodes(who, action), strict=True):
                    counted.update(ids)
        at_nodes = changed.at_nodes(action, changed.deltas)
        told = [dict(zip(TREE.index, counts.tolist(), strict=True)) for counts in at_nodes]
        assert [{id: n for id, n in each.items() if n} for each in told] == [dict(gained), dict(lost)]


@pytest.mark.parametrize(("mark", "own", "others"), [("change-own", 1, 0), ("change-all", 1, 5)])
def test_marks_of_a_field_count_on_own_pages_or_on_all(mark, own, others):
    roles = {"writer": {**EDITS, "berth.see": "all"}}
    closed = {("berth", "dues"): FieldRule("table", {})}
    opened = {("berth", "dues"): FieldRule("table", {"writer": frozenset({mark})})}
    given_ben = [give(to=Subject.account("ben"))]
    sides = [
        Engine(harbour(roles=roles, assignments=given_ben, fields=fields), Tree.build(NODES))
        for fields in (closed, opened)
    ]
    deltas = impact(*sides, NOW).deltas["ben"]
    assert deltas["change-field berth.dues"].gained == own + others
    assert "see-field berth.dues" not in deltas
