"""The names that somebody may write sentences with, and read them in.

lexicon_of(viewpoint)                   # what is in sight; anything else is as good as not there
told(viewpoint)                         # the same, and "a page out of sight" for the rest: to tell with only
"""

from gonfalon.access.catalogue import VERB_WORDS, Catalogue
from gonfalon.access.models import Role
from gonfalon.access.names import group_names, sites, topics
from gonfalon.access.sight import HIDDEN_NODE, HIDDEN_PERSON
from gonfalon.access.words import subject_of
from gonfalon.accounts.models import Account
from gonfalon.core.model.policy import Policy
from gonfalon.core.model.vocabulary import ACTIONS, FACETS, Kind
from gonfalon.core.sentences.lexicon import Lexicon
from gonfalon.viewpoint.viewpoint import Viewpoint


def lexicon_of(viewpoint: Viewpoint) -> Lexicon:
    """Everything that there is a name for and that is in sight. Five queries."""
    return Lexicon(_names(viewpoint))


def told(viewpoint: Viewpoint) -> Lexicon:
    """The same, with words for what has no name in it."""
    return _Told(_names(viewpoint), viewpoint.catalogue)


class _Told(Lexicon):
    def __init__(self, names: dict[str, dict[str, str]], catalogue: Catalogue) -> None:
        super().__init__(names)
        self._catalogue = catalogue

    def name(self, sort: str, key: str) -> str | None:
        known = super().name(sort, key)
        if known is not None or sort == "baseline":
            return known
        if sort == "kind":
            return self._catalogue.type(key).plural
        if sort in ("duty", "placed"):
            return self._catalogue.phrase(key)
        return {"node": HIDDEN_NODE, "account": HIDDEN_PERSON}.get(sort, key)


def _names(viewpoint: Viewpoint) -> dict[str, dict[str, str]]:
    sight, policy, catalogue = viewpoint.sight, viewpoint.snapshot.policy, viewpoint.catalogue
    people = dict(Account.objects.values_list("pk", "name"))
    fields: dict[str, str] = {}
    for type in catalogue.types.values():
        for field in type.fields:
            fields.setdefault(field.key, field.name.lower())
    roles = dict(Role.objects.values_list("key", "name"))
    duties = {key: duty.phrase for key, duty in catalogue.duties.items()}
    return {
        "role": {key: name for key, name in roles.items() if key in policy.roles},
        "baseline": _baseline(policy),
        "group": dict(group_names()),
        "account": {id: name for id, name in people.items() if id in policy.accounts and id in sight.people},
        "node": {id: title for id, title in viewpoint.nodes.titles.items() if id in sight.nodes},
        "kind": {key: type.plural for key, type in catalogue.types.items()},
        "field": fields,
        "component": {key: plural(component.name.lower()) for key, component in catalogue.components.items()},
        "facet": {facet: facet for facet in FACETS},
        "placed": {key: phrase for key, phrase in duties.items() if policy.kind(key) is Kind.PLACED},
        "duty": {key: phrase for key, phrase in duties.items() if policy.kind(key) is not Kind.PLACED},
        "verb": {key: phrase for key, (_, phrase) in VERB_WORDS.items()},
        "action": {action: action for action in (*ACTIONS, *policy.placed)},
        "site": dict(sites()),
        "topic": dict(topics()),
    }


def _baseline(policy: Policy) -> dict[str, str]:
    of = {"everyone": policy.everyone, "signed-in": policy.signed_in}
    return {role: subject_of("", kind) for kind, role in of.items() if role is not None}


def plural(name: str) -> str:
    """The plural of a component's name.

    >>> plural("text"), plural("gallery"), plural("box")
    ('texts', 'galleries', 'boxes')
    """
    if name.endswith("y") and name[-2:-1] not in "aeiou":
        return f"{name[:-1]}ies"
    return f"{name}es" if name.endswith(("s", "x", "z", "ch", "sh")) else f"{name}s"
