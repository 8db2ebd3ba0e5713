"""Reports: made by the worker, of what their maker may know; what they say is so, and in the language."""

import csv
import io
import json
import zipfile
from datetime import timedelta
from random import Random

import pytest
from django.utils import timezone

from gonfalon.clock import now
from gonfalon.core.checks.expectations import prove
from gonfalon.core.cli.main import main
from gonfalon.core.decide.grants import RoleResolver
from gonfalon.core.decide.outcome import Outcomes
from gonfalon.core.document.requests import RANGES
from gonfalon.core.document.writer import write_policy
from gonfalon.core.model.policy import Expectation
from gonfalon.core.sentences.changes import Answer, read_change
from gonfalon.core.sentences.questions import read_expectation
from gonfalon.core.sentences.scanner import Unclear
from gonfalon.verify.documents import whole_policy
from gonfalon.verify.lexicon import lexicon_of
from gonfalon.verify.models import Report
from gonfalon.verify.reports.making import make
from gonfalon.verify.said import is_so
from gonfalon.viewpoint.viewpoint import viewpoint
from tests.api.support import apply, ok, refused
from tests.api.worker import work

ABOUT = [
    {"about": "branch", "id": "moorings"},
    {"about": "branch", "id": "p3-sail-loft"},
    {"about": "role", "id": "tenant-editor"},
    {"about": "role", "id": "pilot"},
    {"about": "role", "id": "everyone"},
    {"about": "account", "id": "ines"},
    {"about": "account", "id": "odile"},
    {"about": "account", "id": "renzo"},
    {"about": "group", "id": "pilots"},
    {"about": "everything"},
]


def made(asking, **asked):
    id = ok(asking.post("reports", asked), 201)["id"]
    work()
    report = ok(asking.get(f"reports/{id}"))
    assert report["state"] == "made", report
    return report


def sections(report):
    return {section["title"]: section for section in report["told"]["sections"]}


def sentences(report):
    rows = [row for section in report["told"]["sections"] for row in section["rows"]]
    return [said for row in rows for said in row["sentences"]]


def is_told(change, policy):
    """Whether it is so: of an answer also where the role takes it from another, or has it from the baseline."""
    if not isinstance(change, Answer):
        return is_so(change, policy)
    outcome = Outcomes(RoleResolver(policy), change.role).of(change.capability)
    return outcome.says == change.says or (outcome.given and change.capability.endswith(".create"))


@pytest.mark.parametrize("asked", ABOUT, ids=lambda asked: "-".join(asked.values()))
def test_every_sentence_of_it_is_so(asked, odile):
    """Read back, it is what the engine answers, or what the policy says."""
    report = made(odile, **asked)
    here = viewpoint("odile", now())
    lexicon, read = lexicon_of(here), 0
    expected = {row["sentence"] for row in ok(odile.get("expectations"))}
    for text in sentences(report):
        if text in expected or text.startswith("And "):
            continue
        read += 1
        try:
            question, expect, reason = read_expectation(text, lexicon)[0]
        except Unclear:
            assert is_told(read_change(text, lexicon), here.snapshot.policy), text
            continue
        [result] = prove(here.engine, [Expectation("e", question, expect, reason)], here.at)
        assert result.holds, text
        assert result.asked, text
    assert read or asked["id"] in ("odile", "renzo")


@pytest.mark.parametrize("seed", range(2))
def test_of_anything_drawn_at_random_it_says_what_the_command_line_decides(odile, seed, tmp_path, capsys):
    """Roles, people and branches: each answer that a report says is what `gonfalon decide` says of the same policy."""
    random, here = Random(seed), viewpoint("odile", now())
    branch = random.choice(here.engine.tree.nodes).id
    account = random.choice(sorted(id for id, one in here.snapshot.policy.accounts.items() if one.state == "active"))
    role = random.choice(sorted(here.snapshot.policy.roles))
    asked, expected = [], []
    lexicon = lexicon_of(here)
    for about, id in (("branch", branch), ("account", account), ("role", role)):
        for text in sentences(made(odile, about=about, id=id)):
            try:
                question, expect, _ = read_expectation(text, lexicon)[0]
            except Unclear:
                continue  # a change, or how many more there are
            if question.keys() & {"branch", *RANGES}:
                continue  # many at once: these are proved above
            asked.append({**question, "at": here.at.isoformat()})
            expected.append(expect)
    policy, questions = tmp_path / "policy.json", tmp_path / "questions.jsonl"
    policy.write_text(json.dumps(write_policy(whole_policy())))
    questions.write_text("\n".join(map(json.dumps, asked)))
    assert main(["decide", "--policy", str(policy), "--questions", str(questions)]) == 0
    answers = [json.loads(line)["allow"] for line in capsys.readouterr().out.splitlines()]
    assert answers == [expect == "allow" for expect in expected]
    assert answers, (branch, account, role)


def test_what_a_person_can_do_is_said_of_every_page(odile):
    rows = {
        row["cells"][0]: row for row in sections(made(odile, about="account", id="ines"))["What they can do"]["rows"]
    }
    assert rows["retire"]["sentences"][0].startswith("Ines Marrow may retire ")
    assert all(row["sentences"] for row in rows.values())


def test_a_branch_tells_who_can_do_what_there_and_through_what(odile):
    report = made(odile, about="branch", id="p3-sail-loft", reader="Ines Marrow, Sail loft")
    assert report["told"]["title"] == "Who can do what in Pier 3, Sail loft"
    assert report["head"].endswith("made by Odile Varga for Ines Marrow, Sail loft")
    rows = {row["cells"][0]: row for row in sections(report)["Who can edit"]["rows"]}
    assert rows["Ines Marrow"]["sentences"] == ["Ines Marrow may edit anything in Pier 3, Sail loft."]
    assert "Tenant editor" in rows["Ines Marrow"]["cells"][2]
    assert rows["Ines Marrow"]["cloths"] == ["tenant-editor"]
    publish = {row["cells"][0] for row in sections(report)["Who can publish"]["rows"]}
    assert "Ines Marrow" not in publish
    stands = [row["cells"][1] for row in sections(report)["What is expected to stay so"]["rows"]]
    assert stands == ["holds, 1 answers"] * 2


def test_of_a_role_it_tells_what_was_tried_and_what_that_proves(odile, lone):
    report = made(odile, about="role", id="tenant-editor")
    rows = {row["cells"][0]: row for row in sections(report)["What was tried of it"]["rows"]}
    walked = ok(odile.get("walk-lists/walk-tenant-editor"))
    assert len(rows) == walked["proved"] > 30
    assert {"count": walked["proved"], "words": f"of {walked['items']} things to try are proved"} in report["told"][
        "facts"
    ]
    edits = rows["edit their own berth pages"]
    assert edits["cells"][1] == "done"
    assert edits["sentences"] == ["Somebody with Tenant editor as the author may edit Pier 3, Sail loft."]
    assert rows["must not publish pictures, documents, berth pages, events or articles"]["cells"][1].startswith(
        "refused"
    )
    roles = {row["cells"][0]: row["cells"] for row in sections(made(odile, about="everything"))["Roles"]["rows"]}
    assert roles["Tenant editor"][2] == f"{walked['proved']} of {walked['items']}"
    assert roles["Pilot"][2] == ""


def test_what_was_tried_is_told_of_now_and_to_whoever_keeps_expectations(odile, lone):
    then = made(odile, about="role", id="tenant-editor", at=(now() + timedelta(days=9)).isoformat())
    assert "What was tried of it" not in sections(then)
    asking = lone("roster.see", "roles.define")
    assert "What was tried of it" not in sections(made(asking, about="role", id="tenant-editor"))


def test_it_is_as_of_a_day(odile):
    before = timezone.now()
    apply(odile, {"kind": "set-answer", "role": "pilot", "capability": "event.see-draft", "says": "all"})

    def gives(**when):
        return [
            row["cells"][0] for row in sections(made(odile, about="role", id="pilot", **when))["What they may"]["rows"]
        ]

    assert "see unpublished events" in gives()
    assert "see unpublished events" not in gives(at=before.isoformat())
    later = (before + timedelta(days=4000)).isoformat()
    assert made(odile, about="role", id="season-intern", at=later)["told"]["facts"][0]["count"] == 0
    problem = refused(odile.post("reports", {"about": "everything", "at": "9999-01-01T00:00:00Z"}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/at"


def test_it_is_taken_away_as_a_spreadsheet_and_as_a_table(odile):
    report = made(odile, about="role", id="tenant-editor")
    book = odile.get(f"reports/{report['id']}/spreadsheet")
    with zipfile.ZipFile(io.BytesIO(book.content)) as whole:
        assert b"What they may" in whole.read("xl/workbook.xml")
        assert sentences(report)[0].encode() in whole.read("xl/sharedStrings.xml")
    text = odile.get(f"reports/{report['id']}/table").content.decode("utf-8-sig")
    head, *rows = csv.reader(io.StringIO(text))
    assert (head[0], head[-1]) == ("section", "sentences")
    assert [row[-1] for row in rows] == [
        " ".join(row["sentences"]) for section in report["told"]["sections"] for row in section["rows"]
    ]


def test_it_tells_no_more_than_its_maker_may_know_and_says_so(ask, odile):
    apply(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "roster.see", "says": "yes"})
    ines = ask("ines")
    for about, id in (("branch", "p3-sail-loft"), ("role", "pilot")):
        problem = refused(ines.post("reports", {"about": about, "id": id}), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/about", "it is for whoever sets limits, or defines roles"
    for duty in ("limits.set", "roles.define"):
        apply(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": duty, "says": "yes"})
    ines = ask("ines")
    refused(ines.post("reports", {"about": "branch", "id": "harbour-office"}), "invalid", 422)
    report = made(ines, about="role", id="season-intern")
    assert "Harbour office" not in str(report)
    assert "Limits on what its maker does not see." in report["told"]["left_out"]
    assert "What is expected: its maker does not keep expectations." in report["told"]["left_out"]
    refused(odile.get(f"reports/{report['id']}"), "not-found", 404)
    whole = str(made(ines, about="everything"))
    assert "Minutes of October" not in whole


def test_of_a_branch_with_pages_out_of_sight_it_tells_of_no_whole(ask, odile):
    for duty in ("roster.see", "limits.set"):
        apply(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": duty, "says": "yes"})
    report = made(ask("ines"), about="branch", id="home-harbour")
    assert "Pages that its maker does not see." in report["told"]["left_out"]
    told = sentences(report)
    assert len(told) > 100
    assert [said for said in told if "anything" in said] == [], "it would tell of the pages that are not seen"


def test_whoever_may_not_be_told_any_more_gets_none(ask, odile):
    apply(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "roster.see", "says": "yes"})
    id = ok(ask("ines").post("reports", {"about": "everything"}), 201)["id"]
    apply(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "roster.see", "says": None})
    work()
    row = Report.objects.get(pk=id)
    assert (row.state, row.told) == ("closed", None)
    refused(ask("ines").get(f"reports/{id}"), "not-granted")


def test_it_is_kept_for_a_week_and_taken_away_before_where_one_likes(odile):
    first = made(odile, about="group", id="pilots")
    Report.objects.filter(pk=first["id"]).update(until=now())
    second = made(odile, about="group", id="pilots")
    refused(odile.get(f"reports/{first['id']}"), "not-found", 404)
    ok(odile.delete(f"reports/{second['id']}"), 204)
    refused(odile.get(f"reports/{second['id']}"), "not-found", 404)


@pytest.mark.parametrize(
    ("asked", "pointer"),
    [
        ({"about": "moon"}, "/about"),
        ({"about": "role", "id": "captain"}, "/id"),
        ({"about": "branch"}, "/id"),
        ({"about": "everything", "id": "x"}, "/id"),
        ({"about": "everything", "at": "soon"}, "/at"),
        ({"about": "everything", "reader": "x" * 151}, "/reader"),
    ],
)
def test_bad_input_names_the_field(asked, pointer, odile):
    assert refused(odile.post("reports", asked), "invalid", 422)["errors"][0]["pointer"] == pointer


def test_one_that_cannot_be_made_is_told_and_nobody_waits(odile, monkeypatch):
    def breaks(*_):
        raise ZeroDivisionError

    id = ok(odile.post("reports", {"about": "everything"}), 201)["id"]
    with monkeypatch.context() as broken:
        broken.setattr("gonfalon.verify.reports.making.Maker.about", breaks)
        with pytest.raises(ZeroDivisionError):
            make.func(id)
    assert ok(odile.get(f"reports/{id}"))["state"] == "closed"
    assert make.func(id) == "gone", "it is made once"


def test_what_is_too_much_to_keep_is_told_by_its_number(odile, monkeypatch):
    monkeypatch.setattr("gonfalon.verify.reports.parts.MOST_ROWS", 3)
    monkeypatch.setattr("gonfalon.verify.reports.parts.MOST_SENTENCES", 2)
    told = sections(made(odile, about="branch", id="p3-sail-loft"))
    assert len(told["Who can edit"]["rows"]) == 4
    assert told["Who can edit"]["rows"][-1]["cells"][0].startswith("And ")
    together = next(row for row in told["Who can see"]["rows"] if row["cells"][0].endswith(" people"))
    assert (len(together["sentences"]), together["sentences"][-1][:4]) == (3, "And ")
