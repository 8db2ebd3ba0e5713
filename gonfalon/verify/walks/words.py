"""What there is to try, in words: "edit their own berths", "see the annual dues of berths of others".

Words(viewpoint).of(item)
"""

from collections.abc import Iterable

from gonfalon.access.sight import HIDDEN_NODE
from gonfalon.core.checks.walk import Item
from gonfalon.core.sentences.questions import VERBS
from gonfalon.verify.lexicon import plural
from gonfalon.viewpoint.viewpoint import Viewpoint

_PUBLIC = {True: " that are public", False: " that are not public", None: ""}
_PARTS = {"see-field": "see the", "change-field": "change the", "fill-field": "fill the"}
_REACHES = {"node": "{}", "beneath": "anything beneath {}", "branch": "anything in {}"}


class Words:
    """Says items to somebody: pages are named where they are in their sight."""

    def __init__(self, here: Viewpoint) -> None:
        self.here, self.catalogue = here, here.catalogue

    def of(self, item: Item) -> str:
        """What is done, as it reads after "may"."""
        if item.limit is not None:
            return self._limited(item)
        if item.components:
            named = _either(plural(self.catalogue.component_name(key).lower()) for key in item.components)
            return f"put in {named}" if item.facet is None else f"change the {item.facet} of {named}"
        if not item.types:
            return self.catalogue.phrase(item.action)
        kinds = self._kinds(item)
        if item.field is not None:
            name = self.catalogue.type(item.types[0]).field_name(item.field).lower()
            return f"{_PARTS[item.action]} {name} of {'new ' if item.action == 'fill-field' else ''}{kinds}"
        return f"{VERBS.get(item.action, item.action)} {kinds}"

    def _kinds(self, item: Item) -> str:
        kinds = _either(self.catalogue.type(type).plural.lower() for type in item.types)
        own, others = ("their own " if item.own else ""), (" of others" if item.own is False else "")
        return f"{own}{kinds}{others}{_PUBLIC[item.public]}"

    def _limited(self, item: Item) -> str:
        limit = self.here.snapshot.policy.limits.get(item.limit or "")
        verb = VERBS.get(item.action, item.action)
        if limit is None:
            return f"{verb} what a limit was about that is gone"
        title = self.here.nodes.titles.get(limit.node, HIDDEN_NODE)
        named = title if limit.node in self.here.sight.nodes else HIDDEN_NODE
        return f"{verb} {_REACHES[limit.applies].format(named)}"


def _either(names: Iterable[str]) -> str:
    *first, last = names
    return f"{', '.join(first)} or {last}" if first else last
