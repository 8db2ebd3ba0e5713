"""Standing in for someone: never for a person who could do what oneself could not (§7)."""

from collections.abc import Iterable

from gonfalon.core.decide.grants import GrantSource, SubjectGrants, gives
from gonfalon.core.model.policy import Policy, Subject
from gonfalon.core.model.vocabulary import BARRED, Effect, Extent


def exceeds(policy: Policy, actor: SubjectGrants, subject: SubjectGrants) -> bool:
    """Whether `subject` could do anything that `actor`, no keyholder, could not."""
    return (
        subject.keyholder
        or _narrowed(policy, actor)
        or not _gives_no_more(actor, subject)
        or not _sees_no_more(policy, actor, subject)
    )


def _narrowed(policy: Policy, actor: SubjectGrants) -> bool:
    """A reach, or a stop or bar on the actor, a group of theirs, or a role they are assigned."""
    if actor.account is not None and actor.account.reach:
        return True
    named = set(actor.subjects)
    for source in actor.sources:
        if source.kind != "baseline":
            named.update(Subject.role(key) for key in source.roles)
    return any(k.to in named and k.effect is not Effect.LIFT for k in policy.limits.values())


def _gives_no_more(actor: SubjectGrants, subject: SubjectGrants) -> bool:
    given = {
        capability
        for source in subject.sources
        for capability, answer in source.statements.items()
        if gives(answer.says)
    }
    barred = {c for source in actor.sources for c, answer in source.statements.items() if answer.says == BARRED}
    if barred & given:
        return False
    held: dict[str, Extent] = {}
    for source in _unrestricted(actor.sources):
        for capability, answer in source.statements.items():
            held[capability] = max(held.get(capability, Extent.NONE), answer.extent)
    beyond_baseline = {
        capability
        for source in subject.sources
        if source.kind != "baseline"
        for capability, answer in source.statements.items()
        if gives(answer.says)
    }
    return all(
        held.get(c, Extent.NONE) >= (Extent.OWN if c.endswith(".create") else Extent.ALL) for c in beyond_baseline
    )


def _sees_no_more(policy: Policy, actor: SubjectGrants, subject: SubjectGrants) -> bool:
    seen_by_actor = {key for source in _unrestricted(actor.sources) for key in source.roles}
    seen_by_subject = {key for source in subject.sources if source.kind != "baseline" for key in source.roles}
    for rule in policy.fields.values():
        if rule.mode != "table":
            continue
        sees = any({"see-own", "see-all"} & rule.table.get(key, frozenset()) for key in seen_by_subject)
        if sees and not any("see-all" in rule.table.get(key, ()) for key in seen_by_actor):
            return False
    return True


def _unrestricted(sources: Iterable[GrantSource]) -> list[GrantSource]:
    return [source for source in sources if source.scope.unrestricted]
