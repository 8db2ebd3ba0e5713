"""What is said about access on the page one works on: who can do what, what narrows it, and what one may say."""

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.guard import GuardedView, On, decide, may
from gonfalon.api.limit.limits import LimitShape, limits_data, staged_surveyor
from gonfalon.core import Question
from gonfalon.core.checks.who import active_accounts
from gonfalon.core.model.policy import OPEN_FIELD
from gonfalon.core.model.vocabulary import ACTIONS, LOCKS_OPEN


class ActionCountShape(serializers.Serializer):
    """How many accounts can do something here; counted for whoever sees the roster. Keyholders are not among them."""

    action = serializers.CharField()
    accounts = serializers.IntegerField(allow_null=True)


class RuledFieldShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()


class PageAccessShape(serializers.Serializer):
    """What is told about access beside a page. What one has staged counts as applied."""

    actions = ActionCountShape(many=True)
    fields_ruled = RuledFieldShape(many=True, help_text="The fields that not everybody may change who edits the page.")
    narrowed = LimitShape(many=True, help_text="The limits set here, and those further up that reach here.")
    may_limit = serializers.BooleanField()
    may_lock = serializers.BooleanField()


class PageAccessView(GuardedView):
    doors = {"get": On("see", desk=True)}

    @extend_schema(responses=PageAccessShape, operation_id="page_access")
    def get(self, request: Request, node: str) -> Response:
        """Who can do what with a page and what narrows it, to whoever sets limits; whether one may lock it. Nine
        queries."""
        here, target = self.viewpoint, self.place.target
        limits = may(here, "limits.set")
        lock = Question(here.subject, LOCKS_OPEN, target, here.at)
        told = {"actions": [], "fields_ruled": [], "narrowed": [], "may_limit": limits}
        if limits:
            survey, proposed = staged_surveyor(here)
            actions = [action for action in ACTIONS if action != "create"]
            counts: list[int | None] = [None] * len(actions)
            if here.sight.roster:
                allowed = survey.allowed(active_accounts(proposed), [node], actions, here.at)
                counts = allowed[:, 0].sum(axis=0).tolist()
            type = here.catalogue.type(target.type)
            above = set(target.path[:-1])
            every = {**here.snapshot.policy.limits, **proposed.limits}.values()
            narrowed = [k for k in every if k.node == node or (k.node in above and k.applies != "node")]
            told |= {
                "actions": [
                    {"action": action, "accounts": count} for action, count in zip(actions, counts, strict=True)
                ],
                "fields_ruled": [
                    {"key": f.key, "name": f.name}
                    for f in type.fields
                    if proposed.fields.get((type.key, f.key), OPEN_FIELD).mode != "open"
                ],
                "narrowed": limits_data(narrowed, here, proposed),
            }
        return Response({**told, "may_lock": decide(here, lock, trail=False).allow})
