"""When an expectation is asked that holds from one time until another (§8).

It is asked at both ends, the end itself excluded as in all periods (§3), and wherever something given to whoever is
asked begins or ends between: what it is answered at those moments it is answered throughout.
"""

from collections.abc import Iterable, Mapping
from datetime import datetime, timedelta
from operator import is_
from typing import Any

from gonfalon.core.checks.audience import Audience
from gonfalon.core.document.errors import read_time
from gonfalon.core.engine import Engine
from gonfalon.core.model.policy import Assignment, DirectGrant, Policy, Subject
from gonfalon.core.model.vocabulary import HAND_OUT_ACTION, OVER_ALL_NODES

_LAST = timedelta(microseconds=1)


def lasts(question: Mapping[str, Any]) -> bool:
    """Whether a question is asked from one time until another."""
    if question.get("action") == HAND_OUT_ACTION:  # its `until` is when what would be given ends
        return False
    return question.get("from") is not None or question.get("until") is not None


def moments(question: Mapping[str, Any], engine: Engine, at: datetime) -> list[datetime]:
    """The moments at which to ask, ascending; none where it is over. What says no beginning begins `at`."""
    begins = at if question.get("from") is None else read_time(question["from"])
    ends = None if question.get("until") is None else read_time(question["until"])
    if ends is not None and ends <= begins:
        return []
    turning = engine.derived(TurningTimes)
    if question["action"] in OVER_ALL_NODES:
        times = turning.all
    else:
        who = engine.derived(Audience).ever(question)
        times = turning.all if who is None else turning.of(who, question.get("groups") or ())
    between = {time for time in times if begins < time and (ends is None or time < ends)}
    return sorted({begins, *between} if ends is None else {begins, *between, ends - _LAST})


class TurningTimes:
    """When something given begins or ends, by whom it is given to."""

    def __init__(self, policy: Policy) -> None:
        self.policy = policy
        self._of = policy.accounts, policy.groups, policy.assignments, policy.direct_grants, policy.delegations
        self._times: dict[Subject, set[datetime]] = {}
        every: list[Assignment | DirectGrant] = [*policy.assignments.values(), *policy.direct_grants.values()]
        for given in every:
            ends = {time for time in (given.period.starts, given.period.ends) if time is not None}
            self._times.setdefault(given.to, set()).update(ends)
        of_delegations = {each.ends for each in policy.delegations.values() if each.ends is not None}
        self.all: set[datetime] = of_delegations.union(*self._times.values())

    def can_answer_for(self, policy: Policy) -> bool:
        """Whether another policy gives the very same to the very same."""
        others = policy.accounts, policy.groups, policy.assignments, policy.direct_grants, policy.delegations
        return all(map(is_, self._of, others))

    def of(self, accounts: Iterable[str], groups: Iterable[str]) -> set[datetime]:
        """Those of what is given to some accounts and groups, or to a group that they are in."""
        held = set().union(*(self.policy.group_chain(group) for group in groups))
        known = [self.policy.accounts[id] for id in accounts if id in self.policy.accounts]
        held = held.union(*(self.policy.all_groups(account) for account in known))
        subjects = [Subject.account(account.id) for account in known] + [Subject.group(group) for group in held]
        return set().union(*(self._times.get(subject, ()) for subject in subjects))
