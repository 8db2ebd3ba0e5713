"""Where: the branches in which an account can do something, and the branches there are to choose from."""

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.api.guard import GuardedView, May
from gonfalon.api.limit.limits import staged_surveyor
from gonfalon.api.paging import PAGED, paged
from gonfalon.api.problems import NotFound
from gonfalon.core.model.vocabulary import ACTIONS

ON_PAGES = tuple(action for action in ACTIONS if action != "create")


class BranchSumShape(serializers.Serializer):
    """One branch: how many nodes, and on how many of them the account can do each action; all of what is in sight."""

    id = serializers.CharField()
    title = serializers.CharField()
    above = serializers.CharField()
    nodes = serializers.IntegerField()
    edits = serializers.IntegerField()
    publishes = serializers.IntegerField()
    counts = serializers.DictField(child=serializers.IntegerField(), help_text="How many, by action.")


class WhereView(GuardedView):
    doors = {"get": May("roster.see")}

    @extend_schema(responses=BranchSumShape(many=True), operation_id="where", parameters=PAGED)
    def get(self, request: Request, account: str) -> Response:
        """The branches just under the roots, those where the account can do more than see."""
        survey, proposed = staged_surveyor(self.viewpoint)
        if account not in proposed.accounts:
            raise NotFound("account")
        nodes = self.viewpoint.nodes
        sight = self.viewpoint.in_sight
        may = survey.allowed([account], None, ON_PAGES, self.viewpoint.at)[0] & sight.whole[:, None]
        may &= may[:, [ON_PAGES.index("see")]]  # nobody comes to what they do not see
        roots = {n.id for n in nodes.tree.nodes if n.parent is None}
        branches = []
        for node in nodes.tree.nodes:
            if node.id not in sight.named or node.parent not in roots:
                continue
            branch = nodes.tree.branch(node.id)
            part = may[branch]
            counts = dict(zip(ON_PAGES, (int(n) for n in part.sum(axis=0)), strict=True))
            if any(n for action, n in counts.items() if action != "see"):
                branches.append(
                    {
                        "id": node.id,
                        "title": nodes.titles[node.id],
                        "above": nodes.titles[node.parent],
                        "nodes": int(sight.whole[branch].sum()),
                        "edits": counts["edit"],
                        "publishes": counts["publish"],
                        "counts": counts,
                    }
                )
        return paged(request, branches)
