"""Reasons and verbs in plain words, for refusals. The whole trail in words is `verify.why`."""

from typing import Any

from gonfalon.access.catalogue import Catalogue
from gonfalon.core import Decision, Question
from gonfalon.core.model.vocabulary import Reason

REASON_WORDS = {
    Reason.ALLOWED: "This is allowed.",
    Reason.INACTIVE: "The account is not active.",
    Reason.BARRED: "It is barred, and a bar beats every grant.",
    Reason.NOT_GRANTED: "No role, group or grant gives it.",
    Reason.OUT_OF_SCOPE: "It is given, but not for this place.",
    Reason.OUT_OF_EXTENT: "It is given, but only for what one wrote oneself or with one's team.",
    Reason.STOPPED: "A limit stops it here.",
    Reason.OUT_OF_REACH: "This place lies outside the branches the account is confined to.",
    Reason.LOCKED: "It is locked.",
    Reason.LIVE: "It is published, and editing published pages is not given.",
    Reason.FIELD: "The rule of this field does not let you.",
    Reason.COMPONENT: "This kind of component is closed for the role.",
    Reason.FACET: "This side of the component is closed for the role.",
    Reason.BEYOND: "That account can do something you cannot.",
    Reason.NOT_DELEGATED: "No delegation lets you give this role there, to this account, for so long.",
}

REASON_SHORT = {
    Reason.ALLOWED: "allowed",
    Reason.INACTIVE: "not active",
    Reason.BARRED: "barred",
    Reason.NOT_GRANTED: "not given",
    Reason.OUT_OF_SCOPE: "out of scope",
    Reason.OUT_OF_EXTENT: "not own",
    Reason.STOPPED: "stopped",
    Reason.OUT_OF_REACH: "out of reach",
    Reason.LOCKED: "locked",
    Reason.LIVE: "published is closed",
    Reason.FIELD: "field is closed",
    Reason.COMPONENT: "component is closed",
    Reason.FACET: "side is closed",
    Reason.BEYOND: "more than oneself",
    Reason.NOT_DELEGATED: "not delegated",
}

SENTENCES = {
    "nothing": ("{who} may ", "not", " {what} by this role."),
    "withheld": ("{who} are ", "not given", " “{what}” by this role."),
    "barred": ("{who} may ", "never", " {what}, whatever else they hold."),
    "yes": ("{who} may ", "{what}", "."),
    "create": ("{who} may {verb} ", "{things}", "."),
    "own": ("{who} may {verb} ", "{things} they wrote themselves", "."),
    "team": ("{who} may {verb} ", "{things} written by anyone in their team", "."),
    "all": ("{who} may {verb} ", "all {things}", "."),
}
"""How a cell reads, by the form of its outcome: what leads up to what counts, that, and the rest.

`who` are the holders of a role, `what` is a verb and its things: "edit events", or the phrase of a duty.
"""


def subject_of(name: str, baseline: str) -> str:
    """The holders of a role, as a sentence about them begins."""
    everyone = {"everyone": "Everyone, visitors too,", "signed-in": "Everyone signed in"}
    return everyone.get(baseline, f"Holders of {name}")


def refusal(question: Question, answer: Decision, catalogue: Catalogue) -> str:
    """What was refused and why, in two plain sentences, telling nothing of the policy behind it."""
    return f"You may not {catalogue.action(question.action)}. {REASON_WORDS[answer.reason]}"


def trail_data(answer: Decision) -> list[dict[str, Any]]:
    """The trail of a refusal as whoever is refused may read it: its steps, and which role said what (§6).

    Ids of limits, locks and what is given lead to pages and people that they may not know of, and are left out.
    """
    return [
        {
            "step": step.step,
            "capability": step.capability,
            "passed": step.passed,
            "findings": [{"what": f.what, "role": f.role, "says": f.says, "reason": f.reason} for f in step.findings],
        }
        for step in answer.trail
    ]
