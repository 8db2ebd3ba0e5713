"""What one page shows to whom: its fields and the parts it may have, for several at once, side by side."""

from typing import Any

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.change_sets import staged_policy
from gonfalon.access.describe import Names, capital
from gonfalon.api.guard import GuardedView, May
from gonfalon.api.limit.tree import subject_named
from gonfalon.api.problems import Invalid, NotFound
from gonfalon.core import Question
from gonfalon.core.engine import Engine
from gonfalon.core.model.question import Who
from gonfalon.core.model.tree import Target

MOST = 6


class AnswerShape(serializers.Serializer):
    see = serializers.BooleanField()
    change = serializers.BooleanField()


class ShownFieldShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    answers = AnswerShape(many=True)


class PageShownShape(serializers.Serializer):
    """What a page shows to each of some: the page itself, then field by field, in the order they were named."""

    title = serializers.CharField()
    who = serializers.ListField(child=serializers.CharField())
    page = AnswerShape(many=True)
    fields_shown = ShownFieldShape(many=True)


class ShownView(GuardedView):
    doors = {"get": May("limits.set")}

    @extend_schema(
        responses=PageShownShape,
        operation_id="shown",
        parameters=[
            OpenApiParameter("node", str),
            OpenApiParameter(
                "who", str, many=True, description="`role KEY`, `group KEY`, `account ID` or `visitor`; at most MOST."
            ),
        ],
    )
    def get(self, request: Request) -> Response:
        """Under what one has staged. Two queries."""
        here, asked = self.viewpoint, request.query_params.getlist("who")
        node = request.query_params.get("node", "")
        if node not in here.sight.nodes or node not in here.nodes.tree:
            raise NotFound
        if not asked or len(asked) > MOST:
            raise Invalid({"/who": f"Name one to {MOST}."})
        proposed = staged_policy(here.account or "", here.snapshot.policy)
        engine = here.engine if proposed is here.engine.policy else here.engine.changed(proposed)
        everybody = [subject_named(words, proposed, here.sight) for words in asked]
        target = engine.tree.target(node)
        type = here.catalogue.type(target.type)
        names = Names([{"who": [words.partition(" ")[2] for words in asked]}], here.sight, here.catalogue)
        return Response(
            {
                "title": here.nodes.titles[node],
                "who": [capital(_called(words, names)) for words in asked],
                "page": [self._answer(engine, who, target, "see", "edit") for who in everybody],
                "fields_shown": [
                    {
                        "key": f.key,
                        "name": f.name,
                        "answers": [
                            self._answer(engine, who, target, "see-field", "change-field", field=f.key)
                            for who in everybody
                        ],
                    }
                    for f in type.fields
                ],
            }
        )

    def _answer(self, engine: Engine, who: Who, target: Target, see: str, change: str, **part: Any) -> dict[str, bool]:
        def may(action: str) -> bool:
            return engine.decide(Question(who, action, target, self.viewpoint.at, **part)).allow

        return {"see": may(see), "change": may(change)}


def _called(words: str, names: Names) -> str:
    kind, _, id = words.partition(" ")
    return "a visitor" if kind == "visitor" else names.subject({"kind": kind, "id": id})
