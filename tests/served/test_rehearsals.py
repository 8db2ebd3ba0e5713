"""Several who rehearse at once, beside others who really write: of what they do nothing is left, whatever happens."""

from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from random import Random

import pytest

from tests.examples import LONG, SEED
from tests.served.killing import held_up, kill_workers
from tests.served.support import INES, ODILE, Client, Harbour
from tools.processes import free_port
from tools.serving import served

LOFT = "/api/desk/pages/p3-sail-loft"
REHEARSALS, SAVES = (200, 120) if LONG else (12, 12)
"""How many there are in all, and how often somebody really saves beside them."""
LANES = 3
OWN = (
    "django_session", "verify_rehearsal", "verify_rehearsedrequest", "access_use",
    "accounts_signin", "accounts_guesses", "accounts_knownclient",
)  # fmt: skip
"""What any request writes, rehearsed or not; the journals are looked at by themselves."""
BY_WRITERS = {
    "content_node": "WHERE id <> 'p3-sail-loft'",
    "content_version": "WHERE node_id <> 'p3-sail-loft'",
    "content_contentversion": "WHERE 0",
    "ledger_entry": "WHERE kind NOT IN ('page.saved', 'account.signed-in') AND kind NOT LIKE 'stand-in.%'",
}


def everything(harbour: Harbour) -> dict[str, list[list[str]]]:
    """All rows but those that whoever really writes has changed."""
    tables = [table for [table] in harbour.sql("SHOW TABLES") if table not in OWN]
    return {
        table: harbour.sql(f"SELECT {_columns(table)} FROM {table} {BY_WRITERS.get(table, '')}") for table in tables
    }


def _columns(table: str) -> str:
    """Signing in notes when it was."""
    return "id, name, email, state, keyholder, portrait, version, profile" if table == "accounts_account" else "*"


def walk(who: Client, number: int) -> list[int]:
    """One rehearsal of some steps, chosen by its number; the statuses that came."""
    random = Random(SEED + number)
    assert who("POST", "/api/stand-in", {"account": "odile", "mode": "rehearse"})[0] == 204
    steps = [
        ("POST", "/api/groups", {"name": f"Rehearsed {number}"}),
        ("POST", "/api/roles", {"name": f"Rehearsed {number}", "copy_of": "pilot"}),
        ("POST", "/api/accounts", {"people": [{"name": "R", "email": f"r{number}@skerrow.example"}]}),
        ("POST", "/api/topics", {"name": f"Rehearsed {number}"}),
        ("POST", "/api/desk/pages/winter-rates/duplicate", {}),
        ("POST", "/api/accounts/ines/disable", {}),
        ("PUT", "/api/extensions/tide-table", {"on": False}),
        ("POST", "/api/accounts/many", {"accounts": ["noor"], "action": "give-role", "role": "pilot"}),
        ("POST", "/api/change-set/apply", {}),
    ]
    came = [who(*step)[0] for step in random.sample(steps, 4)]
    came += [who("GET", path)[0] for path in ("/api/roles", "/api/desk/children", "/api/rehearsal")]
    came.append(who("DELETE", "/api/stand-in")[0])
    return came


def save(address: str) -> list[int]:
    """Ines, who saves her page again and again."""
    ines, came = Client(address, INES), []
    for number in range(SAVES):
        ines.headers["If-Match"] = f'"{ines("GET", LOFT)[1]["version"]}"'
        came.append(ines("PATCH", LOFT, {"values": {"telephone": f"0550 {number}"}})[0])
    return came


def test_of_many_at_once_nothing_is_left_and_those_who_write_are_not_in_their_way(address, harbour):
    before = everything(harbour)
    people = [Client(address, ODILE) for _ in range(LANES)]

    def lane(first: int) -> list[int]:
        numbers = range(first, REHEARSALS, LANES)
        return [status for number in numbers for status in walk(people[first], number)]

    with ThreadPoolExecutor(LANES + 1) as pool:
        saving = pool.submit(save, address)
        came = [status for statuses in pool.map(lane, range(LANES)) for status in statuses]
    assert set(saving.result()) == {200}, "whoever really writes is told of no deadlock, and overtaken by nobody"
    assert max(came) < 500, sorted(set(came))
    assert everything(harbour) == before
    assert harbour.sql("SELECT COUNT(*) FROM verify_rehearsal") == [["0"]]
    assert harbour.sql("SELECT COUNT(*) FROM verify_rehearsedrequest") == [["0"]]
    reader = Client(address, ODILE)
    for _ in range(6):  # whichever process answers
        assert len(reader("GET", "/api/groups")[1]) == int(harbour.sql("SELECT COUNT(*) FROM accounts_group")[0][0])
        assert "Rehearsed" not in str(reader("GET", "/api/roles")[1])


def test_it_waits_for_no_row_that_somebody_holds(address, harbour):
    who = Client(address, ODILE)
    assert who("POST", "/api/stand-in", {"account": "odile", "mode": "rehearse"})[0] == 204
    who.headers["If-Match"] = f'"{who("GET", LOFT)[1]["version"]}"'
    with held_up(harbour, "SELECT 'held' FROM content_node WHERE id = 'p3-sail-loft' FOR UPDATE"):
        status, problem = who("PATCH", LOFT, {"title": "The loft"})
        assert (status, problem["reason"]) == (409, "at-work")
    assert who("PATCH", LOFT, {"title": "The loft"})[0] == 200
    with held_up(harbour, "SELECT 'held' FROM access_policyversion WHERE id = 1 FOR UPDATE"):
        assert who("GET", LOFT)[1]["title"] == "The loft", "it takes no declared lock, and waits for none"


@pytest.fixture
def server(harbour, tmp_path):
    with served(tmp_path, harbour.env, free_port()) as server:
        yield server


def test_killed_in_the_middle_nothing_is_left(server, harbour):
    before = everything(harbour)
    who = Client(server.address, ODILE)
    assert who("POST", "/api/stand-in", {"account": "odile", "mode": "rehearse"})[0] == 204
    for number in range(3):
        assert who("POST", "/api/groups", {"name": f"Rehearsed {number}"})[0] == 201
    with ThreadPoolExecutor(1) as pool:
        asked = pool.submit(who, "POST", "/api/accounts/ines/disable", {})
        kill_workers(server.process.pid)
        with suppress(OSError):
            asked.result()
    assert everything(harbour) == before
