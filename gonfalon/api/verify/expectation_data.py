"""How expectations, their sentences and how they stand are told."""

from collections.abc import Iterable, Mapping
from typing import Any

from rest_framework import serializers

from gonfalon.access.sight import HIDDEN_NODE, HIDDEN_PERSON, Sight
from gonfalon.accounts.names import names_of
from gonfalon.core.checks.runner import Result
from gonfalon.core.document.requests import RANGES
from gonfalon.core.sentences.lexicon import Lexicon
from gonfalon.core.sentences.writing import Part
from gonfalon.verify.expectations import in_parts
from gonfalon.verify.models import Expectation
from gonfalon.viewpoint.viewpoint import Viewpoint

Row = tuple[Expectation, Result]


class AgainstShape(serializers.Serializer):
    account = serializers.CharField(allow_null=True)
    name = serializers.CharField()
    node = serializers.CharField(allow_null=True)
    title = serializers.CharField(allow_null=True)
    reason = serializers.CharField()
    at = serializers.DateTimeField(allow_null=True, help_text="The moment, where it is asked at several.")


class PartShape(serializers.Serializer):
    """A piece of a sentence: a name, of a sort, or the words between."""

    text = serializers.CharField()
    sort = serializers.CharField()


class ExpectationShape(serializers.Serializer):
    id = serializers.CharField()
    question = serializers.DictField()
    expect = serializers.ChoiceField(choices=["allow", "deny"])
    note = serializers.CharField()
    group = serializers.CharField(allow_null=True)
    sentence = serializers.CharField()
    parts = PartShape(many=True)
    recorded_by = serializers.CharField(allow_null=True)
    recorded_at = serializers.DateTimeField()
    holds = serializers.BooleanField()
    asked = serializers.IntegerField(
        allow_null=True, help_text="How many questions it is; null where that tells of people or pages out of sight."
    )
    failed = serializers.IntegerField(allow_null=True)
    against = AgainstShape(allow_null=True)


def parts_data(parts: Iterable[Part]) -> list[dict[str, str]]:
    """The pieces of a sentence, as `PartShape` has them: without keys."""
    return [{"text": part.text, "sort": part.sort} for part in parts]


def may_count(question: Mapping[str, Any], viewpoint: Viewpoint) -> bool:
    """Whether how many questions an expectation is may be told: people to whoever sees the roster, pages to whoever
    sees all of them."""
    people = viewpoint.sight.roster or not question.keys() & set(RANGES)
    return people and (viewpoint.sees_all_nodes or "branch" not in question)


def expectations_data(rows: list[Row], viewpoint: Viewpoint, lexicon: Lexicon) -> list[dict[str, Any]]:
    """Expectations in words, and how they stand; without the ids of what is out of sight."""
    sight = viewpoint.sight
    people = names_of(row.recorded_by for row, _ in rows if row.recorded_by)
    return [
        {
            "id": row.id,
            "question": _as_seen(row.question, sight),
            "expect": row.expect,
            "note": row.note,
            "group": row.group_id,
            "sentence": "".join(part.text for part in parts),
            "parts": parts_data(parts),
            "recorded_by": people.get(row.recorded_by or "") if row.recorded_by in sight.people else None,
            "recorded_at": row.recorded_at,
            "holds": result.holds,
            "asked": result.asked if may_count(row.question, viewpoint) else None,
            "failed": result.failed if may_count(row.question, viewpoint) else None,
            "against": against_data(result, sight, lexicon),
        }
        for row, result in rows
        for parts in [in_parts(row, lexicon)]
    ]


def against_data(result: Result, sight: Sight, lexicon: Lexicon) -> dict[str, Any] | None:
    """The first answer that is not the expected one, as `AgainstShape` has it."""
    against = result.against
    if against is None:
        return None
    name = "A visitor"
    if isinstance(against.who, str):
        name = (lexicon.name("account", against.who) if against.who in sight.people else None) or HIDDEN_PERSON
    elif against.who is not None:
        name = "Whoever holds this"
    return {
        "account": against.who if isinstance(against.who, str) and against.who in sight.people else None,
        "name": f"{name[:1].upper()}{name[1:]}",
        "node": against.node if against.node in sight.nodes else None,
        "title": (lexicon.name("node", against.node) or HIDDEN_NODE) if against.node else None,
        "reason": str(against.reason),
        "at": against.at,
    }


def _as_seen(question: Mapping[str, Any], sight: Sight) -> dict[str, Any]:
    """A question without ids of pages and people that are out of sight."""

    def seen(key: str, value: Any) -> Any:
        if isinstance(value, Mapping):
            return {inner: seen(inner, of) for inner, of in value.items()}
        if isinstance(value, list):
            kept = [seen(key, one) for one in value]
            return [one for one in kept if one is not None]
        if key in ("account", "author") and value is not None:
            return value if value in sight.people else None
        if key in ("node", "branch", "branches") or (key == "to" and isinstance(value, str)):
            return value if value in sight.nodes else None
        return value

    return {key: seen(key, value) for key, value in question.items()}
