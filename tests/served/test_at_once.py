"""Two at the same moment: whoever comes second decides by what the first one left, and nothing is written twice."""

from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
from typing import Any

import pytest

from tests.served.killing import held_up, waiting
from tests.served.support import INES, LUDO, ODILE, Client, Harbour

POLICY = "SELECT 'held' FROM access_policyversion WHERE id = 1 FOR UPDATE"


@contextmanager
def at_the_barrier(harbour: Harbour, row: str = POLICY) -> Iterator[Callable[..., Future[tuple[int, Any]]]]:
    """Requests that wait at a row in the order in which they came, and go on once the block ends."""
    with ThreadPoolExecutor(4) as pool, held_up(harbour, row):

        def come(client: Client, method: str, path: str, data: Any = None) -> Future[tuple[int, Any]]:
            waited = len(_waiting(harbour))
            answer = pool.submit(client, method, path, data)
            while len(_waiting(harbour)) == waited and not answer.done():
                pass
            return answer

        yield come


def _waiting(harbour: Harbour) -> list[list[str]]:
    locking = "(info LIKE '%FOR UPDATE' OR info LIKE '%LOCK IN SHARE MODE')"
    return harbour.sql(f"SELECT id FROM information_schema.processlist WHERE db = '{harbour.name}' AND {locking}")


def make_keyholder(harbour: Harbour, account: str) -> None:
    harbour.sql(f"UPDATE accounts_account SET keyholder = 1 WHERE id = '{account}'")
    harbour.sql("UPDATE access_policyversion SET number = number + 1")


def apply(client: Client, *operations: dict[str, Any]) -> None:
    assert client("POST", "/api/change-set/operations", {"operations": list(operations)})[0] == 200
    assert client("POST", "/api/change-set/apply")[0] == 200


@pytest.mark.parametrize("first", ["odile", "ludo"])
def test_of_two_keyholders_who_disable_each_other_one_stays(client, harbour, first):
    make_keyholder(harbour, "ludo")
    people = {"odile": client(ODILE), "ludo": client(LUDO)}
    second = "ludo" if first == "odile" else "odile"
    with at_the_barrier(harbour) as come:
        done = come(people[first], "POST", f"/api/accounts/{second}/disable")
        late = come(people[second], "POST", f"/api/accounts/{first}/disable")
    assert done.result()[0] == 200
    assert late.result()[0] == 401, "whoever is disabled by then is signed out"
    active = "SELECT id FROM accounts_account WHERE keyholder = 1 AND state = 'active'"
    assert harbour.sql(active) == [[first]]


@pytest.mark.parametrize("apply_first", [True, False])
def test_what_is_applied_is_what_its_owner_may_apply(client, harbour, apply_first):
    """A set is taken up while another is applied, and its owner has lost the duty that one needs."""
    odile, ludo = client(ODILE), client(LUDO)
    to_ludo = {"to": {"kind": "account", "id": "ludo"}, "says": "yes", "kind": "give-capability"}
    apply(odile, *({**to_ludo, "capability": duty} for duty in ("roles.define", "roles.assign", "roster.see")))
    give = {"kind": "give-role", "role": "pilot", "to": {"kind": "account", "id": "ines"}}
    assert ludo("POST", "/api/change-set/operations", {"operations": [give]})[0] == 200
    status, kept = ludo("POST", "/api/change-set/put-aside", {"name": "Later"})
    assert status == 200, kept
    answer = {"kind": "set-answer", "role": "pilot", "capability": "event.see", "says": "all"}
    assert ludo("POST", "/api/change-set/operations", {"operations": [answer]})[0] == 200
    bar = {"kind": "give-capability", "to": {"kind": "account", "id": "ludo"}, "says": "barred"}
    apply(odile, bar | {"capability": "roles.assign"})
    taking = (ludo, "POST", f"/api/change-sets/{kept['kept'][0]['id']}/take-up", None)
    applying = (ludo, "POST", "/api/change-set/apply", None)
    with at_the_barrier(harbour) as come:
        answers = [come(*ask) for ask in ((applying, taking) if apply_first else (taking, applying))]
    statuses = [answer.result()[0] for answer in answers]
    assert statuses == ([200, 200] if apply_first else [200, 403])
    assert harbour.sql("SELECT id FROM access_assignment WHERE role_id = 'pilot' AND account_id = 'ines'") == []


def test_a_topic_that_two_add_at_once_is_added_once(client, harbour):
    people = client(ODILE), client(ODILE)
    with at_the_barrier(harbour) as come:
        answers = [come(one, "POST", "/api/topics", {"name": "Slack water"}) for one in people]
    assert sorted(answer.result()[0] for answer in answers) == [201, 422]
    assert harbour.sql("SELECT COUNT(*) FROM content_topic WHERE name = 'Slack water'") == [["1"]]


def test_a_list_that_is_brought_in_twice_at_once_is_brought_in_once(client, harbour):
    people = client(ODILE), client(ODILE)
    sent = {"text": "name,email\nPia Holm,pia@skerrow.example\n", "apply": True}
    with at_the_barrier(harbour) as come:
        answers = [come(one, "POST", "/api/accounts/import", sent) for one in people]
    assert max(answer.result()[0] for answer in answers) < 500, [answer.result() for answer in answers]
    assert harbour.sql("SELECT COUNT(*) FROM accounts_account WHERE email = 'pia@skerrow.example'") == [["1"]]


def test_two_who_save_two_pages_do_not_wait_for_each_other(client, harbour):
    """One waits for the row of their own page, with all other locks in hand; the other saves and is answered."""
    slow, quick = client(ODILE), client(INES)
    for one, page in ((slow, "winter-rates"), (quick, "p3-sail-loft")):
        version = one("GET", f"/api/desk/pages/{page}")[1]["version"]
        one.headers["If-Match"] = f'"{version}"'
    lock = "SELECT 'held' FROM content_node WHERE id = 'winter-rates' FOR UPDATE"
    with ThreadPoolExecutor(1) as pool:
        with held_up(harbour, lock):
            held = pool.submit(slow, "PATCH", "/api/desk/pages/winter-rates", {"values": {"lead": "Slow"}})
            waiting(harbour, "%content_node%FOR UPDATE%")
            status, _ = quick("PATCH", "/api/desk/pages/p3-sail-loft", {"values": {"telephone": "0550 11"}})
            assert status == 200
        assert held.result()[0] == 200


def test_whoever_locks_what_was_changed_since_they_read_it_is_told(harbour):
    """What the server's connections are set to: no silent mixture of what was read and what is locked."""
    read, changed = "SELECT number FROM access_policyversion", "UPDATE access_policyversion SET number = number + 1"
    with harbour.talking() as (say, hear):
        say(f"SET SESSION innodb_snapshot_isolation = ON; BEGIN; {read};\n")
        before = hear()
        harbour.sql(changed)
        say(f"{read} FOR UPDATE;\n")
        assert hear() == "", f"it was given {before}"


def test_of_two_who_save_one_page_one_is_told_that_it_changed(client, harbour):
    people = [client(ODILE), client(INES)]
    titles = ["First", "Second"]
    for one in people:
        one.headers["If-Match"] = '"1"'
    with at_the_barrier(harbour, "SELECT 'held' FROM content_contentversion WHERE id = 1 FOR UPDATE") as come:
        saves = zip(people, titles, strict=True)
        answers = [come(who, "PATCH", "/api/desk/pages/p3-sail-loft", {"title": title}) for who, title in saves]
    statuses = [answer.result()[0] for answer in answers]
    assert sorted(statuses) == [200, 412]
    [[kept]] = harbour.sql("SELECT title FROM content_node WHERE id = 'p3-sail-loft'")
    assert kept == titles[statuses.index(200)]
