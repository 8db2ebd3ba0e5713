"""Requests of the common forms (§8), answered without reading them into a `Question` first.

    CommonRequests(evaluator).reason({"account": "ada", "action": "edit", "node": "n2"})    # Reason.LOCKED, or None

None stands for everything else: an uncommon form, or something wrong with it.
"""

from collections.abc import Mapping
from datetime import datetime
from functools import lru_cache
from typing import Any

from gonfalon.core.decide.evaluate import Evaluator
from gonfalon.core.document.errors import read_time
from gonfalon.core.model.vocabulary import ACTIONS, Reason

_read_time = lru_cache(1024)(read_time)


class CommonRequests:
    """Actions on nodes, and `create`, asked of an account or a visitor."""

    def __init__(self, evaluator: Evaluator) -> None:
        self.evaluator = evaluator
        policy = evaluator.policy
        self._types, self._topics = policy.node_types, policy.topics
        self._on_nodes = frozenset({*ACTIONS, *policy.placed}) - {"create"}

    def reason(self, request: Mapping[str, Any]) -> Reason | None:
        """The answer, or None where the request has another form."""
        if request.__class__ is not dict:
            return None
        evaluator = self.evaluator
        try:
            action = request["action"]
            at = evaluator.location(request["node"])
            if action == "create":
                return self._create(request)
            given = len(request)
            if action not in self._on_nodes or given > 4:
                return None
            time = _read_time(request["at"]) if given == 4 else None
            who = evaluator.subject(request["account"], time)
        except (KeyError, TypeError, ValueError, OverflowError):
            return None
        return evaluator.with_all_beneath(who, action, at)

    def _create(self, request: Mapping[str, Any]) -> Reason | None:
        type, topics, time = request["type"], request.get("topics"), request.get("at")
        given = 4 + ("topics" in request) + ("at" in request)
        if len(request) != given or type not in self._types:
            return None
        if topics is not None and (topics.__class__ is not list or not self._topics.issuperset(topics)):
            return None
        at: datetime | None = None if time is None else _read_time(time)
        who = self.evaluator.subject(request["account"], at)
        new = self.evaluator.location(request["node"]).child(type, frozenset(topics or ()))
        return self.evaluator.on_node(who, "create", new)
