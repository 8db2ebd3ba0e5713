"""Twelve people who write at once, through two processes: nothing answered is lost, and all agree afterwards."""

import random
import time
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from typing import Any

from tests.examples import LONG, SEED
from tests.served.support import Client, Harbour
from tests.served.test_processes import EVERY_PROCESS
from tools.processes import free_port
from tools.serving import served

SECONDS = 60 if LONG else 8
PEOPLE = 12
PAGES = ("open-day", "knot-night", "tide-talk", "swim", "p3-sail-loft", "winter-rates", "summer-rates", "payment")
ROLES = ("pilot", "tenant-editor", "duty-editor")
CAPABILITIES = ("event.see", "event.edit", "berth.edit", "article.publish", "notice.history")


@dataclass
class Writer:
    """Somebody who writes whatever comes to mind, and keeps what was answered."""

    client: Client
    name: int
    done: Counter[str] = field(default_factory=Counter)
    made: list[tuple[str, str]] = field(default_factory=list)
    statuses: Counter[int] = field(default_factory=Counter)

    def work(self, until: float) -> None:
        chance = random.Random(SEED * 100 + self.name)
        n = 0
        while time.monotonic() < until:
            n += 1
            chance.choice((self._save, self._save, self._answer, self._answer, self._make, self._undo))(chance, n)

    def _send(self, method: str, path: str, data: Any = None) -> Any:
        status, answer = self.client(method, path, data)
        self.statuses[status] += 1
        assert status < 500, (method, path, data, answer)
        return answer if status < 300 else None

    def _save(self, chance: random.Random, n: int) -> None:
        page = chance.choice(PAGES)
        self.client.headers["If-Match"] = f'"{self._send("GET", f"/api/desk/pages/{page}")["version"]}"'
        title = f"{page} by {self.name}, {n}"
        if self._send("PATCH", f"/api/desk/pages/{page}", {"title": title}):
            self.done["page.saved"] += 1
            self.made.append(("SELECT COUNT(*) FROM content_version WHERE JSON_VALUE(data, '$.title') = '%s'", title))

    def _answer(self, chance: random.Random, n: int) -> None:
        role, capability = chance.choice(ROLES), chance.choice(CAPABILITIES)
        answer = {"kind": "set-answer", "role": role, "capability": capability, "says": chance.choice(("own", "all"))}
        self._send("POST", "/api/change-set/operations", {"operations": [answer]})
        if self._send("POST", "/api/change-set/apply"):
            self.done["change-set.applied"] += 1
        else:
            self._send("DELETE", "/api/change-set")

    def _make(self, chance: random.Random, n: int) -> None:
        name = f"Crew {self.name} {n}"
        path, kind, table = chance.choice(
            (("roles", "role.made", "access_role"), ("groups", "group.made", "accounts_group"),
             ("topics", "topic.added", "content_topic"))
        )  # fmt: skip
        if self._send("POST", f"/api/{path}", {"name": name}):
            self.done[kind] += 1
            self.made.append((f"SELECT COUNT(*) FROM {table} WHERE name = '%s'", name))

    def _undo(self, chance: random.Random, n: int) -> None:
        applied = self._send("GET", "/api/change-sets?limit=3")
        if applied and self._send("POST", f"/api/change-sets/{chance.choice(applied)['id']}/undo"):
            self.done["change-set.undone"] += 1


def boards(client: Client) -> list[Any]:
    """What the policy comes to, as one process decides by it."""
    return [client("GET", f"/api/roles/{role}/board") for role in ROLES] + [client("GET", "/api/limits")]


def test_nothing_that_was_answered_is_lost_and_all_agree(address: str, harbour: Harbour, tmp_path):
    people = harbour.sql(f"SELECT id, email FROM accounts_account WHERE state = 'active' ORDER BY id LIMIT {PEOPLE}")
    keyholders = ", ".join(f"'{id}'" for id, _ in people)
    harbour.sql(f"UPDATE accounts_account SET keyholder = 1 WHERE id IN ({keyholders})")
    harbour.sql("UPDATE access_policyversion SET number = number + 1")
    [[began]] = harbour.sql("SELECT number FROM access_policyversion")
    [[first]] = harbour.sql("SELECT MAX(number) FROM ledger_entry")
    writers = [Writer(Client(address, email), n) for n, (_, email) in enumerate(people)]
    [[first]] = harbour.sql("SELECT MAX(number) FROM ledger_entry")
    until = time.monotonic() + SECONDS
    with ThreadPoolExecutor(PEOPLE) as pool:
        list(pool.map(lambda writer: writer.work(until), writers))

    done = sum((writer.done for writer in writers), Counter())
    assert sum(done.values()) > 2 * PEOPLE, done
    written = harbour.sql(f"SELECT kind, COUNT(*) FROM ledger_entry WHERE number > {first} GROUP BY kind")
    assert {kind: int(count) for kind, count in written} == dict(done), "every change has its entry, and no other"
    for writer in writers:
        for asked, name in writer.made:
            assert harbour.sql(asked % name) == [["1"]], name
    [[ended]] = harbour.sql("SELECT number FROM access_policyversion")
    [[kept]] = harbour.sql(f"SELECT COUNT(*) FROM access_policychange WHERE version > {began}")
    assert int(kept) == int(ended) - int(began), "what each version changed is kept"
    with served(tmp_path, harbour.env, free_port()) as afresh:
        anew = boards(Client(afresh.address, people[0][1]))
    asking = Client(address, people[0][1])
    assert all(boards(asking) == anew for _ in EVERY_PROCESS), "a process decides by another policy than is written"
