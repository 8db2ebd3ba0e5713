"""Expectations as a text: read, written as a whole, asked line by line; groups, what broke one, found by words."""

import pytest

from gonfalon.access.catalogue import VERB_WORDS
from gonfalon.access.models import Assignment, Role
from gonfalon.access.words import SENTENCES, subject_of
from gonfalon.clock import now
from gonfalon.core.document.reader import load_policy
from gonfalon.core.document.writer import write_policy
from gonfalon.core.model.vocabulary import SAYS
from gonfalon.core.sentences.changes import Answer, read_change, write_change
from gonfalon.ledger.models import Entry
from gonfalon.verify.documents import whole_policy
from gonfalon.verify.lexicon import lexicon_of
from gonfalon.verify.models import Expectation, ExpectationGroup
from gonfalon.viewpoint.viewpoint import viewpoint
from tests.api.support import apply, ok, refused

PATH = "expectations/sentences"


def read(asking):
    response = asking.get(PATH)
    assert response.status_code == 200
    return response.content.decode(), response["ETag"]


def write(asking, text, tag=None):
    return asking.put(PATH, text, **{"If-Match": tag or read(asking)[1]})


def said(asking, *lines):
    return ok(asking.post("sentences", {"text": "\n".join(lines)}))


def rows():
    return list(Expectation.objects.order_by("pk").values_list("pk", "question", "expect", "note", "group"))


class TestTheFile:
    def test_it_is_read_and_written_back_without_a_change(self, odile):
        text, tag = read(odile)
        before = rows()
        assert "Holders of Tenant editor may not publish berth pages in Moorings.\n" in text
        assert "Visitors may not see anything in Harbour office.\n" in text
        assert write(odile, text, tag).status_code == 200
        assert rows() == before
        assert Entry.objects.first().kind != "expectations.written", "nothing was said anew"

    def test_lines_that_stay_keep_their_ids_and_groups_are_headings(self, odile):
        kept = Expectation.objects.get(pk="expectation-02")
        text = (
            "What Ines was promised:\n# by letter\nInes Marrow may edit Pier 3, Sail loft. # hers\n"
            "Visitors may see anything of their own in Fees and dues.\n"
        )
        response = write(odile, text)
        assert response.status_code == 200, response.content
        kept.refresh_from_db()
        assert (kept.group.name, kept.group.note, kept.note) == ("What Ines was promised", "by letter", "hers")
        assert Expectation.objects.count() == 2
        entry = Entry.objects.first()
        assert (entry.kind, entry.summary) == ("expectations.written", "Wrote the expectations: 1 new, 11 dropped")
        assert response.content.decode() == text
        groups = ok(odile.get("expectations/groups"))
        assert [(g["name"], g["expectations"], g["breaking"]) for g in groups["groups"]] == [
            ("What Ines was promised", 2, 0)
        ]

    def test_what_is_out_of_its_writers_sight_stays(self, ask, odile):
        minutes = {"account": "ines", "action": "see", "node": "min-2026-10", "expect": "deny", "group": "The office"}
        hidden = ok(odile.post("expectations", minutes), 201)["id"]
        apply(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "expectations.keep", "says": "yes"})
        ines = ask("ines")
        text, _ = read(ines)
        assert "Minutes" not in text
        assert write(ines, "Visitors may see Pier 3, Sail loft.").status_code == 200
        left = Expectation.objects.get(pk=hidden)
        assert left.group.name == "The office"

    def test_two_at_once_are_noticed(self, odile):
        _, tag = read(odile)
        refused(odile.put(PATH, "Visitors may not see Harbour office."), "precondition-required", 428)
        ok(odile.delete("expectations/expectation-03"), 204)
        problem = refused(write(odile, "Visitors may not see Harbour office.", tag), "changed-meanwhile", 412)
        assert "Ines Marrow may edit Pier 3, Sail loft." in problem["theirs"]
        assert Expectation.objects.count() == 11

    def test_what_makes_no_sense_is_told_by_its_line_and_nothing_is_kept(self, odile):
        text = "Visitors may see Atlantis.\nVisitors may see Fees.\nVisitors may open the desk until 1 May 1999.\n:"
        errors = refused(write(odile, text), "invalid", 422)["errors"]
        assert [(error["pointer"], error["line"]) for error in errors] == [("/1", 1), ("/2", 2), ("/4", 4)]
        assert text.split("\n")[0][errors[0]["at"] :][: errors[0]["length"]] == "Atlantis"
        assert Expectation.objects.count() == 12

    def test_what_cannot_be_asked_or_is_too_much_is_told_too(self, odile, monkeypatch):
        monkeypatch.setattr("gonfalon.verify.expectation_file.MOST_ANSWERS", 20)
        text = "Visitors may see the telephone of Harbour office.\nVisitors may see anything in Moorings."
        errors = refused(write(odile, text), "invalid", 422)["errors"]
        assert ["more than 20" in error["message"] for error in errors] == [False, True]

    def test_a_file_asks_no_more_than_so_much_altogether(self, odile, monkeypatch):
        monkeypatch.setattr("gonfalon.verify.expectation_file.MOST_IN_A_FILE", 20)
        text = "Visitors may not see anything in Harbour office.\nVisitors may see anything in Harbour office."
        [error] = refused(write(odile, text), "invalid", 422)["errors"]
        assert (error["line"], "altogether" in error["message"]) == (2, True)

    def test_an_empty_one_expects_nothing_any_more(self, odile):
        assert write(odile, "").status_code == 200
        assert (Expectation.objects.count(), ExpectationGroup.objects.count()) == (0, 0)
        assert read(odile)[0] == ""

    def test_with_keys_it_is_for_who_knows_keys_alone(self, odile):
        text = odile.get(f"{PATH}?keys=yes").content.decode()
        assert '"Ines Marrow" (ines) may edit "Pier 3, Sail loft" (p3-sail-loft).' in text

    def test_a_text_that_is_none_is_refused(self, odile):
        _, tag = read(odile)
        latin = odile.client.put(f"/api/{PATH}", b"\xe9", content_type="text/plain", headers={"If-Match": tag})
        assert latin.status_code == 400
        long = odile.client.put(f"/api/{PATH}", b"x" * 3_000_000, content_type="text/plain", headers={"If-Match": tag})
        assert long.status_code == 413
        lines = refused(write(odile, "\n" * 13_000), "invalid", 422)
        assert "at most 12,000 lines" in lines["errors"][0]["message"]


class TestALine:
    def test_what_is_expected_tells_whether_it_holds(self, odile):
        holds, breaks = said(odile, "Ines Marrow may edit Pier 3, Sail loft.", "Visitors may see Minutes of October.")
        assert (holds["kind"], holds["so"], holds["asked"]) == ("expectation", True, 1)
        assert [part["text"] for part in holds["parts"] if part["sort"]] == ["Ines Marrow", "Pier 3, Sail loft"]
        assert (breaks["so"], breaks["against"]["name"]) == (False, "A visitor")

    def test_a_question_is_answered(self, odile):
        [answer] = said(odile, "may ines marrow publish pier 3, sail loft?")
        assert (answer["kind"], answer["so"], answer["reason"]) == ("question", False, "not-granted")
        assert answer["parts"][0]["text"] == "May Ines Marrow publish Pier 3, Sail loft?"
        [made_up] = said(odile, "May somebody with Tenant editor as the author edit Pier 3, Sail loft?")
        assert made_up["so"]

    def test_what_should_be_is_staged_where_it_is_not(self, odile):
        lines = said(
            odile,
            "Holders of Pilot may see all events.",
            "Ines Marrow holds Pilot on Notices to mariners until 30 June 2027.",
            "Stop edit for holders of Pilot on Harbour office, here only.",
            "Members of Tenants may never publish events, whatever else they hold.",
            "Members of Tenants may never publish events.",
            "Holders of Pilot may see all the hazard level of notices to mariners by the rule of this field.",
        )
        assert [line["kind"] for line in lines] == ["change", "change", "change", "unclear", "change", "change"]
        operations = [operation for line in lines for operation in line["operations"]]
        assert [operation["kind"] for operation in operations] == [
            "set-answer", "give-role", "set-limit", "give-capability", "set-field-rule",
        ]  # fmt: skip
        apply(odile, *operations)
        given = Assignment.objects.get(account="ines", role="pilot")
        assert (given.scope, given.ends.isoformat()) == ({"branches": ["notices"]}, "2027-06-30T00:00:00+00:00")
        again = said(
            odile,
            "Holders of Pilot may see all events.",
            "Ines Marrow holds Pilot on Notices to mariners until 30 June 2027.",
            "Stop edit for holders of Pilot on Harbour office, here only.",
            "Members of Tenants may never publish events.",
        )
        assert [(line["so"], line["operations"]) for line in again] == [(True, [])] * 4

    def test_all_lines_together_ask_no_more_than_one_may(self, odile, monkeypatch):
        monkeypatch.setattr("gonfalon.api.verify.sentences.MOST_ANSWERS", 15)
        first, second, third = said(
            odile, *["Visitors may not see anything in Harbour office."] * 2, "Visitors may see Fees?"
        )
        assert (first["so"], second["so"]) == (True, None)
        assert second["message"].startswith("This is asked once it is kept")
        assert third["kind"] == "unclear"

    def test_where_it_makes_no_sense_it_tells_what_could_stand_there(self, odile):
        [line] = said(odile, "Holders of Season intern may edit the Night of lantern")
        assert (line["kind"], [offer["text"] for offer in line["offers"]]) == ("unclear", ["Night of lanterns"])

    def test_nothing_is_named_that_is_out_of_sight(self, ask, odile):
        apply(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "expectations.keep", "says": "yes"})
        [there, nowhere, begun] = said(
            ask("ines"), "Visitors may see Minutes of October.", "Visitors may see Atlantis.", "Visitors may see Minu"
        )
        assert (there["kind"], nowhere["kind"]) == ("unclear", "unclear")
        assert there["message"].replace("Minutes", "Atlantis") == nowhere["message"]
        assert [offer for offer in begun["offers"] if "October" in offer["text"]] == []

    def test_whether_a_change_is_made_is_told_to_whoever_may_make_it(self, ask, odile):
        apply(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "expectations.keep", "says": "yes"})
        lines = said(
            ask("ines"),
            "Ines Marrow holds Tenant editor.",
            "Ines Marrow holds Pilot.",
            "Holders of Pilot may see all events.",
            "Stop edit for holders of Pilot on Pier 3, Sail loft, here only.",
        )
        assert [(line["kind"], line["so"], line["operations"]) for line in lines] == [("change", None, [])] * 4

    def test_it_is_for_whoever_keeps_expectations_and_bounded(self, ask, odile):
        refused(ask("ines").post("sentences", {"text": "Visitors may see Fees."}), "not-granted")
        refused(odile.post("sentences", {"text": "\n" * 60}), "invalid", 422)
        refused(odile.post("sentences", {"text": "x" * 20_001}), "invalid", 422)
        assert [line["kind"] for line in said(odile, "", "# a note", "Heading:")] == ["nothing", "nothing", "heading"]


EVERY = [
    {"account": "ines", "action": "create", "type": "event", "node": "events", "topics": []},
    {"account": "ines", "action": "insert-component", "component": "text", "node": "p3-sail-loft"},
    {"account": "ines", "action": "change-facet", "component": "text", "facet": "wording", "node": "p3-sail-loft"},
    {"account": "ines", "action": "stand-in", "for": {"account": "edda"}},
    {"account": "ines", "action": "hand-out", "role": "pilot", "to": {"account": "edda"}},
    {"account": "ines", "action": "move", "node": "p3-sail-loft", "to": "fees"},
    {"account": "ines", "action": "see-field", "field": "telephone", "node": {"type": "account", "author": "edda"}},
    {"roles": ["tenant-editor", {"role": "pilot", "scope": {"branches": ["notices"]}}], "groups": ["tenants"],
     "own": True, "action": "edit", "node": "p3-sail-loft"},
    {"account": None, "action": "see", "branch": "harbour-office", "whose": "own"},
    {"holders_of": "pilot", "action": "desk.open", "from": "2027-01-01T00:00:00Z", "until": "2027-02-01T00:00:00Z"},
    {"account": "ines", "action": "edit", "node": "p3-sail-loft", "working": True},
]  # fmt: skip


@pytest.mark.parametrize("question", EVERY, ids=lambda question: question["action"])
def test_every_question_of_the_rules_is_recorded_and_said(question, odile):
    made = ok(odile.post("expectations", {**question, "expect": "deny", "group": "All"}), 201)
    assert made["group"] == ExpectationGroup.objects.get(name="All").id
    text, _ = read(odile)
    assert made["sentence"] in text
    assert write(odile, text).status_code == 200
    assert Expectation.objects.filter(pk=made["id"]).exists()


@pytest.mark.parametrize(
    ("question", "pointer"),
    [
        ({"account": "ines", "action": "stand-in", "for": {"account": "nobody"}}, "/for"),
        ({"account": "ines", "action": "move", "node": "p3-sail-loft", "to": "atlantis"}, "/to"),
        ({"roles": ["captain"], "action": "edit", "node": "fees"}, "/roles"),
        ({"account": "ines", "action": "edit", "branch": "fees", "whose": "all"}, "/whose"),
        ({"account": "ines", "action": "edit", "node": "fees", "from": "soon"}, "/from"),
        ({"account": "ines", "action": "edit", "node": "fees", "group": "x" * 101}, "/group"),
    ],
)
def test_what_cannot_be_asked_names_the_field(question, pointer, odile):
    problem = refused(odile.post("expectations", {**question, "expect": "deny"}), "invalid", 422)
    assert problem["errors"][0]["pointer"] == pointer


def test_what_is_expected_already_is_not_recorded_again_and_said_once(odile):
    question = {"account": "ines", "action": "edit", "node": "p3-sail-loft", "working": False, "expect": "allow"}
    told = ok(odile.post("expectations", {**question, "group": "Elsewhere"}), 200)
    assert (told["id"], Expectation.objects.count()) == ("expectation-02", 12)
    assert not ExpectationGroup.objects.filter(name="Elsewhere").exists()
    twin = Expectation.objects.create(
        id="twin", question=Expectation.objects.get(pk=told["id"]).question, expect="allow"
    )
    text, _ = read(odile)
    assert text.count("Ines Marrow may edit Pier 3, Sail loft.") == 1
    assert write(odile, text).status_code == 200, "as from before that was minded"
    assert Expectation.objects.filter(pk__in=[told["id"], twin.id]).count() == 1


def test_a_group_without_expectations_is_gone(odile):
    made = ok(odile.post("expectations", {**EVERY[3], "expect": "deny", "group": "Short"}), 201)
    ok(odile.delete(f"expectations/{made['id']}"), 204)
    assert not ExpectationGroup.objects.filter(name="Short").exists()


def test_what_broke_one_is_told_with_who_did_it(ask, odile):
    rows = [
        {"kind": "set-answer", "role": "pilot", "capability": "event.see-draft", "says": "all"},
        {"kind": "set-answer", "role": "tenant-editor", "capability": "berth.edit", "says": "barred"},
        {"kind": "set-answer", "role": "pilot", "capability": "event.see-draft", "says": "own"},
        {"kind": "set-answer", "role": "pilot", "capability": "event.see-draft", "says": None},
    ]
    for row in rows:
        apply(odile, row)
    told = ok(odile.get("expectations/expectation-02/broke"))
    [entry] = told["entries"]
    assert (entry["actor"], entry["at"]) == ("Odile Varga", told["at"])
    assert [change["now"] for change in entry["changes"]] == ["barred"]
    apply(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "expectations.keep", "says": "yes"})
    assert ok(ask("ines").get("expectations/expectation-02/broke")) == {"at": told["at"], "entries": []}
    refused(odile.get("expectations/nothing/broke"), "not-found", 404)


def test_the_list_comes_in_pages_the_broken_first_and_is_narrowed(odile):
    first = odile.get("expectations?limit=2")
    assert (first["Total-Count"], len(ok(first))) == ("12", 2)
    assert not ok(first)[0]["holds"]
    assert [row["id"] for row in ok(odile.get("expectations?breaks=yes"))] == ["expectation-01"]
    found = [row["sentence"] for row in ok(odile.get("expectations?words=HARBOUR office"))]
    assert found == [
        "Visitors may not see anything in Harbour office.",
        "Holders of Season intern may not see anything in Harbour office.",
    ]
    assert ok(odile.get("expectations?words=only pilots"))[0]["note"] == "Only pilots set the hazard level"


def test_what_every_cell_of_every_board_says_is_in_the_language(harbour):
    here = viewpoint("odile", now())
    policy, catalogue, lexicon = here.snapshot.policy, here.catalogue, lexicon_of(here)
    read = 0
    for row in Role.objects.all():
        for capability in catalogue.capabilities():
            kind, _, verb = capability.partition(".")
            graded = capability not in catalogue.duties
            things = catalogue.type(kind).plural if graded else ""
            words = {
                "who": subject_of(row.name, row.baseline),
                "what": catalogue.phrase(capability) if graded else catalogue.duties[capability].phrase,
                "verb": VERB_WORDS[verb][1] if graded else "",
                "things": things,
            }
            for says in (None, *SAYS[policy.kind(capability)]):
                gives = says in ("own", "team", "all")
                form = {None: "nothing"}.get(says, "create" if gives and verb == "create" else says)
                text = "".join(SENTENCES[form]).format(**words)
                meant = "all" if form == "create" else says
                assert read_change(text, lexicon) == Answer(row.key, capability, meant), text
                assert write_change(Answer(row.key, capability, meant), lexicon) == text
                read += 1
    assert read > 10_000


@pytest.mark.parametrize(
    "asked",
    [
        {"account": "ines", "action": "publish", "node": "p3-sail-loft"},
        {"role": "pilot", "action": "see-field", "node": "n-regatta-course", "field": "hazard"},
        {"account": "ines", "action": "create", "node": "events", "type": "event"},
        {"account": "ines", "action": "change-facet", "node": "p3-sail-loft", "component": "text", "facet": "wording"},
        {"account": "ines", "action": "see", "profile": "edda"},
        {"account": "ines", "action": "roles.define"},
    ],
    ids=lambda asked: asked["action"],
)
def test_what_why_asks_is_in_the_language(asked, odile):
    told = ok(odile.get("why", **asked))
    [line] = said(odile, told["question"])
    assert (line["kind"], line["so"], line["reason"]) == ("question", told["allow"], told["reason"])


def test_what_a_role_was_made_for_is_suggested_until_it_is_recorded(odile):
    found = ok(odile.get("expectations/suggested", role="tenant-editor"))
    told = [one["sentence"] for one in found]
    assert "Holders of Tenant editor may see their own berth pages in Skerrow Harbour." not in told, "everybody may"
    assert "Holders of Tenant editor may not publish berth pages in Skerrow Harbour." in told
    for sentence, line in zip(told, said(odile, *told), strict=True):
        assert (line["kind"], line["so"]) == ("expectation", True), sentence
        assert line["asked"], sentence
    first = found[0]
    ok(odile.post("expectations", {**first["question"], "expect": first["expect"]}), 201)
    assert first["sentence"] not in [
        one["sentence"] for one in ok(odile.get("expectations/suggested", role="tenant-editor"))
    ]
    refused(odile.get("expectations/suggested", role="captain"), "not-found", 404)


def test_a_document_leaves_out_what_asks_of_pages_in_the_bin_wherever_they_are_named(odile):
    scope = {"branches": ["p3-sail-loft"]}
    made = [
        {"roles": [{"role": "pilot", "scope": scope}], "action": "desk.open"},
        {"account": "ines", "action": "hand-out", "role": "pilot", "to": {"account": "edda"}, "scope": scope},
        {"account": "ines", "action": "move", "node": "fees", "to": "p3-sail-loft"},
    ]
    ids = {ok(odile.post("expectations", {**question, "expect": "deny"}), 201)["id"] for question in made}
    assert ids <= whole_policy().expectations.keys()
    tag = odile.get("desk/pages/p3-sail-loft")["ETag"]
    ok(odile.post("desk/pages/p3-sail-loft/remove", **{"If-Match": tag}), 204)
    policy = load_policy(write_policy(whole_policy()))
    assert ids.isdisjoint(policy.expectations)
    assert Expectation.objects.filter(pk__in=ids).count() == 3
