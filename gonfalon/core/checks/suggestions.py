"""The smallest changes that turn a no into a yes, each with what else it would do.

advice = advise(engine, Question("ada", "edit", tree.target("fees")), at)
advice.changes[0].operations        # (GiveCapability(...),)
advice.changes[0].impact.gain       # everyone who would gain something by it
advice.bars                         # what bars it: that is named, and never worked around
"""

from dataclasses import dataclass, replace
from datetime import datetime

from gonfalon.core.checks.ranking import Way
from gonfalon.core.checks.turning import ways
from gonfalon.core.diff.impact import Impact, impact
from gonfalon.core.engine import Engine
from gonfalon.core.model.question import Decision, Finding, Question
from gonfalon.core.model.vocabulary import Reason
from gonfalon.core.operations import apply


@dataclass(frozen=True, slots=True)
class Advised:
    """One way to a yes: what to change, and what all of that turns."""

    operations: Way
    impact: Impact


@dataclass(frozen=True, slots=True)
class Advice:
    """The ways to a yes, those that turn least for others first; and the bars in the way, if any."""

    changes: tuple[Advised, ...]
    bars: tuple[Finding, ...] = ()


def advise(engine: Engine, question: Question, at: datetime) -> Advice:
    """What would turn the answer. The cost is that of `ways`, and one impact for each."""
    asked = replace(question, at=at)
    found = [Advised(way, impact(engine, engine.changed(apply(engine.policy, way)), at)) for way in ways(engine, asked)]
    return Advice(tuple(sorted(found, key=_reach_of)), bars(engine.decide(asked, trail=True)))


def bars(decision: Decision) -> tuple[Finding, ...]:
    """What bars an answer."""
    if decision.reason is not Reason.BARRED:
        return ()
    return tuple(f for step in decision.trail if step.step == "bars" for f in step.findings)


def _reach_of(change: Advised) -> tuple[int, int, int]:
    deltas = change.impact
    return len(deltas.gain | deltas.lose), deltas.gained + deltas.lost, len(change.operations)
