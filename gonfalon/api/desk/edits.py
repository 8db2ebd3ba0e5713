"""What somebody would change on a page: read, and every part that changes asked of the rules."""

from dataclasses import asdict, dataclass
from typing import Any

from rest_framework import serializers

from gonfalon.access.markup import Markup
from gonfalon.access.words import REASON_WORDS, trail_data
from gonfalon.api.desk.page_data import PageAccess, usable_sets
from gonfalon.api.guard import ask, decide
from gonfalon.api.problems import Invalid, Refused
from gonfalon.content import page_parts
from gonfalon.content.models import Node, Topic
from gonfalon.content.page_input import BadInput, Writer, read_changes
from gonfalon.core import Question
from gonfalon.core.model.tree import Target
from gonfalon.inputs import Input
from gonfalon.viewpoint.asked import note_asked
from gonfalon.viewpoint.viewpoint import Viewpoint


class ComponentInput(Input):
    """A part of a page; one that is there already by its id."""

    id = serializers.CharField(required=False, allow_blank=True)
    kind = serializers.CharField()
    props = serializers.DictField(required=False)


class TopicsField(serializers.ListField):
    """Keys of topics that there are, each once."""

    child = serializers.CharField()

    def to_internal_value(self, data: Any) -> list[str]:
        keys = sorted(set(super().to_internal_value(data)))
        known = set(Topic.objects.filter(pk__in=keys).values_list("pk", flat=True))
        if unknown := [key for key in keys if key not in known]:
            raise serializers.ValidationError(f"There is no topic “{unknown[0]}”.")
        return keys


class PageInput(Input):
    title = serializers.CharField(required=False, allow_blank=True)
    values = serializers.DictField(required=False)
    components = serializers.ListField(child=ComponentInput(), required=False)
    topics = TopicsField(required=False)


class SaveInput(PageInput):
    sitting = serializers.BooleanField(
        default=False,
        help_text="Whether it is saved by itself as somebody goes on: such saves make one version and one entry.",
    )


@dataclass(frozen=True, slots=True)
class Edits:
    """A page as it would be, and what cleaning took off the texts that were sent."""

    new: dict[str, Any]
    taken_off: list[str]
    sitting: bool


def read_edits(viewpoint: Viewpoint, row: Node, target: Target, sent: Any) -> Edits:
    """What is sent of a page, with every part that would change asked of the rules (§5).

    Raises Invalid for what cannot be read, Refused for a part that whoever asks may not change.
    """
    given = SaveInput(data=sent)
    given.is_valid(raise_exception=True)
    data = given.validated_data
    access = PageAccess(viewpoint, target)
    usable = [Markup.of(markup) for markup in usable_sets(access)]
    writer = Writer(viewpoint.catalogue, usable, access.finds)
    try:
        new = read_changes(row, data, writer)
    except BadInput as bad:
        raise Invalid(bad.errors) from None
    if (about := data.get("topics", row.topics)) != row.topics:
        ask(viewpoint, "edit", target, topics=frozenset(about))
        new["topics"] = about
    hidden = [key for key in data.get("values", ()) if not access.may("see-field", field=key)]
    catalogue = viewpoint.catalogue
    changed = page_parts.touched(row, new, access.may_arrange, catalogue)
    for part in (*page_parts.named(data, hidden, catalogue), *changed):
        _ask_for_part(viewpoint, part, target)
    return Edits(new, sorted(writer.taken_off), data["sitting"])


def _ask_for_part(viewpoint: Viewpoint, part: page_parts.Part, target: Target) -> None:
    """Raise Refused, naming the part in its own words, unless whoever asks may change it."""
    question = Question(viewpoint.subject, target=target, at=viewpoint.at, **asdict(part))
    answer = decide(viewpoint, question)
    note_asked(viewpoint, question, answer)
    if not answer.allow:
        why = f"You may not {part.words(target.type, viewpoint.catalogue)}. {REASON_WORDS[answer.reason]}"
        raise Refused(str(answer.reason), why, trail_data(answer))
