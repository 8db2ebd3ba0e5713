"""Expectations that a role was made for, seen from its board: what holds of its holders now and is not recorded yet.

    suggested("tenant-editor", viewpoint)       # [Expected({"holders_of": "tenant-editor", ...}, "allow"), ...]

What it gives is expected to stay given, as far as it reaches; what it does not give, of kinds that it gives something
about, is expected to stay refused. What no holder is asked, or does not hold, is left out.
"""

from collections.abc import Iterator

from gonfalon.core.checks.expectations import prove
from gonfalon.core.decide.grants import RoleResolver
from gonfalon.core.decide.outcome import Outcomes
from gonfalon.core.document.requests import WHOSE
from gonfalon.core.model.policy import Expectation as Asked
from gonfalon.core.model.vocabulary import PROFILE
from gonfalon.core.sentences.questions import Expected
from gonfalon.verify.expectation_file import key_of, too_much
from gonfalon.verify.expectations import as_said
from gonfalon.verify.models import Expectation
from gonfalon.viewpoint.viewpoint import Viewpoint

VERBS = ("edit", "publish", "remove", "see")
"""Those that a role is mostly made for."""
MOST = 40


def suggested(role: str, here: Viewpoint) -> list[Expected]:
    """So many at most, what is given first. KeyError for a role that there is not. One query."""
    known = {key_of(as_said(row)) for row in Expectation.objects.all()}
    new = [expected for expected in _of_role(role, here) if key_of(expected) not in known]
    asked = [Asked(str(i), e.question, e.expect) for i, e in enumerate(new) if too_much(e.question, here) is None]  # type: ignore[arg-type]
    results = prove(here.engine, asked, here.at)
    held = [new[int(result.expectation.id)] for result in results if result.holds and result.asked]
    return sorted(held, key=lambda e: e.expect)[:MOST]


def _of_role(role: str, here: Viewpoint) -> Iterator[Expected]:
    policy, tree = here.snapshot.policy, here.engine.tree
    outcomes = Outcomes(RoleResolver(policy), role)
    roots = [n for n in tree.nodes if n.parent is None and n.id in here.sight.nodes]
    for type in policy.types.values():
        if type.key == PROFILE:
            continue
        given = {verb: outcomes.of(f"{type.key}.{verb}") for verb in VERBS}
        if not any(outcome.given and outcome.source != "baseline" for outcome in given.values()):
            continue
        for verb, outcome in given.items():
            for root in roots:
                if root.tree != type.tree:
                    continue
                question: dict[str, object] = {
                    "holders_of": role,
                    "action": verb,
                    "branch": root.id,
                    "types": [type.key],
                }
                if not outcome.given:
                    yield Expected(question, "deny")
                elif outcome.source != "baseline":
                    whose = {"whose": outcome.says} if outcome.says in WHOSE else {}
                    yield Expected({**question, **whose}, "allow")
