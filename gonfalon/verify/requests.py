"""Asking for access where one was refused, and deciding about it (needs nobody to know how access is given).

request = ask_for({"action": "edit", "node": "fees"}, "For the new rates.", viewpoint)
ways = ways_to(request, viewpoint)          # the smallest changes that would turn the answer
grant(request, ways[0], until, viewpoint)
"""

import json
from datetime import datetime
from hashlib import sha256
from typing import Any

from django.conf import settings

from gonfalon.access.change_sets import apply_at_once
from gonfalon.access.sight import HIDDEN_NODE, Sight
from gonfalon.accounts.models import Account
from gonfalon.clock import now
from gonfalon.core import Question
from gonfalon.core.document.errors import Unreadable
from gonfalon.core.document.requests import read_question
from gonfalon.ledger.models import By, record
from gonfalon.mail.outbox import post
from gonfalon.verify.models import AccessRequest
from gonfalon.verify.turning import Turn, turns
from gonfalon.viewpoint.viewpoint import Viewpoint
from gonfalon.work import POLICY, locked, unit

Data = dict[str, Any]
MOST_OPEN = 30
"""Of one account."""


class MayAlready(Exception):
    """There is nothing to ask for: the answer is yes."""


class TooManyOpen(Exception):
    """Somebody has as many open requests as anybody may."""


class Decided(Exception):
    """Somebody decided about the request meanwhile."""


@unit(POLICY.shared)
def ask_for(asked: Data, word: str, viewpoint: Viewpoint, by: By) -> AccessRequest:
    """Ask for something, once: asking again is the same request. Raises Unreadable, MayAlready, TooManyOpen."""
    who = viewpoint.account or ""
    question = question_of(asked, who, viewpoint)
    if viewpoint.engine.decide(question).allow:
        raise MayAlready
    if AccessRequest.objects.filter(account_id=who, state=AccessRequest.State.OPEN).count() >= MOST_OPEN:
        raise TooManyOpen
    key = sha256(json.dumps([who, asked], sort_keys=True).encode()).hexdigest()
    request = locked(AccessRequest.objects).filter(open_key=key).first()
    if request is None:
        request = AccessRequest.objects.create(account_id=who, question=asked, open_key=key, word=word)
        _record(request, by, "request.made", viewpoint)
    elif word and word != request.word:
        request.word = word
        request.save(update_fields=["word"])
    return request


def question_of(asked: Data, who: str, viewpoint: Viewpoint) -> Question:
    """The question about an account that a request asks. Raises Unreadable."""
    return read_question({"account": who, **asked}, viewpoint.snapshot.policy, viewpoint.nodes.tree)


def ways_to(request: AccessRequest, viewpoint: Viewpoint) -> list[Turn]:
    """The smallest changes that would turn the answer, those that reach least for others first."""
    try:
        question = question_of(request.question, request.account_id, viewpoint)
    except Unreadable:
        return []  # the page, the field or the account is gone by now
    return turns(question, viewpoint, viewpoint.sight)


@unit(POLICY)
def grant(request: AccessRequest, way: Turn, until: datetime | None, viewpoint: Viewpoint, by: By) -> None:
    """Change what turns the answer, until a time if one is said, and tell whoever asked. Raises Decided."""
    row = _held(request)
    operations = [{**data, "ends": until} if until and way.timed else data for data in way.operations]
    apply_at_once(viewpoint.account or "", operations, by, viewpoint.sight)
    _close(row, AccessRequest.State.GRANTED, "", viewpoint, by, until if way.timed else None)


@unit(POLICY.shared)
def decline(request: AccessRequest, word: str, viewpoint: Viewpoint, by: By) -> None:
    """Say no, with a word, and tell whoever asked. Raises Decided."""
    _close(_held(request), AccessRequest.State.DECLINED, word, viewpoint, by, None)


def withdraw_all(account: str, viewpoint: Viewpoint, by: By) -> None:
    """Close what somebody asked for who will not come back; an entry each, at most MOST_OPEN."""
    open_ones = AccessRequest.objects.filter(account_id=account, state=AccessRequest.State.OPEN)
    for row in open_ones:
        _record(row, by, "request.declined", viewpoint)
    open_ones.update(
        state=AccessRequest.State.DECLINED,
        answer="The account was disabled.",
        open_key=None,
        decided_at=now(),
        decided_by=viewpoint.account,
    )


def words_for(asked: Data, sight: Sight, viewpoint: Viewpoint) -> str:
    """What is asked for, after "may": "edit “Fees”"; a page out of sight is not named."""
    action, node = asked["action"], asked.get("node") or ""
    titles, tree = viewpoint.nodes.titles, viewpoint.nodes.tree
    where = f"“{titles[node]}”" if node in sight.nodes and node in titles else HIDDEN_NODE if node else ""
    if action == "create":
        return f"make {viewpoint.catalogue.type(asked['type']).plural} beneath {where}"
    words = viewpoint.catalogue.action(action)
    if "field" in asked:
        type = tree.target(node).type if node in tree else ""
        field = viewpoint.catalogue.type(asked.get("type", type)).field_name(asked["field"]).lower()
        return f"{words.replace('this field', field)} of {where}"
    if "component" in asked:
        component = f"a {viewpoint.catalogue.component_name(asked['component']).lower()}"
        return f"{words.replace('this component', component)} on {where}"
    return words.replace("this", where) if "this" in words else f"{words} {where}".strip()


def _held(request: AccessRequest) -> AccessRequest:
    row = locked(AccessRequest.objects).get(pk=request.pk)
    if row.state != AccessRequest.State.OPEN:
        raise Decided
    return row


def _close(row: AccessRequest, state: str, word: str, viewpoint: Viewpoint, by: By, until: datetime | None) -> None:
    row.state, row.answer, row.until, row.open_key = state, word, until, None
    row.decided_at, row.decided_by = now(), viewpoint.account
    row.save()
    account = Account.objects.get(pk=row.account_id)
    own = Sight(viewpoint.seen_by(account.id).in_sight.named, frozenset({account.id}))
    what = words_for(row.question, own, viewpoint)
    answer = f"You may {what} now" if state == AccessRequest.State.GRANTED else f"You may not {what}"
    ends = f", until {until:%-d %B %Y, %H:%M} UTC" if until else ""
    more = f"\n\n{word}" if word else ""
    node = row.question.get("node", row.question.get("parent"))
    where = f"/desk/{node}" if isinstance(node, str) and node in own.nodes else "/desk"
    post(
        account.email, "Your request", f"Hello {account.name},\n\n{answer}{ends}.{more}\n\n{settings.ADDRESS}{where}\n"
    )
    _record(row, by, f"request.{state}", viewpoint)


def _record(row: AccessRequest, by: By, kind: str, viewpoint: Viewpoint) -> None:
    who = Account.objects.get(pk=row.account_id).name
    words = request_words(kind, who, words_for(row.question, viewpoint.sight, viewpoint))
    record(by, kind, about=("request", row.id), words=words, data={"request": row.id})


def request_words(kind: str, who: str, what: str) -> str:
    """What an entry about a request says; `what` is asked for, as in `words_for`."""
    if kind == "request.made":
        return f"Asked to {what}"
    done = "Granted" if kind == "request.granted" else "Declined"
    return f"{done}: {who} asked to {what}"
