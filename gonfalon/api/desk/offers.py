"""What the desk offers whoever asks: where they may work and make something, and which of its lists hold anything."""

from collections.abc import Iterator
from typing import Any, NamedTuple

import numpy as np
from drf_spectacular.utils import extend_schema
from numpy.typing import NDArray
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from gonfalon.access.catalogue import ContentType
from gonfalon.api.desk.bin import any_in_bin
from gonfalon.api.desk.waiting import waiting
from gonfalon.api.guard import GuardedView, May
from gonfalon.viewpoint.viewpoint import Viewpoint

MOST_TOLD = 6


class WorkShape(serializers.Serializer):
    """A branch where one may edit or make something, while nothing above it is such."""

    id = serializers.CharField()
    title = serializers.CharField()
    tree = serializers.CharField()
    edits = serializers.IntegerField(help_text="How many pages and media on the branch one may edit.")
    makes = serializers.ListField(child=serializers.CharField(), help_text="Kinds one may make there, by plural.")


class OffersShape(serializers.Serializer):
    work = WorkShape(many=True)
    work_in_all = serializers.IntegerField()
    make_under = serializers.DictField(
        child=serializers.CharField(), help_text="By tree the first page under which one may make something."
    )
    waiting = serializers.BooleanField(help_text="Whether anything waits that one may publish.")
    bin = serializers.BooleanField(help_text="Whether the bin holds anything that one may bring back or empty.")


class OffersView(GuardedView):
    doors = {"get": May("desk.open")}

    @extend_schema(responses=OffersShape, operation_id="desk_offers")
    def get(self, request: Request) -> Response:
        """Six queries, however much there is; the trees are asked as a whole."""
        viewpoint = self.viewpoint
        masks = Masks.of(viewpoint)
        tops = sorted(masks.tops(viewpoint), key=lambda top: viewpoint.nodes.tree.nodes[top].tree)  # content first
        return Response(
            {
                "work": [masks.told(viewpoint, top) for top in tops[:MOST_TOLD]],
                "work_in_all": len(tops),
                "make_under": masks.make_under(viewpoint),
                "waiting": bool(waiting(viewpoint)),
                "bin": any_in_bin(viewpoint),
            }
        )


class Masks(NamedTuple):
    """Of every node in the order of the tree: whether one may edit it or its working copy, and make each kind under
    it."""

    edits: NDArray[np.bool_]
    makes: NDArray[np.bool_]
    kinds: list[ContentType]

    @classmethod
    def of(cls, viewpoint: Viewpoint) -> "Masks":
        """Only what is in sight on the desk counts, and kinds where they fit."""
        tree, seen = viewpoint.nodes.tree, viewpoint.on_desk.whole
        kinds = [kind for kind in viewpoint.catalogue.types.values() if not kind.retired and kind.under]
        actions = ["edit", *(f"create:{kind.key}" for kind in kinds)]
        may = viewpoint.survey.allowed([viewpoint.subject], None, actions, viewpoint.at)[0]
        on_copy = viewpoint.engine.copies.allowed([viewpoint.subject], None, ["see", "edit"], viewpoint.at)[0]
        types = np.array([node.type for node in tree.nodes], dtype=object)
        trees = np.array([node.tree for node in tree.nodes], dtype=object)
        fits = [np.isin(types, list(kind.under)) & (trees == kind.tree) for kind in kinds]
        makes = may[:, 1:] & (np.stack(fits, axis=1) if fits else np.zeros((len(seen), 0), dtype=bool))
        edits = may[:, 0] | on_copy.all(axis=1)
        return cls(edits & seen, makes & seen[:, None], kinds)

    def tops(self, viewpoint: Viewpoint) -> Iterator[int]:
        """Positions where something may be done while nothing may above."""
        end = 0
        for i in np.flatnonzero(self.edits | self.makes.any(axis=1)).tolist():
            if i >= end:
                yield i
                end = int(viewpoint.nodes.tree.ends[i])

    def told(self, viewpoint: Viewpoint, top: int) -> dict[str, Any]:
        tree = viewpoint.nodes.tree
        branch = slice(top, int(tree.ends[top]))
        return {
            "id": tree.nodes[top].id,
            "title": viewpoint.nodes.titles[tree.nodes[top].id],
            "tree": tree.nodes[top].tree,
            "edits": int(self.edits[branch].sum()),
            "makes": [kind.plural for k, kind in enumerate(self.kinds) if self.makes[branch, k].any()],
        }

    def make_under(self, viewpoint: Viewpoint) -> dict[str, str]:
        first: dict[str, str] = {}
        for i in np.flatnonzero(self.makes.any(axis=1)).tolist():
            node = viewpoint.nodes.tree.nodes[i]
            first.setdefault(node.tree, node.id)
        return first
