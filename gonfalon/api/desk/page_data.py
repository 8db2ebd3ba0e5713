"""A page as one may read and edit it: with only what its reader may see, and what they may do to it."""

from typing import Any

from rest_framework import serializers

from gonfalon.access.catalogue import Field, type_named
from gonfalon.access.markup import PREFIX
from gonfalon.access.models import MarkupSet
from gonfalon.accounts.models import Account
from gonfalon.api.guard import decide
from gonfalon.content.models import Node
from gonfalon.content.nodes import as_target
from gonfalon.core import Question
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import ACTIONS
from gonfalon.verify.presence import Presence


class PageFieldShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    kind = serializers.CharField()
    choices = serializers.ListField(child=serializers.CharField())
    value = serializers.JSONField(allow_null=True)
    shown = serializers.CharField(allow_null=True)
    may_change = serializers.BooleanField()


class PageComponentShape(serializers.Serializer):
    id = serializers.CharField()
    kind = serializers.CharField()
    props = serializers.DictField()
    facets = serializers.DictField(child=serializers.BooleanField())
    hidden = serializers.ListField(child=serializers.CharField())
    off = serializers.BooleanField()
    locked = serializers.BooleanField()


class PageShape(serializers.Serializer):
    id = serializers.CharField()
    type = serializers.CharField()
    tree = serializers.CharField()
    title = serializers.CharField()
    state = serializers.CharField()
    site = serializers.CharField()
    address = serializers.CharField()
    author = serializers.CharField(allow_null=True)
    version = serializers.IntegerField()
    saved_at = serializers.DateTimeField()
    saved_by = serializers.CharField(allow_null=True)
    above = serializers.ListField(child=serializers.CharField())
    locked = serializers.BooleanField()
    may = serializers.ListField(child=serializers.CharField())
    fields_ = PageFieldShape(many=True, source="fields")
    components = PageComponentShape(many=True)
    insertable = serializers.ListField(child=serializers.CharField())
    markup = serializers.ListField(child=serializers.CharField())
    may_edit_listing = serializers.BooleanField()
    may_edit_site_listing = serializers.BooleanField()
    taken_off = serializers.ListField(child=serializers.CharField(), required=False)

    def get_fields(self) -> dict:
        fields = super().get_fields()
        fields["fields"] = fields.pop("fields_")
        fields["fields"].source = None
        return fields


class PageAccess:
    """Asks about one page for whoever looks at it. In memory: no query."""

    def __init__(self, presence: Presence, target: Target) -> None:
        self.presence, self.target = presence, target

    def may(self, action: str, **part: Any) -> bool:
        question = Question(self.presence.who, action, self.target, self.presence.at, **part)
        return decide(self.presence, question, trail=False).allow


def page_data(presence: Presence, node: Node, above: list[Node]) -> dict[str, Any]:
    """A page with only what its reader may see of it, and what they may do to it."""
    target = as_target(node, above)
    access = PageAccess(presence, target)
    locks = [k for k in presence.snapshot.policy.locks.values() if k.node == node.id]
    fields = [f for f in type_named(node.type).fields if access.may("see-field", field=f.key)]
    pictures = _seen_titles(presence, node, fields)
    names = dict(Account.objects.filter(pk__in=[node.author_id, node.saved_by_id]).values_list("id", "name"))
    may_edit = access.may("edit")
    return {
        "id": node.id,
        "type": node.type,
        "tree": type_named(node.type).tree,
        "title": node.title,
        "state": node.state,
        "site": node.site_id,
        "address": node.address,
        "author": names.get(node.author_id or ""),
        "version": node.version,
        "saved_at": node.saved_at,
        "saved_by": names.get(node.saved_by_id or ""),
        "above": [n.title for n in above],
        "locked": any(k.field is None and k.component is None for k in locks),
        "may": [action for action in ACTIONS if action != "create" and access.may(action)],
        "fields": [
            {
                "key": f.key,
                "name": f.name,
                "kind": f.kind,
                "choices": f.choices,
                "value": node.values.get(f.key),
                "shown": pictures.get(node.values.get(f.key)),
                "may_change": may_edit and access.may("change-field", field=f.key),
            }
            for f in fields
        ],
        "components": [
            _component(access, c, may_edit, any(k.component == c["id"] for k in locks)) for c in node.components
        ],
        "insertable": [
            key
            for key in presence.snapshot.catalogue.components
            if may_edit and access.may("insert-component", component=key)
        ],
        "markup": [row.name for row in usable_sets(access)] if may_edit else [],
        "may_edit_listing": access.may("listing.edit"),
        "may_edit_site_listing": not above and _may_on_site(presence, "listing.settings", node.site_id),
    }


def _may_on_site(presence: Presence, capability: str, site: str) -> bool:
    return decide(presence, Question(presence.who, capability, at=presence.at, site=site), trail=False).allow


def usable_sets(access: PageAccess) -> list[MarkupSet]:
    """The markup sets that whoever asks may use on a page. No query."""
    return [row for row in access.presence.snapshot.words.sets if access.may(PREFIX + row.key)]


def _component(access: PageAccess, component: dict[str, Any], may_edit: bool, locked: bool) -> dict[str, Any]:
    """A component without what its reader may not see; one whose extension is off comes without anything."""
    kind = access.presence.snapshot.catalogue.components.get(component["kind"])
    properties = kind.properties if kind else {}
    hidden = [key for key, p in properties.items() if p.needs and not access.may(p.needs)]
    part = {"component": component["kind"], "component_id": component["id"]}
    return {
        "id": component["id"],
        "kind": component["kind"],
        "props": {key: value for key, value in component["props"].items() if key in properties and key not in hidden},
        "facets": {
            facet: may_edit and access.may("change-facet", facet=facet, **part)
            for facet in (kind.facets if kind else ())
        },
        "hidden": hidden,
        "off": kind is None,
        "locked": locked,
    }


def _seen_titles(presence: Presence, node: Node, fields: list[Field]) -> dict[Any, str]:
    """Titles of what reference and picture fields name, those that may be seen. One query for all."""
    named = {node.values.get(f.key) for f in fields if f.kind in ("reference", "picture")} - {None}
    if not named:
        return {}
    nodes = presence.nodes
    known = [id for id in named if id in nodes.tree]
    see = presence.survey.allowed([presence.who], known, ["see"], presence.at)[0, :, 0]
    return {id: nodes.titles[id] for id, seen in zip(known, see, strict=True) if seen}
