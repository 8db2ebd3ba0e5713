"""Where a capability, or several things together, let somebody do harm or raise themselves, and why.

risks = risks_of("site-steward", RoleResolver(policy), catalogue)     # every risk of a role, those it inherits too
given = newly_given(before, after, catalogue)           # what a change of policy adds
"""

from collections.abc import Iterator
from typing import NamedTuple

from gonfalon.access.catalogue import MARKUP_PREFIX, VERB_WORDS, Catalogue
from gonfalon.core.decide.grants import RoleResolver, allows_component, allows_facet, gives
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.vocabulary import PROFILE, Extent

TOGETHER = (
    (("roles.define", "roles.assign"), "Holders can widen any role and give it to themselves: they can do everything."),
    (("roles.assign", "limits.set"), "Holders can give themselves any role and lift every limit on it."),
)


class Risk(NamedTuple):
    """What is risky about a role: in words what it comes with, and why."""

    role: str
    what: str
    why: str


def risks_of(role: str, says: RoleResolver, catalogue: Catalogue) -> Iterator[Risk]:
    """The risks of what a role gives, and those that its parts make together."""
    policy = says.policy
    given = {capability for capability, answer in says.statements(role).items() if gives(answer.says)}
    for duty in catalogue.duties.values():
        if duty.risk and duty.key in given:
            yield Risk(role, duty.phrase, duty.risk)
    for together, why in TOGETHER:
        if given.issuperset(together):
            yield Risk(role, _words(together, catalogue), why)
    if role in policy.baseline:
        yield from _everybodys(role, says, catalogue)
    sets = sorted(capability for capability in given if capability.startswith(MARKUP_PREFIX))
    if sets and "site.settings" in given:
        why = "Holders can widen the markup set that they may use themselves."
        yield Risk(role, _words(("site.settings", *sets), catalogue), why)
    chain = policy.role_chain(role)
    yield from _code(role, chain, given, policy, catalogue)
    yield from _hidden_fields(role, chain, policy, catalogue)


def _everybodys(role: str, says: RoleResolver, catalogue: Catalogue) -> Iterator[Risk]:
    """What everybody is given beyond reading, and what nobody would have to be given for: their own profile, markup."""
    policy = says.policy
    why = "Everybody has this, signed in or not." if role == policy.everyone else "Everybody who signs in has this."
    verbs: dict[str, list[str]] = {}
    for capability, answer in says.statements(role).items():
        thing, _, verb = capability.partition(".")
        if not gives(answer.says) or verb == "see" or capability.startswith(MARKUP_PREFIX):
            continue
        if thing in policy.types:
            if thing != PROFILE or answer.extent > Extent.OWN:
                verbs.setdefault(verb, []).append(catalogue.type(thing).plural)
        elif capability not in catalogue.duties or not catalogue.duties[capability].risk:
            yield Risk(role, catalogue.phrase(capability), why)
    for verb, plurals in verbs.items():
        yield Risk(role, f"{VERB_WORDS[verb][1]} {', '.join(plurals)}", why)


def newly_given(before: Policy, after: Policy, catalogue: Catalogue) -> list[Risk]:
    """The risks of every role after a change that it had not before."""
    found, said, says = [], RoleResolver(before), RoleResolver(after)
    for role in after.roles:
        if before.fields is not after.fields or _chain_changed(role, before, after):
            had = set(risks_of(role, said, catalogue)) if role in before.roles else set()
            found += [risk for risk in risks_of(role, says, catalogue) if risk not in had]
    return found


def _code(role: str, chain: tuple[str, ...], given: set[str], policy: Policy, catalogue: Catalogue) -> Iterator[Risk]:
    edits = any(capability.endswith(".edit") for capability in given)
    speaks = any(policy.roles[key].components is not None or policy.roles[key].facets for key in chain)
    for component in catalogue.components.values() if edits and speaks else ():
        named = policy, chain, component.key
        if "code" in component.facets and (allows_component(*named) or allows_facet(*named, "code")):
            why = f"{component.name} lets holders put code of their own on the site."
            yield Risk(role, f"change the code of {component.name.lower()}", why)


def _hidden_fields(role: str, chain: tuple[str, ...], policy: Policy, catalogue: Catalogue) -> Iterator[Risk]:
    """Fields that a table shows to this role and not to everybody."""
    for (type, field), rule in policy.fields.items():
        if rule.mode != "table" or type not in policy.types:
            continue
        shown = any("see-all" in rule.table.get(key, ()) for key in chain)
        if shown and not any("see-all" in rule.table.get(key, ()) for key in policy.baseline):
            kind = catalogue.type(type)
            name = next((f.name for f in kind.fields if f.key == field), field)
            yield Risk(
                role,
                f"see {name.lower()} of {kind.plural}",
                "This field is hidden from everyone whose roles do not show it.",
            )


def _words(capabilities: tuple[str, ...], catalogue: Catalogue) -> str:
    return " and ".join(catalogue.phrase(capability) for capability in capabilities)


def _chain_changed(role: str, before: Policy, after: Policy) -> bool:
    return any(before.roles.get(key) is not after.roles[key] for key in after.role_chain(role))
