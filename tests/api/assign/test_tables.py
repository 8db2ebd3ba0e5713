"""Tables of people: looked at row by row first, brought in whole or not at all, the same twice changing nothing."""

import csv
import io

import pytest

from gonfalon.access.people_table import MOST_ROWS
from gonfalon.access.snapshot import current
from gonfalon.accounts.models import Account
from gonfalon.ledger.models import Entry
from gonfalon.mail.models import Letter
from tests.api.support import ok, refused
from tests.api.worker import work

TABLE = """name,email,groups,roles
Ada Sund,ada@post.example,Pilots|pier-3,Pilot
Ines Marrow,INES@sailloft.example,pilots,
"""
CHANGES = {
    "as it is": lambda text: text,
    "semicolons": lambda text: "\ufeff" + text.replace(",", ";"),
    "other line ends": lambda text: text.replace("\n", "\r\n"),
}


def brought(odile, text, **more):
    return odile.post("accounts/import", {"text": text, **more})


def rows_of(answer):
    return list(csv.DictReader(io.StringIO(answer.content.decode("utf-8-sig"))))


def test_a_look_tells_what_each_row_would_do_and_does_nothing(odile):
    told = ok(brought(odile, TABLE))
    assert (told["new"], told["changed"], told["same"], told["done"]) == (1, 1, 0, False)
    assert [(r["line"], r["outcome"], r["groups"], r["roles"]) for r in told["rows"]] == [
        (2, "new", ["pilots", "pier-3"], ["pilot"]),
        (3, "changed", ["pilots"], []),
    ]
    assert not Account.objects.filter(email="ada@post.example").exists()


@pytest.mark.parametrize("change", CHANGES)
def test_it_is_brought_in_and_a_second_time_changes_nothing(odile, change):
    text = CHANGES[change](TABLE)
    ok(brought(odile, text, apply=True))
    ada = Account.objects.get(email="ada@post.example")
    assert current().policy.accounts[ada.id].groups == {"pilots", "pier-3"}
    assert "pilots" in current().policy.accounts["ines"].groups
    before = current().policy
    again = ok(brought(odile, text, apply=True))
    assert (again["new"], again["changed"], again["same"]) == (0, 0, 2)
    assert current().policy == before


def test_what_cannot_be_is_told_by_line_and_column_and_nothing_is_brought_in(odile):
    text = "name,email,groups\n,nonsense,\nBo,bo@post.example,Nobody's\nBo,BO@post.example,\n"
    text += "x" * 121 + ",c@post.example,\n"
    told = ok(brought(odile, text))
    assert [(f["line"], f["column"]) for f in told["faults"]] == [
        (2, "name"), (2, "email"), (3, "groups"), (4, "email"), (5, "name"),
    ]  # fmt: skip
    problem = refused(brought(odile, text, apply=True), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/text"
    assert "Line 2" in problem["errors"][0]["message"]
    assert not Account.objects.filter(email="bo@post.example").exists()


@pytest.mark.parametrize(
    "text",
    [
        "name\nAda\n",
        " \n",
        "name,email\n" + "x" * 200_000 + ",a@b.example\n",
        "\x1f",
        "name,email\n" + "a,a@b.example\n" * (MOST_ROWS + 1),
    ],
)
def test_a_table_that_is_none_says_so(odile, text):
    told = odile.post("accounts/import", {"text": text})
    assert told.status_code == 422 or told.data_read["faults"]


def test_words_of_an_older_site_are_mapped_to_roles_of_ours(odile):
    text = "name,email,roles\nAda,ada@post.example,Redaktør\nBo,bo@post.example,Redaktør|Nothing\n"
    assert ok(brought(odile, text))["unmapped"] == {"Redaktør": 2, "Nothing": 1}
    refused(brought(odile, text, apply=True), "invalid", 422)
    ok(brought(odile, text, apply=True, role_map={"Redaktør": "duty-editor", "Nothing": ""}))
    for name in ("ada", "bo"):
        id = Account.objects.get(email=f"{name}@post.example").id
        assert [a.role for a in current().policy.assignments.values() if a.to.id == id] == ["duty-editor"]
    problem = brought(odile, text.replace("bo@", "bea@"), role_map={"Redaktør": "everyone", "Nothing": ""})
    assert ok(problem)["faults"]


def test_invitations_are_sent_when_asked_for(odile):
    ok(brought(odile, TABLE, apply=True, invite=True))
    work()
    assert [letter.to for letter in Letter.objects.all()] == ["ada@post.example"]
    assert Entry.objects.filter(kind="account.invited", actor="odile").count() == 1


def test_roles_and_groups_ask_for_their_own_duty(lone):
    asking = lone("accounts.invite", "roster.see")
    refused(brought(asking, TABLE, apply=True), "not-granted")
    assert not Account.objects.filter(email="ada@post.example").exists()
    ok(brought(asking, "name,email\nAda,ada@post.example\n", apply=True))
    refused(brought(lone("accounts.invite"), TABLE), "not-granted")


def test_the_roster_is_kept_as_a_table_that_can_be_brought_in_again(odile):
    Account.objects.filter(pk="ines").update(name="=HYPERLINK(1)")
    answer = odile.client.get("/api/accounts/export?group=pier-3")
    rows = {row["email"]: row for row in rows_of(answer)}
    assert rows["noor@seaschool.example"]["groups"] == "Pier 3"
    assert rows["noor@seaschool.example"]["roles"] == "Tenant editor"
    assert rows["ines@sailloft.example"]["name"] == "'=HYPERLINK(1)"
    again = ok(brought(odile, answer.content.decode("utf-8")))
    assert (again["new"], again["faults"]) == (0, [])
