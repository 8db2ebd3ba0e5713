"""Standing in: the second reading of §7, against the engine, on made-up policies."""

from collections import Counter
from dataclasses import replace

from hypothesis import HealthCheck, given, settings

from gonfalon.core import Engine, HypotheticalSubject
from gonfalon.core.model.policy import Assignment, Role, Scope, Subject
from tests.core.harbour import NOW
from tests.core.naive import EXTENTS, Naive
from tests.core.strategies import TREE, policies

OTHERS = (
    "ada",
    "ben",
    "cy",
    "gone",
    "key",
    None,
    HypotheticalSubject(("writer",)),
    HypotheticalSubject(("lead", "guest")),
)


class NaiveStanding(Naive):
    def stand_in(self, actor, subject):
        reason = self.plain(actor, "impersonate.start", None, NOW)
        if reason != "allowed":
            return reason
        account = self.account(subject)
        if account and account.state != "active":
            return "inactive"
        if actor == subject:
            return "beyond"
        if self.account(actor).keyholder:
            return "allowed"
        return "beyond" if self.could_do_more(actor, subject) else "allowed"

    def could_do_more(self, actor, subject):
        mine, theirs = self.sources(actor, NOW), self.sources(subject, NOW)
        if self.account(subject) and self.account(subject).keyholder:
            return True
        assigned = {r for s in mine if s[1] and s[0] not in ("everyone", "signed-in") for r in self.roles_up(s[1])}
        named = {("account", actor)} | {("group", g) for g in self.member_of(actor)} | {("role", r) for r in assigned}
        limited = any(
            (k.to.kind, k.to.id) in named and k.effect.value in ("stop", "bar") for k in self.policy.limits.values()
        )
        if self.account(actor).reach or limited:
            return True
        given_them = {c for s in theirs for c in self.capabilities(s) if self.source_says(s, c) in EXTENTS}
        if any(self.source_says(s, c) == "barred" for s in mine for c in given_them):
            return True
        free = [s for s in mine if s[3] is None or s[3] == Scope()]
        for source in theirs[self.baseline_of(subject) :]:
            for capability in self.capabilities(source):
                if self.source_says(source, capability) not in EXTENTS:
                    continue
                held = [EXTENTS.get(self.source_says(s, capability), 0) for s in free]
                if max(held, default=0) < (1 if capability.endswith(".create") else 3):
                    return True
        return self.sees_more(free, theirs[self.baseline_of(subject) :])

    def sees_more(self, free, theirs):
        mine_all = {r for s in free if s[1] for r in self.roles_up(s[1])}
        for rule in self.policy.fields.values():
            for role in {r for s in theirs if s[1] for r in self.roles_up(s[1])}:
                sees = rule.mode == "table" and {"see-own", "see-all"} & rule.table.get(role, frozenset())
                if sees and not any("see-all" in rule.table.get(r, ()) for r in mine_all):
                    return True
        return False

    def capabilities(self, source):
        _, role, single, _, _ = source
        return {c for r in self.roles_up(role) for c in self.policy.roles[r].grants} if role else set(single)

    @staticmethod
    def baseline_of(subject):
        return 1 if subject is None else 2


def test_both_readings_let_the_same_people_stand_in():
    answers: Counter[str] = Counter()

    @settings(max_examples=150, suppress_health_check=list(HealthCheck))
    @given(policies())
    def under_one_policy(policy):
        lead = Role("lead", dict(policy.roles["lead"].grants) | {"impersonate.start": "yes"}, "writer")
        more = Assignment("leads", "lead", Subject.account("cy"))
        widened = replace(
            policy, roles={**policy.roles, "lead": lead}, assignments={**policy.assignments, "leads": more}
        )
        engine, naive = Engine(widened, TREE), NaiveStanding(widened, TREE)
        for actor in ("cy", "ada", "key"):
            for subject in OTHERS:
                answer = str(engine.may_stand_in(actor, subject, NOW).reason)
                assert answer == naive.stand_in(actor, subject), (actor, subject)
                answers[answer] += 1

    under_one_policy()
    assert {"allowed", "beyond", "inactive", "not-granted", "barred"} <= set(answers)
    assert answers["allowed"] > 50
