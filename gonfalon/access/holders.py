"""Who holds which roles, worked out from the policy in memory: no query however many rows."""

from collections import defaultdict
from dataclasses import dataclass
from datetime import datetime

from gonfalon.core.model.policy import Assignment, Policy


@dataclass(frozen=True, slots=True)
class Held:
    """One way an account holds a role; `group` is the group the assignment names, if any."""

    account: str
    role: str
    group: str | None
    assignment: Assignment


class Holders:
    """Every way every account holds a role at a moment, by role and by account."""

    def __init__(self, policy: Policy, at: datetime) -> None:
        ends = ((a.period.starts, a.period.ends) for a in policy.assignments.values())
        times = (time for period in ends for time in period if time is not None and time > at)
        self.at, self.until = at, min(times, default=None)
        members: dict[str, list[str]] = defaultdict(list)
        for account in policy.accounts.values():
            for member_of in policy.all_groups(account):
                members[member_of].append(account.id)
        self.members = members
        self.by_role: dict[str, list[Held]] = defaultdict(list)
        self.by_account: dict[str, list[Held]] = defaultdict(list)
        for given in policy.assignments.values():
            if not given.period.active(at):
                continue
            group = given.to.id if given.to.kind == "group" else None
            for account_id in [given.to.id] if group is None else members[group]:
                held = Held(account_id, given.role, group, given)
                self.by_role[given.role].append(held)
                self.by_account[account_id].append(held)

    def still_so(self, at: datetime) -> bool:
        """Whether the same is held at `at`."""
        return self.at <= at and (self.until is None or at < self.until)

    def accounts_of(self, role: str) -> list[str]:
        """The accounts that hold a role, each once."""
        return list(dict.fromkeys(held.account for held in self.by_role[role]))

    def roles_of(self, account: str) -> list[str]:
        """The roles an account holds, each once."""
        return list(dict.fromkeys(held.role for held in self.by_account[account]))
