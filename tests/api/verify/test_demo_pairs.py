"""Who may stand in for whom in the demo, held beside a reading of §7 that asks every question there is."""

from collections.abc import Iterator
from dataclasses import replace

import pytest

from gonfalon.clock import now
from gonfalon.core import Engine, Question
from gonfalon.core.document.reader import load_policy
from gonfalon.core.document.writer import write_policy
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.tree import profile
from gonfalon.core.model.vocabulary import ACTIONS, PROFILE, Kind
from gonfalon.verify.documents import whole_policy

AT = now()


def questions(policy: Policy) -> Iterator[Question]:
    """All that §7 lists, asked of a visitor."""
    tree = policy.tree
    actions = [*(a for a in ACTIONS if a != "create"), *policy.placed]
    for node in tree.nodes:
        target = tree.target(node.id)
        yield from (Question(None, action, target, AT) for action in actions)
        for type in policy.types.values():
            if type.tree == node.tree:
                new = target.child(type.key)
                yield Question(None, "create", new, AT)
                yield from (Question(None, "fill-field", new, AT, field=field) for field in type.fields)
        for field in policy.types[node.type].fields:
            yield from (Question(None, action, target, AT, field=field) for action in ("see-field", "change-field"))
        for component, facets in policy.components.items():
            yield Question(None, "insert-component", target, AT, component=component)
            for facet in facets:
                yield Question(None, "change-facet", target, AT, component=component, facet=facet)
    for capability in policy.plain:
        sites = sorted(policy.sites) if policy.kind(capability) is Kind.SITEWIDE else ()
        yield from (Question(None, capability, at=AT, site=site) for site in (None, *sites))
    for account in policy.accounts:
        yield from (Question(None, action, profile(account), AT) for action in actions)
        for field in policy.types[PROFILE].fields:
            for action in ("see-field", "change-field"):
                yield Question(None, action, profile(account), AT, field=field)


@pytest.fixture(scope="module")
def document(django_db_setup, django_db_blocker):
    """The demo's policy as `gonfalon decide` reads it."""
    with django_db_blocker.unblock():
        return write_policy(whole_policy())


def test_every_pair_is_decided_as_asking_everything_would(document):
    engine = Engine(load_policy(document))
    accounts = engine.policy.accounts.values()
    able = [a for a in accounts if engine.decide(Question(a.id, "impersonate.start", at=AT)).allow]
    asked = [a.id for a in able if not a.keyholder]
    refused = {}
    for question in questions(engine.policy):
        may_not = {id for id in asked if not engine.decide(replace(question, who=id)).allow}
        if may_not:
            refused[question] = may_not
    allowed = set()
    for subject in (*accounts, None):
        id = subject.id if subject is not None else None
        beyond = set()
        if subject is None or subject.state == "active":
            beyond = set().union(*(may_not for q, may_not in refused.items() if yes(engine, q, id)))
        for actor in accounts:
            request = {"account": actor.id, "action": "stand-in", "for": {"account": id}, "at": AT.isoformat()}
            answer = str(engine.decide(request).reason)
            if actor not in able:
                assert answer in ("inactive", "not-granted", "barred")
            elif subject is not None and subject.state != "active":
                assert answer == "inactive"
            elif actor.id == id or actor.id in beyond or (not actor.keyholder and subject and subject.keyholder):
                assert answer == "beyond", (actor.id, id)
            else:
                assert answer == "allowed", (actor.id, id)
                allowed.add((actor.id, id))
    assert {("bashir", "tomasz"), ("ludo", "ciaran"), ("odile", "bashir")} <= allowed
    assert not {("ludo", "ayo"), ("bashir", "ines"), ("bashir", "odile"), ("odile", "odile")} & allowed


def yes(engine: Engine, question: Question, who: str | None) -> bool:
    return engine.decide(replace(question, who=who)).allow
