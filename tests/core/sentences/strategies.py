"""Names, odd ones too, and everything that can be asked or expected with them."""

from hypothesis import strategies as st

from gonfalon.core.model.vocabulary import FACETS, Reason
from gonfalon.core.sentences.lexicon import Lexicon
from gonfalon.core.sentences.questions import OF_FIELDS, VERBS, Expected

LEXICON = Lexicon(
    {
        "role": {"intern": "Season intern", "tenant": "Tenant editor", "may": "One who may not", "in": "in the group"},
        "group": {"pilots": "Pilots", "crew": "Regatta crew as the author", "b": "Everyone"},
        "account": {"ines": "Ines Marrow", "ines-2": "ines marrow", "edda": "Edda Nwosu", "o": 'Ó "Oz" Ng (old)'},
        "node": {
            "n1": "Pier 3", "n2": "Pier 3, Sail loft", "n3": "Sail loft", "n4": "Night of lanterns", "n5": "Twin",
            "n 6": "Twin", "n7": "the working copy of Twin", "n8": "anything in Pier 3", "n9": "Pier 3 until May 2027",
            "n10": "Opening. # not a note", "n11": "\\ \u2028", "n12": "notices in Pier 3", "n13": "history of Pier 3",
        },
        "kind": {"notice": "notices", "page": "pages", "berth": "berth pages", "odd": "notices, pages", "x": "nothing"},
        "field": {"hazard": "hazard level", "dues": "annual dues", "of": "history of"},
        "component": {"text": "texts", "table": "tide tables"},
        "facet": {facet: facet for facet in FACETS},
        "placed": {"discussion.moderate": "moderate the discussion", "locks.open": "open locks"},
        "duty": {"desk.open": "open the desk", "roles.define": "define roles"},
        "site": {"quay": "Skerrow Harbour", "regatta": "Regatta"},
        "topic": {"tides": "Tides", "trade": "Trade, and more"},
    }
)  # fmt: skip


def key(sort):
    return st.sampled_from(sorted(LEXICON.names[sort]))


def keys(sort, least=0):
    return st.lists(key(sort), min_size=least, max_size=3, unique=True)


TIMES = st.datetimes().map(lambda at: at.isoformat() + "Z") | st.dates().map(lambda day: f"{day.isoformat()}T00:00:00Z")
SCOPES = st.fixed_dictionaries(
    {}, optional={"branches": keys("node"), "sites": keys("site"), "types": keys("kind"), "topics": keys("topic")}
)


@st.composite
def made_up(draw):
    scoped = st.builds(lambda role, scope: {"role": role, "scope": scope}, key("role"), SCOPES)
    roles = draw(st.lists(key("role") | scoped, max_size=3))
    return {"roles": roles, "groups": draw(keys("group")), "own": draw(st.booleans())}


accounts = st.none() | key("account")
one = accounts.map(lambda account: {"account": account})


@st.composite
def questions(draw, *, ranging=True):
    """A question in words of §8; whether a policy has it does not matter here."""
    whom = draw(one | made_up())
    if ranging:
        ranges = {
            "holders_of": "role",
            "members_of": "group",
            "except_holders_of": "role",
            "except_members_of": "group",
        }
        several = st.sampled_from(sorted(ranges)).flatmap(lambda name: key(ranges[name]).map(lambda id: {name: id}))
        whom = draw(st.just(whom) | several)
    branch = st.fixed_dictionaries(
        {"branch": key("node")}, optional={"types": keys("kind"), "whose": st.sampled_from(["own", "team"])}
    )
    profile = key("account").map(lambda id: {"node": {"type": "account", "author": id}})
    node = key("node").map(lambda id: {"node": id})
    place = draw(node | branch | profile if ranging else node | profile)
    working = {"working": draw(st.booleans())}
    topics = draw(st.none() | keys("topic"))
    component = {"component": draw(key("component")), "component_id": draw(st.none() | st.text(max_size=8))}
    new = {"type": draw(key("kind")), "topics": topics}
    what = [
        {"action": draw(st.sampled_from(sorted(VERBS))), **place, **working},
        {"action": "edit", "topics": topics, **place, **working},
        {"action": "move", "to": draw(key("node")), **place, **working},
        {"action": "create", **new, **place},
        {"action": "fill-field", "field": draw(key("field")), **new, **place},
        {"action": draw(st.sampled_from(sorted(OF_FIELDS))), "field": draw(key("field")), **place, **working},
        {"action": "insert-component", "component": component["component"], **place, **working},
        {"action": "arrange-component", **component, **place, **working},
        {"action": "change-facet", "facet": draw(key("facet")), **component, **place, **working},
        {"action": draw(key("placed")), **place, **working},
        {"action": draw(key("duty")), "site": draw(st.none() | key("site"))},
        {"action": "stand-in", "for": draw(one | made_up())},
        {"action": "hand-out", "role": draw(key("role")), "to": {"account": draw(key("account"))},
         "scope": draw(st.none() | SCOPES), "until": draw(st.none() | TIMES)},
    ][draw(st.integers(0, 12))]  # fmt: skip
    if what["action"] == "hand-out" or not ranging or draw(st.booleans()):
        when = {"at": draw(st.none() | TIMES)}
    else:
        when = {"from": draw(st.none() | TIMES), "until": draw(st.none() | TIMES)}
    return {**whom, **what, **when}


expected = st.builds(
    lambda question, expect, reason: Expected(question, expect, reason if expect == "deny" else None),
    questions(),
    st.sampled_from(["allow", "deny"]),
    st.none() | st.sampled_from([reason for reason in Reason if reason is not Reason.ALLOWED]),
)
