"""Builds Skerrow Harbour from the files beside this one, in one transaction.

load(password, at)     # nothing happens when somebody is already there
"""

from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import yaml

from gonfalon.access.catalogue import Catalogue, installed
from gonfalon.access.markup import duty_of
from gonfalon.access.models import FieldRule, KnownCapability, Limit, Lock, MarkupSet, Vocabulary
from gonfalon.access.snapshot import raise_version as raise_policy_version
from gonfalon.access.starters import keep_as_shipped
from gonfalon.access.vocabulary import ONLY_ROW, switch, vocabulary
from gonfalon.accounts.models import Account
from gonfalon.content.models import Post, Site, Topic
from gonfalon.content.nodes import raise_version as raise_content_version
from gonfalon.demo.pages import Planter
from gonfalon.demo.past import Past
from gonfalon.demo.people import load_delegations, load_given, load_people, load_reviews, load_roles, load_uses
from gonfalon.demo.walks import load_walks
from gonfalon.verify.models import AccessRequest, Expectation, ExpectationGroup
from gonfalon.work import NODES, POLICY, unit

HARBOUR = Path(__file__).parent / "harbour"
Data = dict[str, Any]


FOOTER = "Skerrow Harbour. A made-up place, for trying things out."


@unit(POLICY, NODES)
def load(password: str, at: datetime) -> bool:
    """Fill an empty database. False when it is not empty; nothing is touched then."""
    if Account.objects.exists():
        return False
    _load_kinds(_read("kinds"))
    people = _read("people")
    _load_markup(_read("markup"))
    load_roles(_read("roles"))
    load_people(people, password, at)
    Site.objects.create(key="harbour", name="Skerrow Harbour", tagline="In the lee of the Skerrow", footer=FOOTER)
    Site.objects.filter(key="harbour").update(
        listing={"description": "Moorings, notices to mariners and events of a working harbour."}
    )
    Site.objects.create(
        key="regatta", name="Skerrow Regatta", tagline="Second week of August", footer=FOOTER, position=1
    )
    for key, name in (("tides", "Tides"), ("safety", "Safety"), ("season", "Summer season")):
        Topic.objects.create(key=key, name=name)
    past = Past(_read("past"), at)
    planter = Planter(_read("berths"), past)
    planter.media(_read("media"))
    planter.pages("harbour", _read("harbour"))
    planter.pages("regatta", _read("regatta"))
    _load_discussion(_read("discussion"), at)
    load_given(people, at)
    load_delegations(people, at)
    load_reviews(people, at)
    _load_requests(people["requests"], at)
    _load_rules(_read("rules"))
    load_uses(at)
    keep_as_shipped()
    raise_policy_version()
    raise_content_version()
    load_walks(_read("rules")["walks"], at)
    past.record("Skerrow Harbour was set up")
    return True


def _read(name: str) -> Any:
    return yaml.safe_load((HARBOUR / f"{name}.yaml").read_text(encoding="utf-8"))


def _load_kinds(kinds: list[Data]) -> None:
    said = {"choices": [], "help": "", "required": False, "retired": False}
    rows = [
        {
            **kind,
            "tree": "content",
            "components": None,
            "version": 1,
            "fields": [
                {**said, "key": key, "name": name, "kind": holds, **(more[0] if more else {})}
                for key, name, holds, *more in kind["fields"]
            ],
        }
        for kind in kinds
    ]
    Vocabulary.objects.update_or_create(pk=ONLY_ROW, defaults={"kinds": rows})
    known = vocabulary().made
    made = {kind["key"]: known[kind["key"]] for kind in kinds}
    looked_at = Catalogue(made, {}, {}).capabilities()
    KnownCapability.objects.bulk_create((KnownCapability(key=key) for key in looked_at), ignore_conflicts=True)


def _load_markup(data: Data) -> None:
    MarkupSet.objects.bulk_create(MarkupSet(**markup) for markup in data["sets"])
    for key in data["switched_on"]:
        switch(key, on=True)
    looked_at = [duty_of(MarkupSet(**markup)).key for markup in data["sets"]]
    for extension in (installed().extensions[key] for key in data["looked_at"]):
        types, duties = {t.key: t for t in extension.types}, {d.key: d for d in extension.duties}
        looked_at += Catalogue(types, {}, duties).capabilities()
    KnownCapability.objects.bulk_create((KnownCapability(key=key) for key in looked_at), ignore_conflicts=True)


def _load_discussion(posts: list[list[Any]], at: datetime) -> None:
    Post.objects.bulk_create(
        Post(id=f"post-{n}", node_id=node, author_id=author, at=at - timedelta(days=days), state=state, text=text)
        for n, (node, author, days, state, text) in enumerate(posts, 1)
    )


def _load_requests(requests: list[Data], at: datetime) -> None:
    AccessRequest.objects.bulk_create(
        AccessRequest(
            id=f"request-{n}",
            account_id=data["who"],
            question=data["question"],
            open_key=f"demo-{n}",
            word=data["word"],
            asked_at=at - timedelta(days=data["days"]),
        )
        for n, data in enumerate(requests, 1)
    )


def _load_rules(rules: Data) -> None:
    for n, limit in enumerate(rules["limits"], 1):
        kind, _, subject = limit["to"].partition(" ")
        Limit.objects.create(
            id=f"limit-{n}",
            node=limit["node"],
            subject_kind=kind,
            subject_id=subject,
            effect=limit["effect"],
            applies=limit["applies"],
            actions=limit.get("actions"),
            set_by="odile",
        )
    for name, table in rules["fields"].items():
        type, field = name.split(".")
        FieldRule.objects.create(type=type, field=field, mode="table", table=table)
    for lock in rules["locks"]:
        Lock.objects.create(locked_by="odile", **lock)
    groups = {
        data["name"]: ExpectationGroup.objects.create(place=place, name=data["name"], note=data.get("note", ""))
        for place, data in enumerate(rules["groups_of_expectations"], 1)
    }
    for n, data in enumerate(rules["expectations"], 1):
        question = {key: data[key] for key in ("action", "node", "branch", "types", "field") if key in data}
        kind, _, name = data["who"].partition(" ")
        question |= {"account": None} if kind == "visitor" else {kind: name}
        Expectation.objects.create(
            id=f"expectation-{n:02}",
            place=n,
            group=groups.get(data.get("group", "")),
            question=question,
            expect=data["expect"],
            note=data.get("note", ""),
            recorded_by="odile",
        )
