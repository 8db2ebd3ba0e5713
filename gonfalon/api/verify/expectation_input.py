"""An expectation as clients say it: any question of the rules (§8), the answer it should have, a note, a group."""

from collections.abc import Mapping
from typing import Any

from rest_framework import serializers

from gonfalon.access.operations.assignments import MOST_NAMED
from gonfalon.core.document.requests import RANGES, faults_in
from gonfalon.core.model.vocabulary import Reason
from gonfalon.core.sentences.files import LONGEST_HEADING, LONGEST_NOTE
from gonfalon.core.sentences.normal import normal
from gonfalon.core.sentences.questions import Expected
from gonfalon.core.sentences.writing import Unsayable, Words
from gonfalon.inputs import Input
from gonfalon.verify.expectation_file import too_much
from gonfalon.verify.lexicon import lexicon_of
from gonfalon.viewpoint.viewpoint import Viewpoint

_BESIDE = ("expect", "note", "group", "reason")
_CALLED = {
    "node": "page",
    "kind": "kind of content",
    "field": "field",
    "account": "account",
    "role": "role",
    "group": "group",
}


def _key() -> serializers.CharField:
    return serializers.CharField(required=False)


def _several() -> serializers.ListField:
    return serializers.ListField(child=serializers.CharField(), required=False, max_length=MOST_NAMED)


class ExpectationInput(Input):
    account = serializers.CharField(required=False, allow_null=True)
    roles = serializers.JSONField(required=False)
    groups = _several()
    own = serializers.BooleanField(required=False)
    holders_of, members_of, except_holders_of, except_members_of = _key(), _key(), _key(), _key()
    action = serializers.CharField()
    node = serializers.JSONField(required=False, help_text="A page, or a profile: its `type` and `author`.")
    branch = _key()
    types = _several()
    whose = serializers.ChoiceField(choices=["own", "team"], required=False)
    working = serializers.BooleanField(required=False)
    type, field, component, component_id, facet = _key(), _key(), _key(), _key(), _key()
    topics = _several()
    site, role = _key(), _key()
    to = serializers.JSONField(required=False)
    scope = serializers.JSONField(required=False)
    at = _key()
    vars()["for"] = serializers.JSONField(required=False)
    vars()["from"] = _key()
    until = _key()
    expect = serializers.ChoiceField(choices=["allow", "deny"])
    reason = serializers.ChoiceField(choices=[str(reason) for reason in Reason], required=False, allow_blank=True)
    note = serializers.CharField(required=False, allow_blank=True, max_length=LONGEST_NOTE, default="")
    group = serializers.CharField(required=False, allow_blank=True, max_length=LONGEST_HEADING)

    def validate(self, data: dict[str, Any]) -> dict[str, Any]:
        """What the rules can ask of what is in sight; anything else is as good as not there."""
        viewpoint: Viewpoint = self.context["viewpoint"]
        asked = {key: value for key, value in data.items() if key not in _BESIDE and value is not False}
        if len([key for key in ("account", "roles", *RANGES) if key in asked]) != 1:
            raise serializers.ValidationError({"account": "Say whom it is about: one account, role or group."})
        faults = faults_in(asked, viewpoint.snapshot.policy, viewpoint.nodes.tree)
        hidden = None if faults else _hidden(asked, viewpoint)
        errors = {fault.pointer.strip("/").split("/")[0] or "action": _told(fault.message) for fault in faults}
        if errors or hidden:
            raise serializers.ValidationError(errors or hidden)
        question = normal(asked)
        if message := too_much(question, viewpoint):
            raise serializers.ValidationError({"branch" if "branch" in question else "action": message})
        return {key: data.get(key) or "" for key in _BESIDE} | {"question": question}


def _hidden(question: Mapping[str, Any], viewpoint: Viewpoint) -> dict[str, str] | None:
    """What of a question is out of sight, told as if it were not there."""
    try:
        Words(lexicon_of(viewpoint)).expectation(Expected(normal(question), "allow"))
    except Unsayable as unknown:
        field = next((key for key, value in question.items() if unknown.key in str(value)), "action")
        return {field: _no_such(unknown.sort, unknown.key)}
    return None


def _no_such(sort: str, key: str) -> str:
    if sort == "account":
        return f"There is no account “{key}”."
    return f"There is no such {_CALLED.get(sort, sort)}."


def _told(message: str) -> str:
    """A fault of the rules, as one says it of pages."""
    if message.startswith("there is no node"):
        return _no_such("node", "")
    return f"{message[:1].upper()}{message[1:]}."
