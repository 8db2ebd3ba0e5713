"""What turns on the profiles of accounts between two policies (§5).

A profile sits in no tree, so that all profiles of strangers are alike, and so are those of one's team: three
questions tell about all of them.
"""

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import replace
from datetime import datetime

from gonfalon.core.diff.counts import Deltas, deltas_of
from gonfalon.core.diff.node_classes import Sides
from gonfalon.core.model.policy import Account
from gonfalon.core.model.question import Question
from gonfalon.core.model.tree import profile
from gonfalon.core.model.vocabulary import PROFILE, Extent

_FIELD_VERBS = {"see": "see-field", "edit": "change-field"}
Near = Extent | None
"""Whose profile it is: one's own OWN, a direct fellow member's TEAM, any other ALL; None is nobody's there."""


class ProfileDiff:
    """Asks one account after another about every profile there is."""

    def __init__(self, sides: Sides, at: datetime) -> None:
        self.sides, self.at = sides, at
        rules = (key for side in sides for key, rule in side.engine.policy.fields.items() if rule.mode != "open")
        self._fields = sorted({field for type, field in rules if type == PROFILE})
        was, now = (side.engine.policy.accounts for side in sides)
        self._same_people = was == now
        self._members = [_members(was)] * 2 if self._same_people else [_members(was), _members(now)]

    def turns(self, who: str | None, actions: frozenset[str]) -> Deltas:
        """What turns for an account about profiles: `see account`, `see-field account.phone` and the like."""
        if not actions:
            return {}
        was, now = (self._answers(i, who, actions) for i in range(2))
        pairs = self._pairs(who)
        return deltas_of(
            (
                name,
                sum(n for (before, after), n in pairs.items() if now[name][after] and not was[name][before]),
                sum(n for (before, after), n in pairs.items() if was[name][before] and not now[name][after]),
            )
            for name in now
        )

    def _answers(self, i: int, who: str | None, actions: frozenset[str]) -> dict[str, Mapping[Near, bool]]:
        """For each question, yes or no about a profile of each kind; no about one that is not there."""
        engine = self.sides[i].engine
        there = who is None or who in engine.policy.accounts
        examples = self._examples(i, who)
        return {
            name: {
                None: False,
                **{
                    near: there and engine.decide(replace(question, target=profile(id))).allow
                    for near, id in examples.items()
                },
            }
            for name, question in self._questions(who, actions)
        }

    def _questions(self, who: str | None, actions: frozenset[str]) -> Iterator[tuple[str, Question]]:
        for action in sorted(actions):
            yield f"{action} {PROFILE}", Question(who, action, at=self.at)
            if action in _FIELD_VERBS:
                part = _FIELD_VERBS[action]
                for field in self._fields:
                    yield f"{part} {PROFILE}.{field}", Question(who, part, at=self.at, field=field)

    def _team(self, i: int, who: str | None) -> set[str]:
        """The direct fellow members of an account, itself left out."""
        account = self.sides[i].engine.policy.accounts.get(who) if who is not None else None
        groups = account.groups if account is not None else ()
        return set[str]().union(*(self._members[i][group] for group in groups)) - {who or ""}

    def _near(self, i: int, who: str | None, team: set[str], id: str) -> Near:
        if id not in self.sides[i].engine.policy.accounts:
            return None
        return Extent.OWN if id == who else Extent.TEAM if id in team else Extent.ALL

    def _examples(self, i: int, who: str | None) -> dict[Extent, str]:
        """A profile of each kind that there is."""
        team, accounts = self._team(i, who), self.sides[i].engine.policy.accounts
        found = {Extent.OWN: who} if who in accounts and who is not None else {}
        other = next((id for id in accounts if id != who and id not in team), None)
        examples = found | ({Extent.TEAM: min(team)} if team else {}) | ({Extent.ALL: other} if other else {})
        return {extent: id for extent, id in examples.items() if id is not None}

    def _pairs(self, who: str | None) -> Mapping[tuple[Near, Near], int]:
        """How many profiles are of one kind before, and of one after."""
        teams = [self._team(i, who) for i in range(2)]
        was, now = (side.engine.policy.accounts for side in self.sides)
        if self._same_people:
            own = int(who in was)
            counts = {Extent.OWN: own, Extent.TEAM: len(teams[0]), Extent.ALL: len(was) - own - len(teams[0])}
            return {(extent, extent): n for extent, n in counts.items() if n}
        return Counter((self._near(0, who, teams[0], id), self._near(1, who, teams[1], id)) for id in {**was, **now})


def _members(accounts: Mapping[str, Account]) -> dict[str, set[str]]:
    """The direct members of each group that has any."""
    members: dict[str, set[str]] = {}
    for account in accounts.values():
        for group in account.groups:
            members.setdefault(group, set()).add(account.id)
    return members
