"""After a step of a rehearsal: nobody goes further there than whoever rehearses goes here (§7), over another tree."""

from collections import Counter
from dataclasses import replace

from hypothesis import HealthCheck, given, settings

from gonfalon.core import Engine, HypotheticalSubject
from gonfalon.core.model.tree import Node, Target, Tree
from tests.core.harbour import BEN, NODES, NOW, engine, give
from tests.core.naive import Naive
from tests.core.strategies import TREE, policies
from tests.examples import examples

MADE = Node("made", "fees", "content", "quay", "berth", author="ben")
BACK = Node("back", "fees", "content", "quay", "berth", author="ben")


def tree_with(*more: Node, **changes: dict[str, object]) -> Tree:
    """The harbour's nodes, some of them otherwise, and more of them."""
    return Tree.build([node._replace(**changes.get(node.id, {})) for node in NODES] + list(more))


THERE = tree_with(MADE, BACK, winter={"parent": "moorings"}, draft={"state": "published"}, loft={"state": "draft"})


def second_reading(ours: Naive, theirs: Naive, actor: str, subject: object) -> bool:
    """Sentence by sentence: of all that §7 lists there, each yes is asked of the actor here."""
    same_policy_there = Naive(ours.policy, theirs.tree)
    for asked in theirs.list_of_7(subject, NOW):
        if theirs.answer(asked) != "allowed":
            continue
        id = (
            None if asked.target is None or asked.target.type == "account" else asked.target.id or asked.target.path[-1]
        )
        if id == "made":
            continue
        if id is None or id in ours.tree:
            if ours.answer(replace(asked, who=actor, target=here(asked.target, id, ours, theirs))) != "allowed":
                return False
        elif same_policy_there.answer(replace(asked, who=actor)) != "allowed":
            return False
    return True


def here(target: Target | None, id: str | None, ours: Naive, theirs: Naive) -> Target | None:
    """The same node in the tree in force; of a working copy there, its copy or, where nothing is public, itself."""
    if id is None or target is None:
        return target
    found = ours.tree.target(id)
    if target.id is None:
        return replace(target, path=found.path, site=found.site)
    copied = target.state == "draft" and theirs.tree.target(id).state == "published"
    return found.working_copy() if copied else found


def test_both_readings_agree_over_a_tree_in_which_something_was_done():
    answers: Counter[bool] = Counter()

    @settings(max_examples=examples(25), suppress_health_check=list(HealthCheck), deadline=None)
    @given(policies(), policies())
    def two_policies(policy, other):
        sites = frozenset({"quay", "regatta"})
        policy, other = (replace(one, sites=sites) for one in (policy, other))
        other = replace(other, capabilities=policy.capabilities, types=policy.types, components=policy.components)
        for after in (policy, other):
            now, then = Engine(policy, TREE), Engine(after, THERE)
            ours, theirs = Naive(policy, TREE), Naive(after, THERE)
            for actor in ("cy", "ada"):
                for subject in ("ada", "ben", None, HypotheticalSubject(("writer",), as_author=True)):
                    answer = now.within(then, actor, subject, NOW, NOW, {"made"})
                    assert answer == second_reading(ours, theirs, actor, subject), (actor, subject)
                    answers[answer] += 1

    two_policies()
    assert min(answers[True], answers[False]) > 20


def within(theirs: dict[str, str], tree: Tree, lead: dict[str, str], made: frozenset[str] = frozenset()) -> bool:
    """Whether Ben, who writes, does nothing there that Ada, who leads, may not do here."""
    given = [give("lead"), give(to=BEN, id="a2")]
    here = engine(roles={"lead": lead, "writer": theirs}, assignments=given)
    return here.within(Engine(here.policy, tree), "ada", "ben", NOW, NOW, made)


SEES = {"berth.see": "all"}


def test_what_was_made_there_is_nobodys_question_and_what_came_back_is():
    own = {"berth.edit": "own", "berth.edit-live": "own"}
    assert within(SEES | own, tree_with(MADE), SEES, frozenset({"made"})) is within(SEES | own, TREE, SEES)
    assert within(SEES, tree_with(BACK), SEES)
    history = {"berth.history": "own"}
    bens = {"chandlery": {"author": "cy"}}
    assert within(SEES | history, tree_with(**bens), SEES)
    assert not within(SEES | history, tree_with(BACK, **bens), SEES), "it is Ben’s, and Ada has no history of it"
    made = MADE._replace(id="back")
    assert within(SEES | history, tree_with(made, **bens), SEES, frozenset({"back"}))


def test_what_is_gone_there_is_nobodys_question():
    media = {"berth.see": "all", "notice.see": "all", "picture.see": "all"}
    left = Tree.build([node for node in NODES if node.id != "draft"])
    assert within(media, left, media), "whatever the last of those nodes that are left is answered"


def test_what_is_made_public_there_is_seen_only_by_whom_it_was_seen_before():
    public, draft = {"notice.see": "all"}, tree_with(draft={"state": "published"})
    assert within(public, TREE, public)
    assert not within(public, draft, public), "Ada does not see the draft as it is"
    assert within(public, draft, public | {"notice.see-draft": "all"})


def test_a_keyholder_is_beyond_nobody_and_beyond_everybody_else():
    here = engine(roles={"lead": {}, "writer": {}}, assignments=[give("lead")])
    there = Engine(here.policy, THERE)
    assert here.within(there, "key", "ben", NOW, NOW)
    assert not here.within(there, "ada", "key", NOW, NOW)
