"""What a try asked, kept so that it can be asked of a role again: of who holds it and nothing else (§4, §5, §8).

    kept = keep(question, own=True, reason=answer.reason, tree=engine.tree)
    again(kept, "tenant-editor", engine, at)    # Again(question, own, decision, limits), or None

A page that was made in a rehearsal is kept by what it was: its kind, its state and topics, and what it stood beneath.
"""

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime
from typing import Any, NamedTuple

from gonfalon.core.document.errors import Unreadable
from gonfalon.core.document.requests import read_question
from gonfalon.core.engine import Engine
from gonfalon.core.model.policy import Limit
from gonfalon.core.model.question import Decision, HypotheticalSubject, Question
from gonfalon.core.model.tree import Target, Tree
from gonfalon.core.model.vocabulary import OVER_ALL_NODES

Said = Mapping[str, Any]
_PARTS = ("field", "component", "facet", "component_id", "site")


class Kept(NamedTuple):
    """A question without who asks it, whether whoever tried counted as the author, and the reason of the answer."""

    said: Said
    own: bool
    reason: str


class Again(NamedTuple):
    """A kept question as it is asked of a role now, and the answer with its trail; `limits` are all that there are."""

    question: Question
    own: bool
    decision: Decision
    limits: Mapping[str, Limit]


def keep(question: Question, own: bool, reason: str, tree: Tree) -> Kept | None:
    """A question and its answer; `tree` are the nodes there are outside. None for what is not kept: about profiles,
    about people, and about what was made beneath something that was itself made there."""
    if question.action in OVER_ALL_NODES:
        return None
    said: dict[str, Any] = {"action": question.action}
    said |= {part: value for part in _PARTS if (value := getattr(question, part)) is not None}
    if question.topics is not None:
        said["topics"] = sorted(question.topics)
    if question.to is not None:
        if question.to.id not in tree:
            return None
        said["to"] = question.to.id
    target = question.target
    if target is None:
        return Kept(said, own, reason)
    where = _where(target, tree)
    return None if where is None else Kept(said | where, own, reason)


def again(kept: Kept, role: str, engine: Engine, at: datetime) -> Again | None:
    """The question asked of whoever holds a role and nothing else; None where something that it names is gone."""
    if role not in engine.policy.roles:
        return None
    said = dict(kept.said)
    made = said.pop("made", None)
    if made is not None:
        if made["beneath"] not in engine.tree or made["type"] not in engine.policy.types:
            return None
        said["node"] = made["beneath"]
    try:
        question = read_question({"roles": [role], "own": kept.own, **said}, engine.policy, engine.tree)
    except Unreadable:
        return None
    question = replace(question, at=at)
    if made is not None and question.target is not None:
        question = replace(question, target=_made(made, question.target))
    return Again(question, kept.own, engine.decide(question, trail=True), engine.policy.limits)


def of_holder(role: str, *, own: bool) -> HypotheticalSubject:
    """Somebody who holds a role and nothing else, and wrote everything, or nothing."""
    return HypotheticalSubject((role,), own)


def _where(target: Target, tree: Tree) -> dict[str, Any] | None:
    if target.profile:
        return None
    if target.id is None:
        above = target.path[-1] if target.path else ""
        return {"node": above, "type": target.type, "topics": sorted(target.topics)} if above in tree else None
    if target.id in tree:
        return {"node": target.id}
    above = target.path[-2] if len(target.path) > 1 else ""
    if above not in tree:
        return None
    made = {"beneath": above, "type": target.type, "state": target.state, "topics": sorted(target.topics)}
    return {"made": made}


def _made(made: Mapping[str, Any], beneath: Target) -> Target:
    """What was made in a rehearsal, as if it stood where it stood there, with nothing beneath it."""
    return Target(
        *("made there", (*beneath.path, "made there"), made["type"], beneath.tree, beneath.site, None),
        *(made["state"], frozenset(made["topics"]), True),
    )
