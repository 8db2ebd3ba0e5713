"""What stands in a policy without being wrong, but can hardly be meant (§8).

for finding in review(policy): print(finding)      # a pointer into the document, and words
"""

from collections.abc import Iterator, Sequence

from gonfalon.core.checks.sections import sections_amiss
from gonfalon.core.decide.grants import RoleResolver
from gonfalon.core.document.errors import Fault, pointer
from gonfalon.core.model.policy import Assignment, Delegation, DirectGrant, Limit, Policy, Scope, Subject
from gonfalon.core.model.vocabulary import BARRED, PROFILE, WITHHELD, Effect, Kind


def review(policy: Policy) -> list[Fault]:
    """Every warning, in the order of the document. Positions are those of `write_policy`'s lists."""
    return [
        *_keyholders(policy),
        *_sections(policy),
        *_assignments(policy),
        *_direct_grants(policy),
        *_delegations(policy),
        *_limits(policy),
    ]


def _keyholders(policy: Policy) -> Iterator[Fault]:
    if not any(a.keyholder and a.state == "active" for a in policy.accounts.values()):
        yield Fault("/accounts", "no active account is a keyholder")


def _sections(policy: Policy) -> Iterator[Fault]:
    says = RoleResolver(policy)
    for role in policy.roles:
        for section, shut in sections_amiss(role, says):
            path = ("roles", role, "grants", shut[0] if shut else section)
            if shut:
                yield Fault(pointer(path), f"{_are(shut)} given for a section that is closed: {section} is not given")
            else:
                yield Fault(pointer(path), "this opens a section without anything to do in it")


def _assignments(policy: Policy) -> Iterator[Fault]:
    for i, (_, a) in enumerate(policy.assignments.items()):
        path = ("assignments", i, "scope")
        yield from _scope(a, path)
        if not a.scope.restricts_nodes or a.role not in policy.roles:
            continue
        said = {c: says for key in reversed(policy.role_chain(a.role)) for c, says in policy.roles[key].grants.items()}
        sitewide = {c: says for c, says in sorted(said.items()) if policy.kind(c) is Kind.SITEWIDE}
        barred = [c for c, says in sitewide.items() if says == BARRED]
        given = [c for c, says in sitewide.items() if says not in (BARRED, WITHHELD)]
        for capabilities, what in ((given, "given"), (barred, "barred")):
            if capabilities:
                yield Fault(pointer(path), _never_sitewide(capabilities, what))


def _direct_grants(policy: Policy) -> Iterator[Fault]:
    for i, (_, d) in enumerate(policy.direct_grants.items()):
        path = ("direct_grants", i)
        yield from _scope(d, (*path, "scope"))
        if d.scope.restricts_nodes and policy.kind(d.capability) is Kind.SITEWIDE:
            what = "barred" if d.says == BARRED else "given"
            yield Fault(pointer((*path, "scope")), _never_sitewide([d.capability], what))
        elif _keyholder(policy, d.to.kind, d.to.id):
            yield Fault(pointer(path), "this can never matter: a keyholder may do everything")
        elif why := _never_covers(policy, d):
            yield Fault(pointer((*path, "scope")), f"this can never matter: {why}")


def _delegations(policy: Policy) -> Iterator[Fault]:
    for i, (_, h) in enumerate(policy.delegations.items()):
        yield from _scope(h, ("delegations", i, "scope"))


def _scope(given: Assignment | DirectGrant | Delegation, path: Sequence[str | int]) -> Iterator[Fault]:
    for name in ("sites", "branches", "types", "topics"):
        if getattr(given.scope, name) == frozenset():
            yield Fault(pointer((*path, name)), "an empty list covers nothing")


def _never_sitewide(capabilities: Sequence[str], what: str) -> str:
    counts = "never count: they are" if len(capabilities) > 1 else "never counts: it is"
    return f"{_are(capabilities)} {what} here and {counts} about the whole site"


def _are(capabilities: Sequence[str]) -> str:
    *others, last = capabilities
    return f"{', '.join(others)} and {last} are" if others else f"{last} is"


def _never_covers(policy: Policy, d: DirectGrant) -> str | None:
    """Why a direct grant of a graded capability covers no node there could be."""
    thing = d.capability.partition(".")[0]
    if policy.kind(d.capability) is not Kind.GRADED or d.scope.unrestricted:
        return None
    scope: Scope = d.scope
    if scope.types is not None and thing not in scope.types:
        return f"the scope leaves out the type “{thing}”"
    if thing == PROFILE and not (scope.sites is None and scope.branches is None and scope.topics is None):
        return "a profile lies on no site, in no branch, and has no topics"
    type = policy.types.get(thing)
    if scope.branches and type is not None and type.tree is not None:
        nodes = [policy.tree.nodes[policy.tree.index[b]] for b in scope.branches if b in policy.tree]
        if nodes and all(node.tree != type.tree for node in nodes):
            return f"its branches lie in another tree than the type “{thing}”"
        if nodes and scope.sites is not None and all(node.site not in scope.sites for node in nodes):
            return "its branches lie on none of its sites"
    return None


def _keyholder(policy: Policy, kind: str, id: str) -> bool:
    return kind == "account" and id in policy.accounts and policy.accounts[id].keyholder


def _limits(policy: Policy) -> Iterator[Fault]:
    by_subject: dict[Subject, list[Limit]] = {}
    for limit in policy.limits.values():
        by_subject.setdefault(limit.to, []).append(limit)
    for i, (_, limit) in enumerate(policy.limits.items()):
        if why := _never_narrows(policy, limit, by_subject[limit.to]):
            yield Fault(pointer(("limits", i)), f"this can never matter: {why}")


def _never_narrows(policy: Policy, limit: Limit, alike: Sequence[Limit]) -> str | None:
    if _keyholder(policy, limit.to.kind, limit.to.id):
        return "no limit touches a keyholder"
    if limit.applies == "node" and limit.actions == frozenset({"create"}):
        return "what is created does not exist yet, so a limit at one node alone never meets it"
    if limit.effect is Effect.LIFT and not _lifts(policy, limit, alike):
        return "there is no stop or bar above it to lift"
    return None


def _lifts(policy: Policy, lift: Limit, alike: Sequence[Limit]) -> bool:
    """Whether anything of the same subject, from further up, shares an action with a lift."""
    above = policy.tree.path(lift.node)[:-1] if lift.node in policy.tree else ()
    return any(
        other.effect is not Effect.LIFT
        and other.applies != "node"
        and other.node in above
        and (lift.actions is None or other.actions is None or lift.actions & other.actions)
        for other in alike
    )
