"""Classes of nodes that get identical answers under two policies, so that one of each is asked about (§4, §5).

classes_of_children(sides)                    # [nodes] a number each: alike for a new node beneath, whoever asks
classes_of_nodes(sides, ["ada", "ben"], at)   # alike for some people
"""

from collections.abc import Iterator, Sequence
from datetime import datetime

import numpy as np

from gonfalon.core.bulk.source_index import SourceColumn
from gonfalon.core.bulk.subject_batch import SubjectBatch
from gonfalon.core.diff.node_classes import Sides
from gonfalon.core.model.bits import Bools, Ints
from gonfalon.core.model.question import Who


def classes_of_children(sides: Sides) -> Ints:
    """`[nodes]` a class for each node: new nodes under two of one class get identical answers, whoever asks.

    New nodes have no kind, author, topics nor locks yet: only what begins or ends between two places counts.
    """
    tree = sides[0].survey.tree
    starting = np.zeros(len(tree) + 1, dtype=bool)
    for side in sides:
        starting[list(side.survey.policy_index.edges)] = True
    return _numbered(starting, tree.codes("site"), tree.codes("tree"))


def classes_of_nodes(sides: Sides, who: Sequence[Who], at: datetime) -> Ints:
    """`[nodes]` a class for each node: two of one class get identical answers for some accounts.

    All but `remove` and `move`, for which it counts what lies beneath.
    """
    tree = sides[0].survey.tree
    starting = np.zeros(len(tree) + 1, dtype=bool)
    near = np.zeros(len(tree.authors) + 1, dtype=bool)  # the last is that of nodes without an author
    topics = [tree.matching_topic(frozenset())]
    for side in sides:
        subjects = SubjectBatch.of(
            side.survey.policy_index, [held for held in side.grants(who, at) if held is not None]
        )
        for edges in _edges(subjects):
            starting[edges] = True
        near[side.survey.policy_index.authors.near_to(subjects.authoring)[0]] = True
        topics += [tree.matching_topic(some) for some in _topics(subjects)]
    _, topic = np.unique(np.stack(topics), axis=1, return_inverse=True)
    author = np.where(near[tree.author_codes], tree.author_codes, -1) + 1
    return _numbered(starting, tree.kinds, tree.codes("site"), tree.codes("tree"), topic[tree.codes("topics")], author)


def _edges(subjects: SubjectBatch) -> Iterator[Ints | Sequence[int]]:
    """Positions where something that matters to some holders begins or ends; the end of the tree may be among them."""
    policy_index = subjects.policy_index
    source_index, tree, policy = policy_index.source_index, policy_index.tree, policy_index.policy
    entries = source_index.grant_rows[subjects.numbers]
    yield entries[:, SourceColumn.START]
    yield entries[:, SourceColumn.END]
    named = {subject for who in subjects.who for subject in who.subjects}
    named.update(
        *(source_index.tables.every[said].subjects for said in set(entries[:, SourceColumn.STATEMENTS].tolist()))
    )
    yield from (along.starts for along in map(source_index.limits.intervals_for, named) if along is not None)
    for who in subjects.who:
        for branches in () if who.account is None else who.account.reach.values():
            yield from map(list, source_index.runs(branches))
    locked = [tree.index[lock.node] for lock in policy.locks.values() if lock.node in tree]
    yield [edge for i in locked for edge in (i, i + 1)]


def _topics(subjects: SubjectBatch) -> Iterator[frozenset[str]]:
    """The topics that scopes of some people name."""
    source_index = subjects.policy_index.source_index
    filters = list(source_index.filters)
    scopes = (
        filters[within] for within in set(source_index.grant_rows[subjects.numbers, SourceColumn.FILTER].tolist())
    )
    return (scope.topics for scope in scopes if scope.topics is not None)


def _numbered(starting: Bools, *grant_rows: Ints) -> Ints:
    """`[nodes]` a number for each: equal where nothing begins between two nodes and all facts are equal."""
    numbers: Ints = np.cumsum(starting[:-1])
    for fact in grant_rows:
        numbers = numbers * (int(fact.max(initial=0)) + 1) + fact
    return numbers
