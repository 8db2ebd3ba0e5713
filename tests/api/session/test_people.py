"""What the session tells different people is open to them, and that the server holds to it."""

import pytest

from tests.api.support import in_tree, ok, refused

PLACES = {
    "odile": {"define", "assign", "limit", "verify", "desk", "ledger"},
    "ludo": {"define", "assign", "limit", "verify", "desk", "ledger"},
    "bashir": {"assign", "verify", "desk"},
    "tomasz": {"desk"},
    "ines": {"desk"},
    "aiko": {"desk"},
    "marit": set(),
}
ASKED = {
    "define": "roles/pilot",
    "assign": "accounts",
    "limit": "limits",
    "verify": "expectations",
    "desk": "desk/children",
    "ledger": "ledger",
}


@pytest.mark.parametrize("account", PLACES)
def test_what_is_shown_as_open_is_open_and_the_rest_is_refused(ask, account):
    asking = ask(account)
    assert set(ok(asking.get("session"))["places"]) - {"reviews", "hand-out"} == PLACES[account]
    for place, path in ASKED.items():
        if place in PLACES[account]:
            ok(asking.get(path))
        else:
            refused(asking.get(path), "not-granted")


@pytest.mark.parametrize("account", ["tomasz", "ines", "aiko", "stellan", "marit"])
@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("roles", {"name": "Mine"}),
        ("change-set/operations", {"operations": [{"kind": "drop-limit", "limit": "limit-1"}]}),
        ("change-set/apply", {}),
        ("stand-in", {"account": "aiko"}),
        ("expectations", {"account": "aiko", "action": "see", "node": "fees", "expect": "deny"}),
    ],
)
def test_nobody_without_the_duty_changes_access(ask, account, path, body):
    refused(ask(account).post(path, body), "not-granted")


@pytest.mark.parametrize("account", ["ines", "aiko", "halla", "tomasz", "mireille", "edda", "ludo"])
def test_a_page_offers_exactly_what_the_server_lets_happen(ask, account):
    """Every action a page offers passes its door, every one it does not offer is refused."""
    asking = ask(account)
    for row in list(in_tree(asking).values())[::9]:
        if row["context"]:
            continue
        path = f"desk/pages/{row['id']}"
        page = asking.get(path)
        may = set(ok(page)["may"])
        tag = {"If-Match": page["ETag"]}
        saved = asking.patch(path, {"title": page.data_read["title"]}, **tag)
        assert (saved.status_code == 200) == ("edit" in may), (row["id"], saved.content)
        for action, name in (("publish", "publish"), ("retire", "retire"), ("hand-in", "edit")):
            # A version nobody has: it passes the door and changes nothing.
            tried = asking.post(f"{path}/{action}", **{"If-Match": '"0"'})
            assert (tried.status_code != 403) == (name in may), (row["id"], action, tried.content)
