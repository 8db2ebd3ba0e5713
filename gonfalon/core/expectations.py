"""Expectations: questions with the answer they should have, asked of many people and nodes at once (§8).

    result = prove(engine, policy.expectations.values(), at)[0]
    result.holds, result.asked, result.against

An expectation holds when each of its questions has the expected answer; one that ranges over nothing holds.
"""

from collections.abc import Iterable, Iterator, Sequence
from datetime import datetime
from functools import lru_cache

from gonfalon.core.asking import Asker, Progress, Result
from gonfalon.core.engine import Engine
from gonfalon.core.impact import Impact
from gonfalon.core.people import named_in, range_of
from gonfalon.core.policy import Expectation
from gonfalon.core.question import Who
from gonfalon.core.requests import RANGES
from gonfalon.core.vocabulary import PART_ACTIONS

_IMPACT_ASKS = {"account", *RANGES, "action", "node", "branch", "types", "type", "field", "component", "facet"}


def prove(
    engine: Engine, expectations: Iterable[Expectation], at: datetime, progress: Progress | None = None
) -> list[Result]:
    """Ask every expectation, at its own time if it names one, else at `at`.

    Nodes, accounts and roles that are no longer there are asked of no more. `progress` is called with how
    many are done.
    """
    return Asker(engine, at).ask([(expectation, None) for expectation in expectations], progress)


def newly_broken(results: Iterable[Result], changed: Impact) -> list[Expectation]:
    """Those that held before a change, as their results tell, and do not hold after it.

    Only what an impact can have turned is asked, of those for whom it turned.
    """
    held = (result.expectation for result in results if result.holds)
    asked = Asker(changed.after.engine, changed.at).ask(list(_may_turn(held, changed)))
    return [result.expectation for result in asked if not result.holds]


def _may_turn(
    expectations: Iterable[Expectation], changed: Impact
) -> Iterator[tuple[Expectation, Sequence[Who] | None]]:
    """Those that may be answered otherwise than before, with the people whose answers may be; None: everyone's.

    What an impact does not ask (reasons, other times, topics, sites) may always turn.
    """
    sides = [side.engine for side in (changed.before, changed.after)]
    parts = ((getattr(side.policy, part) for side in sides) for part in ("accounts", "groups", "assignments"))
    same = all(was is now for was, now in parts)
    people = [side.people for side in (sides[:1] if same else sides)]
    asked = lru_cache(1024)(lambda named, id: [each.asked({named: id}, changed.at) for each in people])
    actions = {who: {key.partition(" ")[0] for key in turns} for who, turns in changed.turned.items()}
    for e in expectations:
        q = e.question
        named = range_of(q)
        was, *now = [[named_in(q)]] if named is None else asked(named, q[named])
        if e.reason or not q.keys() <= _IMPACT_ASKS or now not in ([], [was]):
            yield e, None
            continue
        action = f"create:{q['type']}" if q["action"] == "create" else q["action"]
        part = action in PART_ACTIONS
        if who := [who for who in was if who in actions and (part or action in actions[who])]:
            yield e, who if named else None
