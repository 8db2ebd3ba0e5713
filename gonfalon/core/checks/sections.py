"""Where what a role gives and the sections of the desk that it opens do not fit together.

    section_of("topics.add", policy)          # "topics.open": where it is done
    for amiss in sections_amiss("pilot", RoleResolver(policy)):
        amiss.section, amiss.shut             # opened with nothing in it to do, or closed around these capabilities

A section is an opening capability (§2), within the desk, which is one itself. What is done in a section that a policy
does not list is done on the desk; where it does not list that either, anywhere.
"""

from collections.abc import Iterator, Mapping
from typing import NamedTuple

from gonfalon.core.decide.grants import RoleResolver, Statement
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.vocabulary import DESK_OPEN, PROFILE, SECTION_OF_DUTY, SECTION_OF_TREE, SECTIONS, Extent

_ELSEWHERE: Mapping[str | None, tuple[str, ...]] = {"content": ("see",), "media": ("see", "see-draft")}
"""What is of use without a section: public pages are read on the site, and pictures on the pages they are put in."""


class Amiss(NamedTuple):
    """A section that a role opens without anything to do in it; or, with `shut`, capabilities that it gives for a
    section which neither it nor a baseline role opens."""

    section: str
    shut: tuple[str, ...] = ()


def section_of(capability: str, policy: Policy) -> str | None:
    """The section in which one does what a capability gives; None for what needs none."""
    if capability in SECTIONS:
        section = DESK_OPEN
    elif capability in SECTION_OF_DUTY:
        section = SECTION_OF_DUTY[capability]
    else:
        thing, _, verb = capability.partition(".")
        type = policy.types.get(thing)
        if thing != PROFILE and (type is None or verb in _ELSEWHERE[type.tree]):
            return None
        section = SECTION_OF_TREE[type.tree if type else None]
    return next((listed for listed in (section, DESK_OPEN) if listed in policy.capabilities), None)


def sections_amiss(role: str, says: RoleResolver) -> Iterator[Amiss]:
    """What does not fit together in a role, with what its holders have from the baseline, in the policy's order.

    Only what a role says itself is held against it: what it takes from another one is told there.
    """
    policy = says.policy
    given = _given(says.statements(role))
    for baseline in policy.baseline:
        given = {**_given(says.statements(baseline)), **given}
    open = given.keys() & {DESK_OPEN, *SECTIONS}
    used = {section_of(c, policy) for c in given}
    shut: dict[str, list[str]] = {}
    for capability, answer in given.items():
        section, own = section_of(capability, policy), answer.said_by == role
        if own and capability in open and capability not in used:
            yield Amiss(capability)
        if own and section is not None and section not in open:
            shut.setdefault(section, []).append(capability)
    for section, capabilities in shut.items():
        yield Amiss(section, tuple(capabilities))


def _given(statements: Mapping[str, Statement]) -> dict[str, Statement]:
    """What is given of what can be done on the desk; one's own profile is at hand wherever one is."""
    return {
        capability: answer
        for capability, answer in statements.items()
        if answer.extent > (Extent.OWN if capability.startswith(f"{PROFILE}.") else Extent.NONE)
    }
