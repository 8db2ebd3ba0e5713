"""Where a capability, or two together, let somebody do harm or raise themselves, and why.

risks = risks_of("site-steward", policy)        # every risk of a role, those it inherits too
given = newly_given(before, after)              # what a change of policy adds
"""

from collections.abc import Iterator
from typing import NamedTuple

from gonfalon.access.catalogue import COMPONENTS, DUTIES
from gonfalon.core.holding import Holdings, allows_component, allows_facet, gives
from gonfalon.core.policy import Policy

RAISING = ("roles.define", "roles.assign")


class Risk(NamedTuple):
    """What is risky about a role: the capability it comes with (or the parts that make it), and why."""

    role: str
    what: str
    why: str


def risks_of(role: str, policy: Policy) -> Iterator[Risk]:
    """The fixed risks of what a role gives, and those that its parts make together."""
    answers = Holdings(policy).answers(role)
    given = {capability for capability, answer in answers.items() if gives(answer.says)}
    for duty in DUTIES:
        if duty.risk and duty.key in given:
            yield Risk(role, duty.key, duty.risk)
    if given.issuperset(RAISING):
        yield Risk(
            role, "+".join(RAISING), "Holders can widen any role and give it to themselves: they can do everything."
        )
    chain = policy.role_chain(role)
    edits = any(capability.endswith(".edit") for capability in given)
    for component in COMPONENTS.values():
        speaks = any(policy.roles[key].components is not None or policy.roles[key].facets for key in chain)
        if edits and speaks and "code" in component.facets:
            named = policy, chain, component.key
            if allows_component(*named) or allows_facet(*named, "code"):
                yield Risk(role, component.key, f"{component.name} lets holders put code of their own on the site.")


def newly_given(before: Policy, after: Policy) -> list[Risk]:
    """The risks of every role after a change that it had not before."""
    found = []
    for role in after.roles:
        had = set(risks_of(role, before)) if role in before.roles else set()
        if before.roles.get(role) is not after.roles[role] or _chain_changed(role, before, after):
            found += [risk for risk in risks_of(role, after) if risk not in had]
    return found


def _chain_changed(role: str, before: Policy, after: Policy) -> bool:
    return any(before.roles.get(key) is not after.roles[key] for key in after.role_chain(role))
