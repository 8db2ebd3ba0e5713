"""A harbour company grown very large: a policy document made from a seed, for measuring.

    document = large_document(scale=1.0)     # 10,000 accounts, 200 roles, 1,000 groups, 100,000 nodes

Shaped as such sites are: most accounts hold one or two roles within a branch, teams are small and nested,
a few roles bar something, limits gather on branches.
"""

from random import Random
from typing import Any

from gonfalon.core.model.vocabulary import VERBS

Json = dict[str, Any]
SITES = ("quay", "regatta", "office", "museum")
ACTIONS = ("see", "create", "edit", "publish", "retire", "remove", "move", "history", "restore")
EXTENTS = ("own", "team", "all", "all")


def large_document(scale: float = 1.0, seed: int = 11) -> Json:
    """A policy document; `scale` shrinks accounts, nodes, groups, roles and all that is said about them."""
    return _Maker(scale, Random(seed)).document()


class _Maker:
    def __init__(self, scale: float, random: Random) -> None:
        self.random = random
        count = lambda full, least=1: max(least, round(full * scale))  # noqa: E731
        self.accounts = [f"a{i}" for i in range(count(10_000, 20))]
        self.groups = [f"g{i}" for i in range(count(1_000, 5))]
        self.roles = [f"role-{i}" for i in range(count(200, 5))]
        self.types = [f"page{i}" for i in range(32)] + [f"file{i}" for i in range(8)]
        self.duties = {f"duty{i}.do": "placed" if i % 3 else "sitewide" for i in range(147)} | {"desk.open": "opening"}
        self.placed = [key for key, kind in self.duties.items() if kind == "placed"]
        self.topics = [f"topic{i}" for i in range(30)]
        self.count = count
        self.nodes: list[Json] = []

    def document(self) -> Json:
        self.nodes = self._nodes(self.count(100_000, 60))
        self.branches = [n["id"] for n in self.random.sample(self.nodes, min(len(self.nodes), self.count(3_000, 20)))]
        return {
            "gonfalon": 1,
            "capabilities": self.duties,
            "types": {t: {"tree": self._tree(t), "fields": ["title", "body", "price"]} for t in self.types},
            "components": {"text": ["wording", "links"], "table": ["wording", "layout"], "embed": ["code"]},
            "sites": list(SITES),
            "topics": self.topics,
            "nodes": self.nodes,
            "groups": {g: {"parent": self._team_above(i)} for i, g in enumerate(self.groups)},
            "accounts": dict(self._account(i, a) for i, a in enumerate(self.accounts)),
            "roles": self._roles(),
            "baseline": {"everyone": "everyone", "signed_in": "signed-in"},
            "assignments": [self._assignment(i) for i in range(self.count(12_000, 20))],
            "direct_grants": [self._direct(i) for i in range(self.count(1_000))],
            "limits": [self._limit(i) for i in range(self.count(3_000, 10))],
            "fields": {f"{t}.price": self._rule() for t in self.types[::4]},
            "expectations": [self._expectation(i) for i in range(self.count(10_000, 20))],
            "locks": [{"id": f"k{i}", "node": self._node(), "part": None} for i in range(self.count(500))],
        }

    def _tree(self, type: str) -> str:
        return "media" if type.startswith("file") else "content"

    def _earlier(self, things: list[str], i: int, chance: float) -> str | None:
        return things[self.random.randrange(i)] if i and self.random.random() < chance else None

    def _team_above(self, i: int) -> str | None:
        """A tenth of the groups gather others; those lie flat."""
        gathering = self.groups[: len(self.groups) // 10]
        return self.random.choice(gathering) if i >= len(gathering) > 0 and self.random.random() < 0.6 else None

    def _nodes(self, total: int) -> list[Json]:
        """Trees that grow broad: a node's parent is one among the first few thousand of its own tree."""
        random, made = self.random, []
        by_root: dict[tuple[str, str], list[str]] = {}
        for i in range(total):
            type = self.types[i % 40 if i < 80 else random.randrange(40)]
            root = (self._tree(type), SITES[i % 4])
            there = by_root.setdefault(root, [])
            parent = there[random.randrange(min(len(there), 4_000))] if there else None
            there.append(f"n{i}")
            made.append(
                {
                    "id": f"n{i}",
                    "parent": parent,
                    "tree": root[0],
                    "site": root[1],
                    "type": type,
                    "author": random.choice(self.accounts) if random.random() < 0.8 else None,
                    "state": random.choices(("draft", "review", "published", "retired"), (2, 1, 6, 1))[0],
                    "topics": random.sample(self.topics, random.randrange(3)),
                }
            )
        return made

    def _node(self) -> str:
        return str(self.random.choice(self.nodes)["id"])

    def _account(self, i: int, id: str) -> tuple[str, Json]:
        random = self.random
        groups = random.sample(self.groups, min(random.choice((0, 1, 1, 2, 3)), len(self.groups)))
        state = "active" if i == 0 or random.random() < 0.95 else random.choice(("invited", "disabled"))
        reach = {"reach": {"content": random.sample(self.branches, 2)}} if random.random() < 0.02 else {}
        return id, {"state": state, "keyholder": i == 0, "groups": groups, **reach}

    def _roles(self) -> Json:
        everyone = {f"{t}.see": "all" for t in self.types if self.random.random() < 0.9}
        roles: Json = {
            "everyone": {"grants": everyone},
            "signed-in": {"grants": {f"{t}.see-draft": "own" for t in self.types} | {"account.see": "own"}},
        }
        for i, role in enumerate(self.roles):
            roles[role] = {"builds_on": self._earlier(self.roles[:40], min(i, 40), 0.5), "grants": self._grants()}
            if self.random.random() < 0.2:
                roles[role]["components"] = ["text"]
        return roles

    def _grants(self) -> Json:
        random = self.random
        grants = {}
        for type in random.sample(self.types, random.randrange(3, 12)):
            for verb in random.sample(VERBS, random.randrange(3, len(VERBS))):
                grants[f"{type}.{verb}"] = random.choice(EXTENTS) if random.random() > 0.02 else "withheld"
        for duty in random.sample(list(self.duties), 12):
            grants[duty] = "yes"
        if random.random() < 0.1:
            grants[f"{random.choice(self.types)}.remove"] = "barred"
        return grants

    def _to(self) -> Json:
        if self.random.random() < 0.85:
            return {"account": self.random.choice(self.accounts)}
        return {"group": self.random.choice(self.groups)}

    def _given(self) -> Json:
        random = self.random
        where = random.random()
        scope: Json = {}
        if where < 0.45:
            scope = {"branches": random.sample(self.branches, random.choice((1, 1, 2)))}
        elif where < 0.55:
            scope = {"sites": [random.choice(SITES)]}
        elif where < 0.6:
            scope = {"types": random.sample(self.types, 8)}
        elif where < 0.62:
            scope = {"topics": random.sample(self.topics, 3)}
        until = {"until": "2031-01-01T00:00:00Z"} if random.random() < 0.1 else {}
        return {"to": self._to(), "scope": scope, **until}

    def _assignment(self, i: int) -> Json:
        return {"id": f"s{i}", "role": self.random.choice(self.roles), **self._given()}

    def _direct(self, i: int) -> Json:
        capability = f"{self.random.choice(self.types)}.{self.random.choice(VERBS)}"
        says = self.random.choice((*EXTENTS, *EXTENTS, "barred"))
        return {"id": f"d{i}", "capability": capability, "says": says, **self._given()}

    def _limit(self, i: int) -> Json:
        random = self.random
        to = random.choice(({"role": random.choice(self.roles)}, {"group": random.choice(self.groups)}, self._to()))
        return {
            "id": f"l{i}",
            "node": random.choice(self.branches),
            "applies": random.choice(("node", "beneath", "branch", "branch")),
            "to": to,
            "actions": "*" if random.random() < 0.3 else random.sample(ACTIONS, random.randrange(1, 4)),
            "effect": random.choices(("stop", "bar", "lift"), (15, 1, 4))[0],
        }

    def _rule(self) -> Json:
        marks = ["see-all", "change-own", "fill"]
        return {"mode": "table", "table": dict.fromkeys(self.random.sample(self.roles, 3), marks)}

    def _expectation(self, i: int) -> Json:
        random = self.random
        question: Json = {"action": random.choice(("see", "edit", "publish", "history", "restore"))}
        kind = random.random()
        if kind < 0.9:
            question |= {"account": random.choice(self.accounts), "node": self._node()}
        elif kind < 0.95:
            question |= {"holders_of": random.choice(self.roles), "node": self._node()}
        else:
            question |= {"account": random.choice(self.accounts), "branch": random.choice(self.branches)}
        return {"id": f"e{i}", "question": question, "expect": random.choice(("allow", "deny"))}
