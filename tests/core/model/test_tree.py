"""Nodes in preorder: branches as slices, paths, and the limit in force over all of them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gonfalon.core.decide.limits import LimitIndex
from gonfalon.core.model.policy import Limit, Subject
from gonfalon.core.model.tree import Node, Tree, profile
from gonfalon.core.model.vocabulary import Effect
from tests.core.harbour import NODES

TREE = Tree.build(NODES)
WRITER = Subject.role("writer")


def test_nodes_may_come_in_any_order():
    assert {n.id for n in Tree.build(reversed(NODES)).nodes} == {n.id for n in NODES}
    assert Tree.build(reversed(NODES)).path("winter") == ("home", "moorings", "fees", "winter")


def test_a_branch_is_the_node_and_all_beneath_it():
    ids = [n.id for n in TREE.nodes[TREE.branch("fees")]]
    assert ids == ["fees", "winter", "hardship"]
    assert [n.id for n in TREE.beneath("fees")] == ["winter", "hardship"]
    assert TREE.beneath("winter") == []


def test_the_children_keep_their_order():
    children = [TREE.nodes[i].id for i in TREE.children(TREE.index["moorings"])]
    assert children == ["loft", "chandlery", "fees"]


def test_a_target_knows_its_place():
    winter = TREE.target("winter")
    assert winter.ancestors == ("home", "moorings", "fees")
    new = winter.child("berth", frozenset({"tides"}))
    assert (new.id, new.ancestors, new.author, new.topics) == (None, winter.path, None, {"tides"})
    with pytest.raises(KeyError):
        TREE.target("atlantis")


def test_a_profile_is_in_no_tree():
    mine = profile("ada")
    assert (mine.profile, mine.author, mine.path, mine.tree) == (True, "ada", (), None)


def test_an_empty_tree():
    empty = Tree.build([])
    assert (len(empty), "home" in empty, list(empty.kinds)) == (0, False, [])


@st.composite
def forests(draw):
    size = draw(st.integers(1, 25))
    return [
        Node(f"n{i}", f"n{draw(st.integers(0, i - 1))}" if i and draw(st.booleans()) else None, "content", "quay", "t")
        for i in range(size)
    ]


limits = st.lists(
    st.tuples(st.integers(0, 24), st.sampled_from(Effect), st.sampled_from(["node", "beneath", "branch"])), max_size=8
)


@given(forests(), limits)
def test_over_the_whole_tree_is_the_walk_from_each_node(nodes, given_limits):
    tree = Tree.build(nodes)
    said = [
        Limit(f"l{n}", f"n{i % len(nodes)}", WRITER, effect, applies)
        for n, (i, effect, applies) in enumerate(given_limits)
    ]
    index = LimitIndex(said, tree)
    for action in ("edit", "create"):
        steps = index.intervals(WRITER, action)
        for i, node in enumerate(tree.nodes):
            target = tree.target(node.id)
            target = target.child("t") if action == "create" else target
            walked = index.in_force(WRITER, action, target).effect
            found = None
            if steps is not None and steps.at(i, Effect.BAR):
                found = Effect.BAR
            elif steps is not None and steps.at(i, Effect.STOP):
                found = Effect.STOP
            assert found is walked


def test_what_limits_come_to_is_taken_over_for_those_who_have_the_same():
    tree = Tree.build([Node("n0", None, "content", "quay", "t"), Node("n1", "n0", "content", "quay", "t")])
    other = Subject.role("lead")
    stop, bar = Limit("a", "n0", WRITER, Effect.STOP, "branch"), Limit("b", "n1", other, Effect.BAR, "node")
    before = LimitIndex([stop, bar], tree)
    known = [before.intervals_for(subject) for subject in (WRITER, other)]
    after = LimitIndex([stop, bar, Limit("c", "n1", other, Effect.STOP, "node")], tree, previous=before)
    assert after.intervals_for(WRITER) is known[0]
    assert after.intervals_for(other) is not known[1]
    named = Limit("d", "n1", other, Effect.STOP, "node", frozenset({"edit"}))
    assert LimitIndex([stop, bar, named], tree, previous=before).intervals_for(WRITER) is not known[0], (
        "actions have other bits"
    )


@given(forests(), st.data())
def test_nodes_in_other_states_are_a_tree_with_the_same_places(nodes, data):
    was = Tree.build(nodes)
    _ = was.kinds, was.authors, was.codes("site")  # known before
    among = st.sampled_from(["published", "draft", "retired"])
    states = data.draw(st.dictionaries(st.sampled_from([node.id for node in nodes]), among))
    now = was.with_states(states)
    anew = Tree.build([node._replace(state=states.get(node.id, node.state)) for node in nodes])
    assert now.nodes == anew.nodes
    assert (now.published.tolist(), now.kinds.tolist()) == (anew.published.tolist(), anew.kinds.tolist())
    assert [now.nodes[i].id for i in now.differing(was)] == [node.id for node in was.nodes if node.id in states]
    assert now.same_places(was)
    assert not now.same_places(anew)
    assert was.nodes == Tree.build(nodes).nodes


@given(forests())
def test_ends_close_every_branch(nodes):
    tree = Tree.build(nodes)
    for node in tree.nodes:
        beneath = {n.id for n in tree.beneath(node.id)}
        assert beneath == {n.id for n in tree.nodes if node.id in tree.path(n.id)[:-1]}
        children = [tree.nodes[i].id for i in tree.children(tree.index[node.id])]
        assert children == [n.id for n in tree.nodes if n.parent == node.id]
    assert [tree.nodes[i] for i in tree.children()] == [n for n in tree.nodes if n.parent is None]


@given(st.lists(st.integers(0, 9), max_size=30))
def test_nodes_in_preorder_make_the_same_tree_in_one_pass(parents):
    """Each stands under one of those before it, or at the top."""
    names = [f"n{i}" for i in range(len(parents))]
    above = [names[parent % i] if i and parent else None for i, parent in enumerate(parents)]
    tree = Tree.build(Node(name, up, "content", "s", "page") for name, up in zip(names, above, strict=True))
    again = Tree.in_order(tree.nodes)
    assert (again.nodes, again.ends.tolist()) == (tree.nodes, tree.ends.tolist())


def test_nodes_in_no_preorder_are_refused():
    with pytest.raises(ValueError, match="loft"):
        Tree.in_order([Node("loft", "pier", "content", "harbour", "page")])
