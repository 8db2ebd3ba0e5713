"""What of a role's walk list was tried, and what that proves: each with the answer, as a sentence, that it got.

walked("tenant-editor", telling)        # a Section, or None where nobody made a list of it
"""

from gonfalon.core.checks.tries import Kept
from gonfalon.core.checks.walk import Item
from gonfalon.core.model.vocabulary import Reason
from gonfalon.core.sentences.normal import normal
from gonfalon.core.sentences.writing import time_words
from gonfalon.verify.models import WalkList
from gonfalon.verify.reports.parts import Row, Section
from gonfalon.verify.reports.telling import Telling
from gonfalon.verify.walks.lists import items_of
from gonfalon.verify.walks.ticks import Tick, standing
from gonfalon.verify.walks.words import Words


def walked(role: str, telling: Telling) -> tuple[Section, int, int] | None:
    """The section, how much of the list is proved, and of how much. Two queries."""
    row = WalkList.objects.filter(role=role).first()
    if row is None:
        return None
    ticks, words = standing([row], telling.reader)[row.id], Words(telling.reader)
    section = Section("What was tried of it", ("What", "How it went", "When"))
    for item in items_of(row):
        tick = ticks.get(item.key)
        if tick is None:
            continue
        said = words.of(item)
        what = said if item.expect else f"must not {said}"
        section.rows.append(Row((what, _went(item, tick), time_words(tick.at)), _sentences(role, item, tick, telling)))
    proved = sum(tick.as_said for tick in ticks.values())
    return section, proved, len(row.items)


def _went(item: Item, tick: Tick) -> str:
    if tick.as_said:
        return "done" if item.expect else "refused, as it should be"
    return "refused" if item.expect else "done, though it should not be"


def _sentences(role: str, item: Item, tick: Tick, telling: Telling) -> list[str]:
    """The answer that the try got, where it can be said: not of what was made in the rehearsal."""
    for said, own, reason in map(Kept._make, tick.asked):
        if said["action"] == item.action and "made" not in said:
            question = normal({"roles": [role], "own": own, **said})
            sentence = telling.expected(question, "allow" if reason == Reason.ALLOWED else "deny")
            return [sentence] if sentence else []
    return []
