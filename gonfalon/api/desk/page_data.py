"""A page as one may read and edit it: with only what its reader may see, and what they may do to it."""

from typing import Any

from rest_framework import serializers

from gonfalon.access.catalogue import MARKUP_PREFIX, NAMING_KINDS, Component, Field
from gonfalon.access.models import MarkupSet
from gonfalon.access.sight import HIDDEN_NODE
from gonfalon.accounts.models import Account
from gonfalon.api.desk.handing_on import may_hand_on
from gonfalon.api.desk.locks import LockShape, told_locks
from gonfalon.api.guard import decide, may
from gonfalon.api.shapes import WithFields
from gonfalon.content.models import Node, WorkingCopy
from gonfalon.content.nodes import as_target
from gonfalon.core import Question
from gonfalon.core.model.tree import Target
from gonfalon.core.model.vocabulary import ACTIONS, SECTION_OF_DUTY
from gonfalon.viewpoint.asked import note_asked
from gonfalon.viewpoint.viewpoint import Viewpoint


class PageFieldShape(serializers.Serializer):
    key = serializers.CharField()
    name = serializers.CharField()
    kind = serializers.CharField()
    choices = serializers.ListField(child=serializers.CharField())
    help = serializers.CharField(allow_blank=True)
    required = serializers.BooleanField()
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
    may_arrange = serializers.BooleanField()


class InsertableShape(serializers.Serializer):
    """A component that may be put in, and which of its facets may then be changed."""

    kind = serializers.CharField()
    facets = serializers.DictField(child=serializers.BooleanField())


class WorkingCopyShape(serializers.Serializer):
    """The working copy beside a public page, for whoever may see it."""

    begun = serializers.BooleanField(help_text="Whether there is one; else saving begins it.")
    state = serializers.CharField()
    saved_at = serializers.DateTimeField(allow_null=True)
    saved_by = serializers.CharField(allow_null=True)
    may_edit = serializers.BooleanField()


class PageShape(WithFields):
    id = serializers.CharField()
    type = serializers.CharField()
    tree = serializers.CharField()
    title = serializers.CharField()
    state = serializers.CharField()
    note = serializers.CharField(allow_blank=True, help_text="What was said when it was returned.")
    site = serializers.CharField()
    parent = serializers.CharField(allow_null=True)
    topics = serializers.ListField(child=serializers.CharField())
    address = serializers.CharField()
    author = serializers.CharField(allow_null=True)
    author_id = serializers.CharField(allow_null=True, help_text="The account, where one knows of it.")
    version = serializers.IntegerField()
    tag = serializers.CharField(help_text="What to send as If-Match, in quotation marks.")
    working = serializers.BooleanField(help_text="Whether this is the working copy of the page.")
    public_changed = serializers.BooleanField(
        help_text="Whether the public page was changed since its working copy was begun."
    )
    beside = WorkingCopyShape(allow_null=True, help_text="Of what is public: its working copy.")
    saved_at = serializers.DateTimeField()
    saved_by = serializers.CharField(allow_null=True)
    above = serializers.ListField(child=serializers.CharField())
    locked = serializers.BooleanField()
    locks = LockShape(many=True, help_text="Of the page, of its fields and of its components.")
    may = serializers.ListField(child=serializers.CharField())
    fields_ = PageFieldShape(many=True, source="fields")
    components = PageComponentShape(many=True)
    insertable = InsertableShape(many=True)
    markup = serializers.ListField(child=serializers.CharField())
    may_hand_on = serializers.BooleanField(help_text="Whether somebody else may be made its author.")
    may_edit_listing = serializers.BooleanField()
    may_edit_site_listing = serializers.BooleanField()
    taken_off = serializers.ListField(child=serializers.CharField(), required=False)


class PageAccess:
    """Asks about one page for whoever looks at it. In memory: no query."""

    def __init__(self, viewpoint: Viewpoint, target: Target) -> None:
        self.viewpoint, self.target = viewpoint, target

    def may(self, action: str, **part: Any) -> bool:
        question = Question(self.viewpoint.subject, action, self.target, self.viewpoint.at, **part)
        return decide(self.viewpoint, question, trail=False).allow

    def shows(self, field: str) -> bool:
        """Whether a field is told, which is noted: it is what reading a page asks."""
        question = Question(self.viewpoint.subject, "see-field", self.target, self.viewpoint.at, field=field)
        answer = decide(self.viewpoint, question)
        note_asked(self.viewpoint, question, answer)
        return answer.allow

    def may_arrange(self, component: dict[str, Any]) -> bool:
        """Whether a component that is there may be taken out or put elsewhere."""
        return self.may("arrange-component", component=component["kind"], component_id=component["id"])

    def facets(self, kind: Component, id: str | None = None) -> dict[str, bool]:
        """Which facets of a component may be changed: of one that is there, or of one about to be put in."""
        part = {"component": kind.key, "component_id": id}
        return {facet: self.may("change-facet", facet=facet, **part) for facet in kind.facets}

    def finds(self, kind: str, id: str) -> bool:
        """Whether a field of a kind, picture or reference, may name a node: it is there, and seen."""
        tree = self.viewpoint.nodes.tree
        if id not in tree:
            return False
        target = tree.target(id)
        fits = target.tree == "content" if kind == "reference" else target.type == kind
        question = Question(self.viewpoint.subject, "see", target, self.viewpoint.at)
        return fits and decide(self.viewpoint, question, trail=False).allow


def page_data(viewpoint: Viewpoint, node: Node, above: list[Node], target: Target | None = None) -> dict[str, Any]:
    """A page with only what its reader may see of it, and what they may do to it; asked as `target` if given."""
    target = target or as_target(node, above)
    access = PageAccess(viewpoint, target)
    locks = [k for k in viewpoint.snapshot.policy.locks.values() if k.node == node.id]
    fields = [f for f in viewpoint.catalogue.type(node.type).fields if access.shows(f.key)]
    named = _named_nodes(viewpoint, node, fields)
    names = dict(Account.objects.filter(pk__in=[node.author_id, node.saved_by_id]).values_list("id", "name"))
    may_edit = access.may("edit")
    return {
        "id": node.id,
        "type": node.type,
        "tree": viewpoint.catalogue.type(node.type).tree,
        "title": node.title,
        "state": node.state,
        "note": node.note,
        "site": node.site_id,
        "parent": above[-1].id if above else None,
        "topics": node.topics,
        "address": node.address,
        "author": names.get(node.author_id or ""),
        "author_id": node.author_id if node.author_id in viewpoint.sight.people else None,
        "version": node.version,
        "tag": str(node.version),
        "working": False,
        "public_changed": False,
        "beside": _beside(viewpoint, node, target),
        "saved_at": node.saved_at,
        "saved_by": names.get(node.saved_by_id or ""),
        "above": [n.title for n in above],
        "locked": any(k.field is None and k.component is None for k in locks),
        "locks": [told for told in told_locks(locks, viewpoint) if told["field"] in {None, *(f.key for f in fields)}],
        "may": [action for action in ACTIONS if action != "create" and access.may(action)],
        "fields": [
            {
                "key": f.key,
                "name": f.name,
                "kind": f.kind,
                "choices": f.choices,
                "help": f.help,
                "required": f.required,
                **_shown(node.values.get(f.key), f.kind, named),
                "may_change": may_edit and access.may("change-field", field=f.key),
            }
            for f in fields
        ],
        "components": [
            _component(access, c, may_edit, named, any(k.component == c["id"] for k in locks)) for c in node.components
        ],
        "insertable": [
            {"kind": key, "facets": access.facets(component)}
            for key, component in viewpoint.catalogue.components.items()
            if may_edit and viewpoint.catalogue.takes(node.type, key) and access.may("insert-component", component=key)
        ],
        "markup": [row.name for row in usable_sets(access)] if may_edit else [],
        "may_hand_on": viewpoint.sees_roster and may_hand_on(viewpoint, target),
        "may_edit_listing": access.may("listing.edit"),
        "may_edit_site_listing": not above
        and may(viewpoint, SECTION_OF_DUTY["listing.settings"])
        and _may_on_site(viewpoint, "listing.settings", node.site_id),
    }


def _beside(viewpoint: Viewpoint, node: Node, target: Target) -> dict[str, Any] | None:
    """What is told of the working copy of a public page, to whoever sees it. One query."""
    access = PageAccess(viewpoint, target.working_copy())
    if target.state != Node.State.PUBLISHED or not access.may("see"):
        return None
    copy = WorkingCopy.objects.select_related("writer").filter(node=node.id).first()
    return {
        "begun": copy is not None,
        "state": copy.state if copy else WorkingCopy.State.DRAFT,
        "saved_at": copy.saved_at if copy else None,
        "saved_by": copy.writer.name if copy and copy.writer else None,
        "may_edit": access.may("edit"),
    }


def _may_on_site(viewpoint: Viewpoint, capability: str, site: str) -> bool:
    return decide(viewpoint, Question(viewpoint.subject, capability, at=viewpoint.at, site=site), trail=False).allow


def usable_sets(access: PageAccess) -> list[MarkupSet]:
    """The markup sets that whoever asks may use on a page. No query."""
    return [row for row in access.viewpoint.snapshot.words.sets if access.may(MARKUP_PREFIX + row.key)]


def _component(
    access: PageAccess, component: dict[str, Any], may_edit: bool, named: dict[str, str], locked: bool
) -> dict[str, Any]:
    """A component without what its reader may not see; one whose extension is off comes without anything."""
    kind = access.viewpoint.catalogue.components.get(component["kind"])
    properties = kind.properties if kind else {}
    hidden = [key for key, p in properties.items() if p.needs and not access.may(p.needs)]
    facets: dict[str, bool] = {}
    if kind is not None:
        facets = access.facets(kind, component["id"]) if may_edit else dict.fromkeys(kind.facets, False)
    shown = {key: value for key, value in component["props"].items() if key in properties and key not in hidden}
    return {
        "id": component["id"],
        "kind": component["kind"],
        "props": {k: v for k, v in shown.items() if properties[k].kind != "picture" or not v or v in named},
        "facets": facets,
        "hidden": hidden,
        "off": kind is None,
        "locked": locked,
        "may_arrange": may_edit and access.may_arrange(component),
    }


def _shown(value: Any, kind: str, named: dict[str, str]) -> dict[str, Any]:
    """The value of a field, and how it reads where it names a node: of one out of sight, not even its id."""
    if kind not in NAMING_KINDS or value is None:
        return {"value": value, "shown": None}
    return {"value": value, "shown": named[value]} if value in named else {"value": None, "shown": HIDDEN_NODE}


def _named_nodes(viewpoint: Viewpoint, node: Node, fields: list[Field]) -> dict[str, str]:
    """Titles of what the page names, in its fields and components, of what may be seen."""
    catalogue = viewpoint.catalogue.components
    pictures = [
        (c["kind"], key, value) for c in node.components for key, value in c["props"].items() if isinstance(value, str)
    ]
    named = {node.values.get(f.key) for f in fields if f.kind in NAMING_KINDS}
    named |= {
        value
        for kind, key, value in pictures
        if kind in catalogue and key in catalogue[kind].properties and catalogue[kind].properties[key].kind == "picture"
    }
    known = sorted(id for id in named - {None} if id in viewpoint.nodes.tree) if named - {None} else []
    if not known:
        return {}
    see = viewpoint.survey.allowed([viewpoint.subject], known, ["see"], viewpoint.at)[0, :, 0]
    return {id: viewpoint.nodes.titles[id] for id, seen in zip(known, see, strict=True) if seen}
