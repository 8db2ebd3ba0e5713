"""Two processes serve, and two people work at once: what counts in one counts in the other's next answer."""

import threading
from concurrent.futures import ThreadPoolExecutor

from tests.served.support import LUDO, ODILE

EVERY_PROCESS = range(16)
"""So many requests, each on a connection of its own, reach both processes."""


def test_what_is_applied_through_one_process_counts_in_the_others_next_answer(client):
    visitor, odile = client(), client(ODILE)

    def statuses() -> set[int]:
        return {visitor("GET", "/site/harbour/shipyard-museum")[0] for _ in EVERY_PROCESS}

    assert statuses() == {200}
    limit = {"kind": "set-limit", "node": "museum", "to": {"kind": "role", "id": "everyone"}}
    stop = limit | {"effect": "stop", "applies": "branch", "actions": ["see"]}
    assert odile("POST", "/api/change-set/operations", {"operations": [stop]})[0] == 200
    assert odile("POST", "/api/change-set/apply")[0] == 200
    assert statuses() == {404}


def test_a_page_published_through_one_process_is_listed_by_all_and_no_longer_once_it_is_retired(client):
    visitor, odile = client(), client(ODILE)

    def listed() -> set[bool]:
        pages = (visitor("GET", "/site/harbour/events/summer-season")[1] for _ in EVERY_PROCESS)
        return {"Night of lanterns" in page for page in pages}

    def step(name: str) -> None:
        version = odile("GET", "/api/desk/pages/lantern-night")[1]["version"]
        odile.headers["If-Match"] = f'"{version}"'
        assert odile("POST", f"/api/desk/pages/lantern-night/{name}")[0] == 200

    assert listed() == {False}
    step("publish")
    assert listed() == {True}
    step("retire")
    assert listed() == {False}


def test_the_api_answers_json_to_whoever_is_signed_in_and_problems_to_others(client):
    assert client()("GET", "/api/roles")[1]["reason"] == "not-signed-in"
    status, roles = client(ODILE)("GET", "/api/roles")
    assert (status, roles[0]["key"]) == (200, "everyone")


def test_of_two_who_apply_at_once_one_is_told_and_neither_is_lost(client, harbour):
    """Both say something else about one answer. Whoever comes second is refused, whole."""
    sayings = {ODILE: "team", LUDO: "all"}
    people = {email: client(email) for email in sayings}
    for email, says in sayings.items():
        edit = {"kind": "set-answer", "role": "tenant-editor", "capability": "event.edit", "says": says}
        assert people[email]("POST", "/api/change-set/operations", {"operations": [edit]})[0] == 200
    [[version]] = harbour.sql("SELECT number FROM access_policyversion")
    together = threading.Barrier(2)

    def apply_as(email: str) -> int:
        together.wait()
        return people[email]("POST", "/api/change-set/apply")[0]

    with ThreadPoolExecutor(2) as pool:
        answered = dict(zip(sayings, pool.map(apply_as, sayings), strict=True))
    assert sorted(answered.values()) == [200, 409]
    [winner] = [email for email, status in answered.items() if status == 200]
    said = "SELECT says FROM access_answer WHERE role_id = 'tenant-editor' AND capability = 'event.edit'"
    assert harbour.sql(said) == [[sayings[winner]]]
    assert harbour.sql("SELECT number FROM access_policyversion") == [[str(int(version) + 1)]]
    assert harbour.sql("SELECT COUNT(*) FROM ledger_entry WHERE kind = 'change-set.applied'") == [["1"]]
    assert harbour.sql("SELECT COUNT(*) FROM access_changeset WHERE state = 'open'") == [["1"]]


def test_one_name_makes_one_role_however_many_ask_at_once(client):
    people = [client(ODILE) for _ in range(8)]
    with ThreadPoolExecutor(len(people)) as at_once:
        answers = list(at_once.map(lambda one: one("POST", "/api/roles", {"name": "Slipway crew"}), people))
    assert sorted(status for status, _ in answers) == [201] + [422] * 7
    refusals = [answer["errors"] for status, answer in answers if status == 422]
    assert refusals == [[{"pointer": "/name", "message": "Another role is called Slipway crew already."}]] * 7
