"""Define: every capability, kind of content and component in use here, in words, and which of them are new."""

from dataclasses import asdict

from drf_spectacular.utils import OpenApiResponse, extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import PROPERTY_KINDS, SHAPES, VERB_WORDS, VERBS_IN_WORDS
from gonfalon.access.models import KnownCapability
from gonfalon.access.words import REASON_SHORT, REASON_WORDS, SENTENCES
from gonfalon.api.guard import GuardedView, May, SignedIn, may
from gonfalon.api.problems import Invalid
from gonfalon.api.shapes import WithFields
from gonfalon.core.model.vocabulary import ACTIONS, Reason
from gonfalon.inputs import Input
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import POLICY

SAYING = (
    "roles.define",
    "kinds.define",
    "roles.assign",
    "roster.see",
    "limits.set",
    "impersonate.start",
    "expectations.keep",
    "site.settings",
)
"""The duties of those who say something about access or kinds, or look at what is said."""


class FieldShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    kind = serializers.CharField()
    choices = serializers.ListField(child=serializers.CharField())
    help = serializers.CharField(allow_blank=True)
    required = serializers.BooleanField()


class TypeShape(WithFields):
    key = serializers.CharField()
    name = serializers.CharField()
    plural = serializers.CharField()
    tree = serializers.CharField(allow_null=True)
    fields_ = FieldShape(many=True, source="fields")


class VerbShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    phrase = serializers.CharField()
    which = serializers.CharField(help_text="The end of the phrase where it says which pages: published, unpublished.")


class DutyShape(serializers.Serializer):
    key = serializers.CharField()
    kind = serializers.CharField()
    name = serializers.CharField()
    phrase = serializers.CharField()
    area = serializers.CharField()
    risk = serializers.CharField()


class ChoiceShape(serializers.Serializer):
    """What a property may be: a text or a number, and how it reads."""

    value = serializers.JSONField()
    name = serializers.CharField()


class PropertyShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    facet = serializers.CharField()
    kind = serializers.ChoiceField(choices=PROPERTY_KINDS)
    choices = ChoiceShape(many=True)


class DrawnShape(serializers.Serializer):
    """A shape that is drawn of a component. `filled` is from what the shape can be filled with to a property."""

    shape = serializers.ChoiceField(choices=list(SHAPES))
    filled = serializers.DictField(child=serializers.CharField())
    main = serializers.CharField(help_text="The property without which there is nothing to draw.")
    label = serializers.CharField()
    heads = serializers.ListField(child=serializers.CharField())
    numbered = serializers.BooleanField()


class ComponentShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    properties = PropertyShape(many=True)
    drawn = DrawnShape(many=True)
    facets = serializers.ListField(child=serializers.CharField())


class ActionShape(serializers.Serializer):
    """An action on pages: the head of a column, and how it reads after "may"."""

    key = serializers.CharField()
    name = serializers.CharField()
    phrase = serializers.CharField()


class ReasonShape(serializers.Serializer):
    """Why an answer is what it is: a few words for a list, and a sentence."""

    short = serializers.CharField()
    sentence = serializers.CharField()


class CatalogueShape(serializers.Serializer):
    types = TypeShape(many=True)
    verbs = VerbShape(many=True)
    duties = DutyShape(many=True)
    components = ComponentShape(many=True)
    actions = ActionShape(many=True)
    reasons = serializers.DictField(child=ReasonShape())
    sentences = serializers.DictField(
        child=serializers.ListField(child=serializers.CharField(), min_length=3, max_length=3),
        help_text="How a cell reads by the form of its outcome, in three parts; the middle one is what counts.",
    )
    new = serializers.ListField(child=serializers.CharField())


class LookedAtInput(Input):
    capabilities = serializers.ListField(child=serializers.CharField(), allow_empty=False, max_length=2000)


class CatalogueView(GuardedView):
    doors = {"get": SignedIn()}

    @extend_schema(responses=CatalogueShape, operation_id="catalogue")
    def get(self, request: Request) -> Response:
        """What there is to say something about. `new` names capabilities that nobody has looked at. Three queries.

        All of it for whoever says something about access or kinds; for others at the desk the names of the kinds that
        they see or are given something of, and components.
        """
        viewpoint, catalogue = self.viewpoint, self.viewpoint.snapshot.catalogue
        whole, desk = any(may(viewpoint, duty) for duty in SAYING), may(viewpoint, "desk.open")
        names = catalogue.types.keys() if whole else _kinds_known(viewpoint) if desk else frozenset()
        known = set(KnownCapability.objects.values_list("key", flat=True)) if whole else set()
        return Response(
            {
                "types": [
                    {
                        "key": t.key,
                        "name": t.name,
                        "plural": t.plural,
                        "tree": t.tree,
                        "fields": [
                            {
                                "key": f.key,
                                "name": f.name,
                                "kind": f.kind,
                                "choices": f.choices,
                                "help": f.help,
                                "required": f.required,
                            }
                            for f in t.fields
                            if whole
                        ],
                    }
                    for t in catalogue.types.values()
                    if t.key in names
                ],
                "verbs": [{"key": v.key, "name": v.name, "phrase": v.phrase, "which": v.which} for v in VERBS_IN_WORDS],
                "duties": [
                    {
                        "key": d.key,
                        "kind": d.kind,
                        "name": d.name,
                        "phrase": d.phrase,
                        "area": d.area,
                        "risk": d.risk,
                    }
                    for d in catalogue.duties.values()
                    if whole
                ],
                "components": [
                    {
                        "key": c.key,
                        "name": c.name,
                        "properties": [
                            {
                                "key": key,
                                "name": p.name,
                                "facet": p.facet,
                                "kind": p.kind,
                                "choices": [{"value": c.value, "name": c.name} for c in p.choices],
                            }
                            for key, p in c.properties.items()
                        ],
                        "drawn": [asdict(drawn) | {"main": drawn.main} for drawn in c.drawn],
                        "facets": c.facets,
                    }
                    for c in catalogue.components.values()
                    if whole or desk
                ],
                "actions": [{"key": key, "name": VERB_WORDS[key][0], "phrase": VERB_WORDS[key][1]} for key in ACTIONS],
                "reasons": {
                    reason: {"short": REASON_SHORT[reason], "sentence": REASON_WORDS[reason]} for reason in Reason
                },
                "sentences": SENTENCES,
                "new": [key for key in catalogue.capabilities() if whole and key not in known],
            }
        )


def _kinds_known(viewpoint: Viewpoint) -> set[str]:
    """The kinds of pages in sight, and those of which anything is given."""
    seen = viewpoint.in_sight.whole
    kinds = {node.type for node, here in zip(viewpoint.nodes.tree.nodes, seen.tolist(), strict=True) if here}
    sources = viewpoint.engine.grants.of(viewpoint.subject, viewpoint.at).sources
    return kinds | {key.partition(".")[0] for source in sources for key in source.statements}


class LookedAtView(GuardedView):
    doors = {"post": May("roles.define")}
    locks = {"post": (POLICY.shared,)}

    @extend_schema(request=LookedAtInput, responses={204: OpenApiResponse()}, operation_id="look_at")
    def post(self, request: Request) -> Response:
        """These capabilities have been looked at: they are not new any more."""
        given = LookedAtInput(data=request.data)
        given.is_valid(raise_exception=True)
        there = set(self.viewpoint.snapshot.catalogue.capabilities())
        for i, key in enumerate(given.validated_data["capabilities"]):
            if key not in there:
                raise Invalid({f"/capabilities/{i}": f"There is no capability “{key}”."})
        rows = [KnownCapability(key=key) for key in given.validated_data["capabilities"]]
        KnownCapability.objects.bulk_create(rows, ignore_conflicts=True)
        return Response(status=204)
