"""Nobody raises themselves: whatever holders of some duties do through the API, they end with nothing new.

Random people hold random duties short of giving roles, and hand out, ask, invite, bring in lists, change accounts and
groups, disable and enable; what each may do afterwards is held beside what they could do, or could hand out, before.
"""

import random

from django.core import mail
from django.db import transaction

from gonfalon.access import snapshot
from gonfalon.access.models import Answer, Assignment, Delegation, Role
from gonfalon.access.snapshot import current, raise_version
from gonfalon.accounts.models import Account
from gonfalon.clock import now
from gonfalon.content import nodes
from gonfalon.content.nodes import content, engine_over
from gonfalon.core.model.policy import Subject
from gonfalon.verify import expectation_cache, preview
from tests.api.support import Asking
from tests.api.worker import link_in, work
from tests.examples import LONG

SEEDS = range(40 if LONG else 6)
DUTIES = ("accounts.invite", "accounts.disable", "roster.see", "account.see", "account.edit", "impersonate.start",
          "expectations.keep", "ledger.read", "desk.open")  # fmt: skip
PEOPLE = ("ines", "noor", "tomasz", "ludo", "odile", "lone")
GROUPS = ("pier-3", "staff", "pilots", "race-office")
ROLES = ("tenant-editor", "duty-editor", "site-steward", "regatta-crew")


def holder(seed: random.Random) -> list[str]:
    """Somebody with a few duties, and perhaps a delegation of roles that they may or may not have themselves."""
    Account.objects.create(id="lone", name="Lone", email="lone@skerrow.example", password="x")
    Role.objects.create(key="lone", name="Lone", colour="azure", pattern="plain", position=99)
    Assignment.objects.create(id="lone", role_id="lone", account_id="lone")
    duties = seed.sample(DUTIES, seed.randint(2, len(DUTIES)))
    Answer.objects.bulk_create(Answer(role_id="lone", capability=duty, says="yes") for duty in duties)
    if seed.random() < 0.7:
        Assignment.objects.create(role_id=seed.choice(ROLES), account_id="lone", scope=seed.choice(SCOPES))
    Delegation.objects.create(
        subject_kind="account",
        subject_id="lone",
        roles=seed.sample(ROLES, 2),
        receivers_id=seed.choice((None, "pier-3", "race-office")),
    )
    raise_version()
    return duties


SCOPES = ({}, {"sites": ["regatta"]}, {"branches": ["pier-3-branch"]})


def tries(seed: random.Random, asking: Asking) -> None:
    """One thing that somebody might try to come to more."""
    who, role, group, scope = (seed.choice(x) for x in (PEOPLE, ROLES, GROUPS, SCOPES))
    me = {"kind": "account", "id": "lone"}
    tag = {"If-Match": asking.get(f"accounts/{who}").headers.get("ETag", '"1"')}
    seed.choice(
        [
            lambda: asking.post("change-set/operations", {"operations": [
                {"kind": "give-role", "role": role, "to": me, "scope": scope},
                {"kind": "set-member", "account": "lone", "group": group, "member": True},
            ]}),
            lambda: asking.post("change-set/operations", {"operations": [
                {"kind": "set-state", "account": who, "state": seed.choice(("active", "disabled"))}]}),
            lambda: asking.post("change-set/apply"),
            lambda: asking.post("handing-out", {"role": role, "account": who, "scope": scope}),
            lambda: asking.post("accounts/import", {
                "text": f"name,email,groups,roles\nLone,lone@skerrow.example,{group},{role}\n", "apply": True}),
            lambda: asking.post("accounts/many", {"accounts": ["lone"], "action": "give-role", "role": role}),
            lambda: asking.post("accounts", {
                "people": [{"name": "X", "email": f"x{seed.random()}@x.example"}], "groups": [group]}),
            lambda: asking.patch(f"accounts/{who}", {"email": "lone+2@skerrow.example"}, **tag),
            lambda: asking.post(f"accounts/{who}/password-reset"),
            lambda: asking.post(f"accounts/{who}/invitation", {}),
            lambda: asking.post(f"accounts/{who}/disable", {"pages_to": "lone", "roles_to": "lone"}),
            lambda: asking.post(f"accounts/{who}/enable"),
            lambda: asking.post("requests", {"action": "edit", "node": "fees"}),
            lambda: asking.post("requests/request-1/grant", {"way": 0, "changes": []}),
            lambda: asking.post("reviews/review-1/close"),
            lambda: asking.post("groups", {"name": "Mine", "parent": group}),
            lambda: asking.post("roles", {"name": "Mine", "copy_of": role}),
        ]
    )()  # fmt: skip


def takes_over(mine: str) -> set[str]:
    """The accounts whose mail reaches somebody: those at their own addresses, by now."""
    for letter in mail.outbox:
        if mine in letter.to and "/welcome#" in letter.body:
            Asking(None).post("welcome/use", {"secret": link_in(letter), "password": "copper kettle drifting north"})
    return set(Account.objects.filter(email__startswith="lone").exclude(pk="lone").values_list("pk", flat=True))


def test_nobody_ends_with_more_than_they_had(db):
    for number in SEEDS:
        _one(random.Random(number))


def _one(seed: random.Random) -> None:
    with transaction.atomic():
        holder(seed)
        asking, at = Asking("lone"), now()
        before = engine_over(content(), current())
        held = {(a.role, a.scope) for a in current().policy.assignments.values() if a.to == Subject.account("lone")}
        groups = current().policy.accounts["lone"].groups
        for _ in range(25):
            tries(seed, asking)
        work()
        mine = {"lone", *takes_over("lone+2@skerrow.example")}
        after = engine_over(content(), current())
        policy = after.policy
        now_held = {(a.role, a.scope) for a in policy.assignments.values() if a.to == Subject.account("lone")}
        assert now_held <= held
        assert policy.accounts["lone"].groups == groups
        assert "lone" not in {id for id, a in policy.accounts.items() if a.keyholder}
        for account in mine:  # what they are signed in as may nothing that they could not before
            if account in before.policy.accounts:
                assert next(before.excess("lone", account, at), None) is None, account
        assert next(_beyond(before, after, at), None) is None
        transaction.set_rollback(True)
    for kept in _kept():
        kept.clear()


def _beyond(before, after, at):
    """What somebody may do now that they could not before."""
    could, may = (
        engine.survey(["lone"], None, ["see", "edit", "publish", "remove", "move"], at)[0] for engine in (before, after)
    )
    yield from (may & ~could).nonzero()[0].tolist()


def _kept():
    return snapshot._kept, nodes._kept, nodes._engines, preview._kept, expectation_cache._kept
