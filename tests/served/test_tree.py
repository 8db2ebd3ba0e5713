"""The tree is never torn: many who move, make and remove at once, and a server or database killed in the middle."""

import random
import threading
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress

import pytest

from tests.served.killing import held_up, kill_connection, kill_workers, waiting
from tests.served.support import ODILE, Client, Harbour
from tools.processes import free_port
from tools.serving import served

BRANCHES = ("events", "museum", "pier-3-branch", "fees", "season-events")
PAGES = ("open-day", "knot-night", "tide-talk", "swim", "p3-sail-loft", "winter-rates")
SOUND = {
    "every node has its parent": """
        SELECT COUNT(*) FROM content_node n LEFT JOIN content_node p ON p.path = LEFT(n.path, LENGTH(n.path) - 4)
        WHERE n.removed_with IS NULL AND n.depth > 1 AND (p.id IS NULL OR p.removed_with IS NOT NULL)""",
    "every depth is that of the path": "SELECT COUNT(*) FROM content_node WHERE depth * 4 <> LENGTH(path)",
    "every count of children is right": """
        SELECT COUNT(*) FROM content_node p WHERE p.removed_with IS NULL AND p.numchild <> (
            SELECT COUNT(*) FROM content_node c WHERE c.removed_with IS NULL
            AND c.depth = p.depth + 1 AND c.path LIKE CONCAT(p.path, '%'))""",
    "every address begins with the parent's": """
        SELECT COUNT(*) FROM content_node n JOIN content_node p ON p.path = LEFT(n.path, LENGTH(n.path) - 4)
        WHERE n.removed_with IS NULL AND n.depth > 1
        AND n.address <> TRIM(LEADING '/' FROM CONCAT(p.address, '/', n.slug))""",
    "what is in the bin has its entry": """
        SELECT COUNT(*) FROM content_node WHERE removed_with IS NOT NULL
        AND removed_with NOT IN (SELECT node_id FROM content_removed)""",
}


def assert_sound(harbour: Harbour) -> None:
    assert {what: harbour.sql(ask) for what, ask in SOUND.items()} == {what: [["0"]] for what in SOUND}


class Gardener(Client):
    """Somebody who makes, moves, saves, removes and brings back, whatever comes of it."""

    def work(self, seed: int) -> list[int]:
        chance = random.Random(seed)
        return [self._step(chance) for _ in range(14)]

    def on(self, page: str, doing: str, data: object = None, method: str = "POST") -> int:
        status, answer = self("GET", f"/api/desk/pages/{page}")
        self.headers["If-Match"] = f'"{answer["version"]}"' if status == 200 else '"1"'
        return self(method, f"/api/desk/pages/{page}{doing}", data)[0]

    def _step(self, chance: random.Random) -> int:
        page, to = chance.choice(PAGES + BRANCHES), chance.choice(BRANCHES)
        doing = chance.choice(("move", "move", "order", "make", "save", "remove", "restore", "duplicate"))
        if doing == "make":
            made = {"parent": to, "type": "event", "title": f"Supper {chance.random():.6f}"}
            return self("POST", "/api/desk/pages", made)[0]
        if doing == "save":
            return self.on(page, "", {"title": f"Saved {chance.random():.6f}"}, "PATCH")
        return self.on(page, f"/{'move' if doing == 'order' else doing}", {"to": to} if doing == "move" else None)


def test_many_at_once_leave_one_tree(address, harbour):
    gardeners = [Gardener(address, ODILE) for _ in range(4)]
    with ThreadPoolExecutor(len(gardeners)) as pool:
        done = list(pool.map(lambda pair: pair[1].work(pair[0]), enumerate(gardeners)))
    statuses = [status for statuses in done for status in statuses]
    assert max(statuses) < 500, sorted(set(statuses))
    assert sum(status < 300 for status in statuses) > len(statuses) / 4
    assert_sound(harbour)


def test_a_page_saved_while_its_branch_moves_keeps_both(address, harbour):
    """Whoever moves waits for a row of the branch; somebody else saves a page of it meanwhile."""
    mover, writer = Gardener(address, ODILE), Gardener(address, ODILE)
    lock = "SELECT 'held' FROM content_node WHERE id = 'p3-sea-school' FOR UPDATE"
    with ThreadPoolExecutor(2) as pool:
        with held_up(harbour, lock):
            moving = pool.submit(mover.on, "pier-3-branch", "/move", {"to": "events"})
            waiting(harbour, "UPDATE %content_node%")
            saving = pool.submit(writer.on, "p3-sail-loft", "", {"values": {"telephone": "0550 7"}}, "PATCH")
        assert (moving.result(), saving.result()) == (200, 200)
    [[path, telephone]] = harbour.sql(
        "SELECT path, JSON_VALUE(`values`, '$.telephone') FROM content_node WHERE id = 'p3-sail-loft'"
    )
    [[above]] = harbour.sql("SELECT path FROM content_node WHERE id = 'events'")
    assert telephone == "0550 7"
    assert path.startswith(above)
    assert_sound(harbour)


@pytest.mark.parametrize("what", ["server", "database"])
@pytest.mark.parametrize("doing", ["/move", "/remove"])
def test_killed_in_the_middle_nothing_has_moved_or_all_of_it_once(harbour, tmp_path, what, doing):
    lock = "SELECT 'held' FROM content_node WHERE id = 'p3-sea-school' FOR UPDATE"
    before = harbour.sql("SELECT path, id, address FROM content_node ORDER BY path")
    with served(tmp_path, harbour.env, free_port()) as server:
        mover = Gardener(server.address, ODILE)

        def move() -> None:
            with suppress(OSError):
                mover.on("pier-3-branch", doing, {"to": "events"} if doing == "/move" else None)

        with held_up(harbour, lock):
            moving = threading.Thread(target=move)
            moving.start()
            connection = waiting(harbour, "UPDATE %content_node%")
            kill_workers(server.process.pid) if what == "server" else kill_connection(harbour, connection)
        moving.join()
        harbour.sql("SELECT number FROM content_contentversion FOR UPDATE")  # held by whoever moves, until the end
    [[entries]] = harbour.sql("SELECT COUNT(*) FROM ledger_entry WHERE about_id = 'pier-3-branch'")
    after = harbour.sql("SELECT path, id, address FROM content_node ORDER BY path")
    if what == "server":
        assert (after, entries) == (before, "0")
    else:  # of a lost connection the server itself begins again
        assert (after != before, entries) == (True, "1")
    assert_sound(harbour)
