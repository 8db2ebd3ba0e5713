"""What a role comes to for a capability, whatever says so: the role, one it builds on, or the baseline (§2, §4).

    outcomes = Outcomes(RoleResolver(policy), "writer")
    outcomes.of("notice.edit")             # Outcome(says="own", source="own", by="writer", form="own")
    outcomes.if_said("notice.edit", "barred")

It is what somebody may who holds this role and nothing else, everywhere, where no limit narrows it.
"""

from collections.abc import Mapping
from typing import Literal, NamedTuple

from gonfalon.core.decide.grants import RoleResolver, Statement, gives
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.vocabulary import BARRED, SAYS, WITHHELD, Extent, Kind

Origin = Literal["own", "built-on", "baseline"]
Form = Literal["nothing", "withheld", "barred", "yes", "create", "own", "team", "all"]


class Outcome(NamedTuple):
    """What counts: a word of §2 or None, where it comes from, and the role that says it.

    `form` names the sentence it reads as: the word itself, `nothing`, or `create`, which has no extent.
    """

    says: str | None
    source: Origin
    by: str | None
    form: Form

    @property
    def given(self) -> bool:
        """Whether it gives anything."""
        return self.says is not None and gives(self.says)


class Outcomes:
    """Outcomes of one role, its statements and those of others being worked out once."""

    def __init__(self, resolver: RoleResolver, role: str) -> None:
        """KeyError for a role that there is not."""
        policy = resolver.policy
        self.policy, self.role = policy, role
        self._own = policy.roles[role].grants
        above = policy.roles[role].builds_on
        self._above: Mapping[str, Statement] = resolver.statements(above) if above else {}
        self._baseline = [resolver.statements(key) for key in baseline_of(policy, role)]

    def of(self, capability: str) -> Outcome:
        """What counts for a capability as the role stands."""
        return self.if_said(capability, self._own.get(capability))

    def if_said(self, capability: str, word: str | None) -> Outcome:
        """What would count if the role itself said a word (None: nothing)."""
        create = self.policy.kind(capability) is Kind.GRADED and capability.endswith(".create")
        return _outcome(self.role, word, self.above(capability), self.baseline(capability), create)

    def above(self, capability: str) -> Statement | None:
        """What the roles say that this one builds on."""
        return self._above.get(capability)

    def baseline(self, capability: str) -> tuple[Statement, ...]:
        """What the roles of the baseline give or bar, of those that reach every holder of this one."""
        every = (statements[capability] for statements in self._baseline if capability in statements)
        return tuple(statement for statement in every if statement.says != WITHHELD)

    def strongest_of_baseline(self, capability: str) -> Statement | None:
        """The word of the baseline that counts before its others."""
        return max(self.baseline(capability), key=lambda statement: _strength(statement.says, False), default=None)

    def words(self, capability: str) -> tuple[str | None, ...]:
        """Every word that the role may say about it, None for nothing."""
        return (None, *SAYS[self.policy.kind(capability)])


def baseline_of(policy: Policy, role: str) -> tuple[str, ...]:
    """The roles of the baseline that every holder of a role has besides: those of visitors, of accounts, or both."""
    if role == policy.everyone:
        return ()
    return tuple(key for key in policy.baseline if key != role)


def _outcome(
    role: str, said: str | None, above: Statement | None, baseline: tuple[Statement, ...], create: bool
) -> Outcome:
    best = Statement(said, role) if said is not None else above
    source: Origin = "own" if said is not None else "built-on"
    for statement in baseline:
        if best is None or _strength(statement.says, create) > _strength(best.says, create):
            best, source = statement, "baseline"
    if best is None:
        return Outcome(None, "own", None, "nothing")
    return Outcome(best.says, source, best.said_by, _form(best.says, create))


def _strength(says: str, create: bool) -> int:
    """A bar beats every grant, a longer extent a shorter one; `create` ignores the extent; `withheld` gives nothing."""
    if says == BARRED:
        return Extent.ALL + 1
    if says == WITHHELD:
        return -1
    return Extent.ALL if create else Statement(says, None).extent


def _form(says: str, create: bool) -> Form:
    if create and gives(says):
        return "create"
    return says  # type: ignore[return-value]
