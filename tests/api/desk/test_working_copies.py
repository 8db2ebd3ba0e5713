"""The working copy of a public page: begun, gone on with, handed in, returned, published, discarded (§4)."""

from datetime import timedelta

import pytest

from gonfalon.clock import now
from gonfalon.content.models import CopyVersion, Node, Version, WorkingCopy
from gonfalon.ledger.models import Entry
from gonfalon.mail.models import Letter
from tests.api.support import apply, ok, refused, told

LOFT = "desk/pages/p3-sail-loft"
COPY = f"{LOFT}/copy"
CINEMA = "desk/pages/quay-cinema"
NO_LIVE = {"kind": "set-answer", "role": "tenant-editor", "capability": "berth.edit-live", "says": None}


def tag(asking, path=COPY):
    return {"If-Match": asking.get(path)["ETag"]}


def save(asking, **said):
    return ok(asking.patch(COPY, said, **tag(asking)))


def step(asking, step, body=None):
    return ok(asking.post(f"{COPY}/{step}", body, **tag(asking)))


@pytest.fixture
def ines(ask, odile):
    """She edits her own page, but no more what is public."""
    apply(odile, NO_LIVE)
    return ask("ines")


class TestBegun:
    def test_whoever_may_not_edit_what_is_public_may_work_on_a_copy(self, ines):
        page = ok(ines.get(LOFT))
        assert "edit" not in page["may"]
        assert page["beside"] == {
            "begun": False, "state": "draft", "saved_at": None, "saved_by": None, "may_edit": True,
        }  # fmt: skip
        refused(ines.patch(LOFT, {"values": {"telephone": "1"}}, **tag(ines, LOFT)), "live")
        copy = ok(ines.get(COPY))
        assert (copy["working"], copy["state"], copy["may"]) == (True, "draft", ["see", "edit"])

    def test_what_is_public_stays_as_it_is(self, ines, ask):
        saved = save(ines, title="The loft next", values={"telephone": "0550 014 999"})
        assert saved["title"] == "The loft next"
        row = Node.objects.get(pk="p3-sail-loft")
        assert (row.title, row.values["telephone"]) == ("Pier 3, Sail loft", "0550 014 320")
        assert b"0550 014 999" not in ask(None).client.get(f"/site/{row.site_id}/{row.address}").content
        beside = ok(ines.get(LOFT))["beside"]
        assert (beside["begun"], beside["saved_by"]) == (True, "Ines Marrow")

    def test_nothing_is_begun_by_looking_nor_by_a_save_that_changes_nothing(self, ines):
        ok(ines.get(COPY))
        save(ines, title="Pier 3, Sail loft")
        assert not WorkingCopy.objects.exists()

    def test_its_parts_are_asked_about_one_by_one(self, ines):
        closed = [field["key"] for field in ok(ines.get(COPY))["fields"] if not field["may_change"]]
        assert closed
        refused(ines.patch(COPY, {"values": {closed[0]: 1}}, **tag(ines)), "field")

    def test_only_what_is_public_has_one(self, ask):
        problem = refused(ask("odile").get("desk/pages/n-regatta-course/copy"), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/state"

    def test_a_locked_page_is_closed_on_its_copy_too(self, ines, odile):
        ok(odile.post("locks", {"node": "p3-sail-loft", "why": "Counting."}), 201)
        refused(ines.patch(COPY, {"title": "x"}, **tag(ines)), "locked")


class TestOutOfSight:
    def test_whoever_sees_no_drafts_sees_no_copy(self, ines, ask):
        save(ines, title="The loft next")
        for account in ("aiko", "viggo"):
            other = ask(account)
            page = other.get(LOFT)
            if page.status_code == 200:
                assert ok(page)["beside"] is None
            assert other.get(COPY).status_code in (403, 404)
            assert other.get(f"{COPY}/changes").status_code in (403, 404)
            assert other.post(f"{COPY}/preview", {}).status_code in (403, 404)

    def test_whoever_may_publish_but_sees_no_drafts_is_neither_asked_nor_written_to(self, ines, odile, ask):
        apply(odile, {"kind": "set-answer", "role": "season-intern", "capability": "berth.publish", "says": "all"})
        apply(
            odile, {"kind": "give-role", "role": "season-intern", "to": {"kind": "account", "id": "aiko"}, "scope": {}}
        )
        assert "publish" in ok(ask("aiko").get(LOFT))["may"]
        save(ines, title="The loft next")
        step(ines, "hand-in")
        assert "p3-sail-loft" not in [row["id"] for row in ok(ask("aiko").get("desk/waiting"))]
        told = Letter.objects.filter(subject__startswith="Waits for you").values_list("to", flat=True)
        assert told
        assert "aiko@skerrow.example" not in told

    def test_nor_does_mail_lead_them_there(self, ines):
        save(ines, title="The loft next")
        step(ines, "hand-in", {"note": "Please."})
        letters = Letter.objects.filter(subject__startswith="Waits for you")
        assert letters.exists()
        for letter in letters:
            assert "The loft next" not in letter.text
            assert "/desk/p3-sail-loft?copy" in letter.text

    def test_nor_does_the_ledger_tell_of_it(self, ines, odile, ask):
        """Who reads the ledger and sees the page, but no drafts."""
        read = {"kind": "set-answer", "role": "signed-in", "capability": "ledger.read", "says": "yes"}
        apply(odile, read)
        reader = ask("aiko")
        save(ines, title="The loft next")
        step(ines, "hand-in", {"note": "Keep it quiet."})
        for asking, told_of in ((odile, True), (reader, False)):
            entries = ok(asking.get("ledger"))["entries"][:2]
            assert {entry["about_id"] for entry in entries} == ({"p3-sail-loft"} if told_of else {""})
            assert ("quiet" in str(entries)) == told_of
        ok(odile.post(f"{COPY}/publish", {}, **tag(odile)))
        assert ok(reader.get("ledger"))["entries"][0]["about_id"] == "p3-sail-loft"


class TestTogether:
    def test_two_hands_on_one_copy_notice_each_other(self, ines, odile):
        before = tag(odile)
        save(ines, title="The loft next")
        problem = refused(odile.patch(COPY, {"title": "Mine"}, **before), "changed-meanwhile", 412)
        assert problem["theirs"]["title"] == "The loft next"
        assert problem["theirs"]["saved_by"] == "Ines Marrow"

    def test_a_copy_that_was_discarded_is_not_gone_on_with(self, ines):
        save(ines, title="The loft next")
        before = tag(ines)
        assert ines._read(ines.client.delete(f"/api/{COPY}", headers=before)).status_code == 204
        assert not CopyVersion.objects.exists()
        refused(ines.patch(COPY, {"title": "Again"}, **before), "changed-meanwhile", 412)

    def test_nor_is_one_begun_after_it_from_the_same_page(self, ines, odile):
        save(ines, title="The loft next")
        before = tag(ines)
        ines._read(ines.client.delete(f"/api/{COPY}", headers=before))
        save(odile, title="Another")
        refused(ines.patch(COPY, {"title": "Mine"}, **before), "changed-meanwhile", 412)

    def test_each_save_is_kept(self, ines):
        save(ines, title="One")
        save(ines, title="Two")
        kept = CopyVersion.objects.order_by("number").values_list("number", "data__title", "by")
        assert list(kept) == [(1, "One", "ines"), (2, "Two", "ines")]


class TestHistory:
    def test_each_save_is_told_with_what_it_changed(self, ines, odile):
        save(ines, title="One")
        save(ines, title="Two", values={"telephone": "0550 014 999"})
        step(ines, "hand-in", {"note": "Please."})
        rows = ok(odile.get(f"{COPY}/versions"))
        assert [(row["number"], row["title"], row["did"], row["now"]) for row in rows] == [
            (3, "Two", "handed-in", True), (2, "Two", "saved", False), (1, "One", "made", False),
        ]  # fmt: skip
        told = ok(odile.get(f"{COPY}/versions/2"))["before"]
        assert {(change["what"], change["now"]) for change in told} == {("Title", "Two"), ("Telephone", "0550 014 999")}
        assert odile.get(f"{COPY}/versions/9").status_code == 404

    def test_of_none_nothing_is_told(self, odile):
        assert ok(odile.get(f"{COPY}/versions")) == []

    def test_a_copy_one_may_not_see_any_more_is_not_on_ones_start(self, ines, odile):
        save(ines, title="One")
        assert [row["title"] for row in ok(ines.get("start"))["drafts"] if row["working"]] == ["One"]
        apply(odile, NO_LIVE | {"capability": "berth.see-draft"})
        assert not [row for row in ok(ines.get("start"))["drafts"] if row["working"]]


class TestReview:
    def test_it_is_handed_in_returned_and_published(self, ines, odile):
        save(ines, title="The loft next", values={"telephone": "0550 014 999"})
        assert step(ines, "hand-in", {"note": "Please."})["state"] == "review"
        [row] = [row for row in ok(odile.get("desk/waiting")) if row["working"]]
        assert (row["id"], row["title"], row["handed_in_by"]) == ("p3-sail-loft", "The loft next", "Ines Marrow")
        assert step(odile, "return", {"note": "The number is wrong."})["state"] == "draft"
        assert Letter.objects.filter(to="ines@sailloft.example", subject="Returned: Pier 3, Sail loft").exists()
        [back] = ok(ines.get("start"))["came_back"]
        assert (back["working"], back["note"]) == (True, "The number is wrong.")
        save(ines, values={"telephone": "0550 014 998"})
        step(ines, "hand-in")
        step(ines, "take-back")
        step(ines, "hand-in")
        page = ok(odile.post(f"{COPY}/publish", {}, **tag(odile)))
        assert (page["working"], page["state"], page["title"]) == (False, "published", "The loft next")
        assert Node.objects.get(pk="p3-sail-loft").values["telephone"] == "0550 014 998"
        assert not WorkingCopy.objects.exists()
        [late] = [row for row in ok(ines.get("start"))["of_late"] if row["id"] == "p3-sail-loft"]
        assert (late["did"], late["who"]) == ("copy-published", "Odile Varga")
        assert not [row for row in ok(odile.get("desk/waiting")) if row["working"]]

    def test_whoever_writes_it_may_not_publish_it(self, ines):
        save(ines, title="The loft next")
        assert ines.post(f"{COPY}/publish", {}, **tag(ines)).status_code == 403
        assert ines.post(f"{COPY}/return", {"note": "No"}, **tag(ines)).status_code == 403

    def test_what_visitors_would_read_otherwise_is_told(self, ines, odile):
        save(ines, values={"telephone": "0550 014 999"})
        told = ok(odile.get(f"{COPY}/changes"))["changes"]
        assert told == [{"what": "Telephone", "was": "0550 014 320", "now": "0550 014 999"}]

    def test_over_a_page_that_was_changed_meanwhile_both_are_told_first(self, ines, odile):
        save(ines, title="The loft next")
        ok(odile.patch(LOFT, {"values": {"telephone": "0550 014 111"}}, **tag(odile, LOFT)))
        assert ok(odile.get(COPY))["public_changed"]
        told = refused(odile.post(f"{COPY}/publish", {}, **tag(odile)), "public-changed", 409)
        assert told["since"] == [{"what": "Telephone", "was": "0550 014 320", "now": "0550 014 111"}]
        refused(odile.post(f"{COPY}/publish", {"over": told["over"] - 1}, **tag(odile)), "public-changed", 409)
        page = ok(odile.post(f"{COPY}/publish", {"over": told["over"]}, **tag(odile)))
        assert page["title"] == "The loft next"

    def test_one_that_changes_nothing_any_more_is_given_up(self, odile):
        save(odile, title="The loft next")
        save(odile, title="Pier 3, Sail loft")
        ok(odile.post(f"{COPY}/publish", {}, **tag(odile)))
        assert not WorkingCopy.objects.exists()
        assert Entry.objects.first().kind == "page.copy-discarded"

    def test_of_none_nothing_is_handed_in_nor_published(self, odile):
        for step in ("hand-in", "publish", "take-back"):
            problem = refused(odile.post(f"{COPY}/{step}", {}, **tag(odile)), "invalid", 422)
            assert "no working copy" in problem["detail"]
        assert odile._read(odile.client.delete(f"/api/{COPY}", headers=tag(odile))).status_code == 422

    def test_whoever_publishes_only_some_topics_publishes_none_into_others(self, odile, ask):
        """§4: where the topics are to be others, that is decided again."""
        swim = "desk/pages/swim/copy"
        scope = {"topics": ["season"]}
        lead = {"kind": "give-role", "role": "duty-editor", "to": {"kind": "account", "id": "aiko"}, "scope": scope}
        apply(odile, lead)
        ok(odile.patch(swim, {"topics": ["tides"]}, **tag(odile, swim)))
        aiko = ask("aiko")
        assert "publish" in ok(aiko.get(swim))["may"]
        refused(aiko.post(f"{swim}/publish", {}, **tag(aiko, swim)), "out-of-scope")
        ok(odile.patch(swim, {"topics": ["season"]}, **tag(odile, swim)))
        ok(aiko.post(f"{swim}/publish", {}, **tag(aiko, swim)))

    def test_a_topic_that_is_merged_makes_another_version_of_it(self, odile):
        save(odile, topics=["tides"])
        before = tag(odile)
        ok(odile.post("topics/tides/merge", {"into": "season"}))
        assert ok(odile.get(COPY))["topics"] == ["season"]
        refused(odile.patch(COPY, {"title": "Mine"}, **before), "changed-meanwhile", 412)

    def test_its_topics_become_those_of_the_page_and_go_where_they_are_removed(self, ines, odile, ask):
        save(odile, topics=["tides"])
        publisher = ask("odile")
        page = ok(publisher.post(f"{COPY}/publish", {}, **tag(publisher)))
        assert page["topics"] == ["tides"]
        save(odile, topics=[])
        ok(odile.delete("topics/tides"), 204)
        assert ok(odile.get(COPY))["topics"] == []


def test_while_a_page_is_retired_its_copy_waits(odile):
    save(odile, title="The loft next")
    ok(odile.post(f"{LOFT}/retire", **tag(odile, LOFT)))
    assert odile.get(COPY).status_code == 422
    ok(odile.post(f"{LOFT}/publish", **tag(odile, LOFT)))
    assert ok(odile.get(COPY))["title"] == "The loft next"


def test_a_purged_field_is_gone_from_copies_too(odile):
    save(odile, values={"telephone": "0550 014 999"})
    kind = Node.objects.get(pk="p3-sail-loft").type
    field = f"kinds/{kind}/fields/telephone"
    ok(odile.patch(field, {"retired": True}, **{"If-Match": '"1"'}))
    assert odile.client.delete(f"/api/{field}", headers={"If-Match": '"2"'}).status_code == 200
    assert not WorkingCopy.objects.filter(values__has_key="telephone").exists()
    assert not CopyVersion.objects.filter(data__values__has_key="telephone").exists()


def test_it_is_drawn_as_visitors_would_read_it(odile):
    save(odile, title="The loft next")
    html = ok(odile.post(f"{COPY}/preview", {}))["html"]
    assert "The loft next" in html
    html = ok(odile.post(f"{COPY}/preview", {"title": "The loft after that"}))["html"]
    assert "The loft after that" in html


class TestOneSitting:
    """What is saved by itself as somebody goes on makes one version and one entry (K2)."""

    def saved(self, asking, **said):
        return ok(asking.patch(CINEMA, {**said, "sitting": True}, **tag(asking, CINEMA)))

    def versions(self, asking):
        return [(row["number"], row["title"], row["now"]) for row in ok(asking.get(f"{CINEMA}/versions"))]

    def entries(self):
        return Entry.objects.filter(kind="page.saved", about_id="quay-cinema")

    def test_of_a_draft(self, odile):
        before = self.versions(odile)
        for title in ("C", "Ci", "Cinema by the quay"):
            page = self.saved(odile, title=title)
        assert [title for _, title, _ in self.versions(odile)][: -len(before)] == ["Cinema by the quay"]
        assert [now for _, _, now in self.versions(odile)] == [True] + [False] * len(before)
        assert self.entries().count() == 1
        print(
            self.entries()[0].data,
            list(Version.objects.filter(node="quay-cinema").values_list("number", "data__title")),
        )
        changes = told(self.entries()[0])
        assert [(change["what"], change["now"]) for change in changes] == [("Title", "Cinema by the quay")]
        assert f'"{page["version"]}"' == tag(odile, CINEMA)["If-Match"]

    def test_another_hand_a_pause_or_a_step_ends_it(self, odile, ask):
        self.saved(odile, title="One")
        self.saved(ask("ciaran"), title="Two")
        self.saved(odile, title="Three")
        Version.objects.update(at=now() - timedelta(minutes=31))
        self.saved(odile, title="Four")
        ok(odile.post(f"{CINEMA}/hand-in", **tag(odile, CINEMA)))
        ok(odile.post(f"{CINEMA}/take-back", **tag(odile, CINEMA)))
        self.saved(odile, title="Five")
        titles = [title for _, title, _ in self.versions(odile)]
        assert titles[:7] == ["Five", "Four", "Four", "Four", "Three", "Two", "One"]
        assert self.entries().count() == 5

    def test_the_next_save_that_is_meant_is_one_of_its_own(self, odile):
        self.saved(odile, title="One")
        self.saved(odile, title="Two")
        ok(odile.patch(CINEMA, {"title": "Three"}, **tag(odile, CINEMA)))
        assert [title for _, title, _ in self.versions(odile)][:2] == ["Three", "Two"]
        [last] = told(self.entries()[0])
        assert (last["was"], last["now"]) == ("Two", "Three")

    def test_of_a_working_copy(self, odile):
        for title in ("L", "Lo", "Loft"):
            save(odile, title=title, sitting=True)
        assert list(CopyVersion.objects.values_list("data__title", flat=True)) == ["Loft"]
        assert Entry.objects.filter(kind="page.copy-saved").count() == 1

    def test_of_what_is_public_each_save_is_one(self, odile):
        for title in ("One", "Two"):
            ok(odile.patch(LOFT, {"title": title, "sitting": True}, **tag(odile, LOFT)))
        assert Version.objects.filter(node="p3-sail-loft").count() == 3
