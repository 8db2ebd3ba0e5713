"""Reasons and verbs in plain words, for refusals. The whole trail in words is `verify.why`."""

from dataclasses import asdict
from typing import Any

from gonfalon.access.catalogue import DUTIES
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
}

ACTION_WORDS = {
    "see": "see this",
    "create": "make this here",
    "edit": "edit this",
    "publish": "publish this",
    "retire": "retire this",
    "remove": "remove this",
    "move": "move this",
    "history": "see the history of this",
    "restore": "restore earlier versions of this",
    "see-field": "see this field",
    "change-field": "change this field",
    "fill-field": "fill this field",
    "insert-component": "insert this component",
    "change-facet": "change this side of the component",
    "stand-in": "stand in for this account",
} | {duty.key: duty.phrase for duty in DUTIES.values()}


def refusal(question: Question, answer: Decision) -> str:
    """What was refused and why, in two plain sentences, telling nothing of the policy behind it."""
    return f"You may not {ACTION_WORDS.get(question.action, question.action)}. {REASON_WORDS[answer.reason]}"


def trail_data(answer: Decision) -> list[dict[str, Any]]:
    """The trail as plain data: steps with the sources, roles, groups, limits and locks by id (§6)."""
    return [asdict(step) for step in answer.trail]
