"""The desk for real: what one sees, what one saves, and that the server refuses the rest."""

import pytest
from django.core import mail

from gonfalon.access.models import Lock
from gonfalon.content.models import Node
from gonfalon.ledger.models import Entry
from tests.api.support import apply, in_tree, ok, refused, told
from tests.api.worker import work

LOFT = "desk/pages/p3-sail-loft"


def tag(asking, path=LOFT):
    return {"If-Match": asking.get(path)["ETag"]}


def parts(page):
    return [{"id": c["id"], "kind": c["kind"], "props": c["props"]} for c in page["components"]]


def unchanged(node="p3-sail-loft"):
    row = Node.objects.get(pk=node)
    return row.version == 1


def test_the_tree_shows_what_one_may_see_and_what_is_above_for_context(ask):
    aiko = in_tree(ask("aiko"))
    assert aiko["quay-cinema"]["state"] == "draft"
    assert "min-2026-10" not in aiko
    assert "open-day" not in aiko
    assert not aiko["events"]["context"]


def test_nodes_above_are_named_and_nothing_more(odile, ask):
    bar = {"kind": "set-limit", "node": "moorings", "to": {"kind": "role", "id": "everyone"}, "effect": "stop"}
    apply(odile, bar | {"applies": "node", "actions": ["see"]})
    tree = in_tree(ask("ines"))
    assert tree["moorings"]["context"]
    assert tree["moorings"]["state"] is None


def test_the_whole_tree_costs_a_fixed_number_of_queries(ines, django_assert_max_num_queries):
    ines.get("desk/found")
    with django_assert_max_num_queries(7):
        assert len(ok(ines.get("desk/found"))) > 100


def test_a_page_tells_what_one_may_do_with_it(ines):
    page = ok(ines.get(LOFT))
    assert page["may"] == ["see", "edit", "retire", "history", "restore"]
    heading, banner = (next(c for c in page["components"] if c["kind"] == k) for k in ("heading", "banner"))
    assert heading["facets"] == {"wording": True, "layout": False}
    assert banner["locked"]
    assert not any(banner["facets"].values())
    assert {part["kind"] for part in page["insertable"]} == {"heading", "text", "picture", "button"}
    assert next(part for part in page["insertable"] if part["kind"] == "heading")["facets"] == heading["facets"]
    arranged = {c["kind"]: c["may_arrange"] for c in page["components"]}
    assert arranged == {"banner": False, "heading": True, "text": True, "picture": True, "table": False}


def test_saving_wording_and_a_field(ines):
    page = ok(ines.get(LOFT))
    components = parts(page)
    components[1]["props"] = {**components[1]["props"], "text": "Sails mended by Friday"}
    saved = ok(ines.patch(LOFT, {"values": {"telephone": "0550 014 999"}, "components": components}, **tag(ines)))
    assert saved["version"] == 2
    row = Node.objects.get(pk="p3-sail-loft")
    assert row.values["telephone"] == "0550 014 999"
    assert row.components[1]["props"]["text"] == "Sails mended by Friday"
    entry = Entry.objects.first()
    assert (entry.kind, entry.actor) == ("page.saved", "ines")
    assert {"what": "Telephone", "was": "0550 014 320", "now": "0550 014 999", "field": "telephone"} in told(entry)
    assert row.versions.first().data["values"]["telephone"] == "0550 014 999"


def test_a_hidden_field_is_not_in_the_answer_and_cannot_be_changed(odile, ines):
    rule = {"kind": "set-field-rule", "type": "berth", "field": "dues", "mode": "table"}
    apply(odile, rule | {"table": {"duty-editor": ["see-all"], "harbour-lead": ["see-all", "change-all"]}})
    assert "dues" not in {f["key"] for f in ok(ines.get(LOFT))["fields"]}
    assert b"2180" not in ines.get(LOFT).content
    refused(ines.patch(LOFT, {"values": {"dues": 1}}, **tag(ines)), "field")
    assert unchanged()


@pytest.mark.parametrize(
    ("node", "reason"),
    [("p5-chandlery", "out-of-extent"), ("n-outer-perch", "not-granted"), ("waiting-list", "out-of-extent")],
)
def test_anothers_page_cannot_be_edited(ines, node, reason):
    path = f"desk/pages/{node}"
    problem = refused(ines.patch(path, {"title": "Mine now"}, **tag(ines, path)), reason)
    assert problem["trail"]
    assert unchanged(node)


def test_publishing_is_refused_where_it_is_withheld(ines):
    refused(ines.post(f"{LOFT}/publish", **tag(ines)), "not-granted")
    assert unchanged()


def test_what_one_may_not_see_is_as_good_as_not_there(ines):
    hidden, missing = ines.get("desk/pages/min-2026-10"), ines.get("desk/pages/nothing-at-all")
    refused(hidden, "not-found", 404)
    assert hidden.content == missing.content
    refused(ines.patch("desk/pages/min-2026-10", {"title": "x"}, **{"If-Match": '"1"'}), "not-found", 404)


def test_a_hidden_value_cannot_be_guessed_at_by_saving_it(ask, odile):
    """What stands there is refused like anything else."""
    edda, dues = ask("edda"), Node.objects.get(pk="p3-sail-loft").values["dues"]
    apply(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "berth.edit", "says": "all"})
    apply(odile, {"kind": "set-answer", "role": "tenant-editor", "capability": "berth.edit-live", "says": "all"})
    assert "dues" not in {f["key"] for f in ok(edda.get(LOFT))["fields"]}
    for guess in (dues, dues + 1):
        refused(edda.patch(LOFT, {"values": {"dues": guess}}, **tag(edda)), "field")
    assert unchanged()


class TestParts:
    def change(self, asking, edit, path=LOFT):
        components = parts(ok(asking.get(path)))
        edit(components)
        return asking.patch(path, {"components": components}, **tag(asking, path))

    def test_a_closed_facet(self, ines):
        refused(self.change(ines, lambda c: c[1]["props"].update(level=3)), "facet")

    def test_a_locked_component(self, ines):
        refused(self.change(ines, lambda c: c[0]["props"].update(text="Mine")), "locked")

    def test_a_component_the_role_may_not_insert(self, ines):
        table = {"id": "new", "kind": "table", "props": {"rows": [["a"]]}}
        refused(self.change(ines, lambda c: c.append(table)), "component")

    def test_a_component_it_may_insert(self, ines):
        text = {"id": "new", "kind": "text", "props": {"html": "<p>Open late</p>"}}
        assert len(ok(self.change(ines, lambda c: c.append(text)))["components"]) == 6

    def test_taking_out_asks_what_inserting_asks(self, ines):
        problem = refused(self.change(ines, lambda c: c.pop()), "component")
        assert problem["detail"].startswith("You may not take out or move the table.")
        assert unchanged()
        assert len(ok(self.change(ines, lambda c: c.pop(1)))["components"]) == 4

    def test_taking_out_a_locked_one_asks_its_lock(self, ines):
        refused(self.change(ines, lambda c: c.pop(0)), "locked")
        assert unchanged()

    def test_putting_elsewhere_asks_of_those_that_move(self, ines):
        refused(self.change(ines, lambda c: c.insert(0, c.pop())), "locked")  # the table above the locked banner
        assert unchanged()
        moved = ok(self.change(ines, lambda c: c.insert(1, c.pop(3))))  # the picture above the heading
        assert [c["kind"] for c in moved["components"]] == ["banner", "picture", "heading", "text", "table"]

    def test_a_mere_reordering_is_saved_as_a_version_of_its_own(self, ines):
        saved = ok(self.change(ines, lambda c: c.insert(1, c.pop(2))))
        assert saved["version"] == 2
        entry = Entry.objects.first()
        [change] = told(entry)
        assert change["what"] == "Order of the components"
        assert change["was"] == "Banner, Heading, Text, Picture, Table"
        assert change["now"] == "Banner, Text, Heading, Picture, Table"


def test_text_is_cleaned_to_prose(ines):
    page = ok(ines.get(LOFT))
    components = parts(page)
    components[2]["props"]["html"] = '<p onclick="x()">Ok <a href="javascript:x()">no</a><script>x()</script></p>'
    saved = ok(ines.patch(LOFT, {"components": components}, **tag(ines)))
    assert saved["components"][2]["props"]["html"] == '<p>Ok <a rel="noopener noreferrer">no</a></p>'


@pytest.mark.parametrize(
    ("data", "pointer"),
    [
        ({"title": "  "}, "/title"),
        ({"title": "x" * 201}, "/title"),
        ({"values": {"dues": "much"}}, "/values/dues"),
        ({"values": {"depth": 3}}, "/values/depth"),
        ({"values": {"plan": "no-such-picture"}}, "/values/plan"),
        ({"components": [{"kind": "carousel"}]}, "/components/0/kind"),
        ({"components": [{"kind": "text", "props": {"colour": "red"}}]}, "/components/0/props/colour"),
        ({"components": [{"kind": "button", "props": {"link": "javascript:x()"}}]}, "/components/0/props/link"),
    ],
)
def test_bad_input_names_the_field_and_loses_nothing(odile, data, pointer):
    problem = refused(odile.patch(LOFT, data, **tag(odile)), "invalid", 422)
    assert problem["errors"][0]["pointer"] == pointer
    assert unchanged()


def test_saving_over_someone_elses_save_shows_theirs(odile, ines):
    seen = tag(ines)
    ok(odile.patch(LOFT, {"values": {"telephone": "1"}}, **tag(odile)))
    problem = refused(ines.patch(LOFT, {"values": {"telephone": "2"}}, **seen), "changed-meanwhile", 412)
    assert problem["theirs"]["saved_by"] == "Odile Varga"
    assert {"1"} == {f["value"] for f in problem["theirs"]["fields"] if f["key"] == "telephone"}
    assert Node.objects.get(pk="p3-sail-loft").values["telephone"] == "1"
    refused(ines.patch(LOFT, {"title": "x"}), "precondition-required", 428)


def test_a_draft_is_handed_in_and_published_by_someone_else(ask):
    ciaran, tomasz, path = ask("ciaran"), ask("tomasz"), "desk/pages/quay-cinema"
    refused(ciaran.post(f"{path}/publish", **tag(ciaran, path)), "not-granted")
    assert ok(ciaran.post(f"{path}/hand-in", **tag(ciaran, path)))["state"] == "review"
    assert ok(tomasz.post(f"{path}/publish", **tag(tomasz, path)))["state"] == "published"
    refused(ciaran.patch(path, {"title": "After"}, **tag(ciaran, path)), "live")
    assert [e.kind for e in Entry.objects.filter(about_id="quay-cinema")] == ["page.published", "page.handed-in"]


def test_what_was_handed_in_is_returned_with_a_note_and_its_author_told(ask):
    ciaran, tomasz, path = ask("ciaran"), ask("tomasz"), "desk/pages/quay-cinema"
    ok(ciaran.post(f"{path}/hand-in", **tag(ciaran, path)))
    refused(ciaran.post(f"{path}/return", {"note": "x"}, **tag(ciaran, path)), "not-granted")
    problem = refused(tomasz.post(f"{path}/return", {"note": " "}, **tag(tomasz, path)), "invalid", 422)
    assert problem["errors"] == [{"pointer": "/note", "message": "Say what is to be changed."}]
    page = ok(tomasz.post(f"{path}/return", {"note": "Say when it begins."}, **tag(tomasz, path)))
    assert (page["state"], page["note"]) == ("draft", "Say when it begins.")
    work()
    author = Node.objects.get(pk="quay-cinema").author
    [letter] = [letter for letter in mail.outbox if letter.to == [author.email]]
    assert "Say when it begins." in letter.body
    assert ok(ciaran.post(f"{path}/hand-in", **tag(ciaran, path)))["note"] == ""


def test_those_who_may_publish_what_is_handed_in_are_told_with_its_word(ask):
    path = "desk/pages/quay-cinema"
    page = ok(ask("ciaran").post(f"{path}/hand-in", {"note": "In time for the poster?"}, **tag(ask("ciaran"), path)))
    assert page["note"] == "In time for the poster?"
    work()
    told = {letter.to[0]: letter.body for letter in mail.outbox}
    assert "tomasz@skerrow.example" in told
    assert "In time for the poster?" in told["tomasz@skerrow.example"]
    assert not {"odile@skerrow.example", "ciaran@skerrow.example", "ines@sailloft.example"} & told.keys()


def test_who_wrote_what_waited_is_told_when_it_is_published(ask):
    path = "desk/pages/lantern-night"
    ok(ask("tomasz").post(f"{path}/publish", **tag(ask("tomasz"), path)))
    work()
    assert [(letter.to, letter.subject) for letter in mail.outbox] == [
        (["aiko@skerrow.example"], "Published: Night of lanterns")
    ]


def test_who_wrote_what_visitors_read_is_told_when_it_is_retired(odile):
    ok(odile.post(f"{LOFT}/retire", **tag(odile)))
    ok(odile.post(f"{LOFT}/to-draft", **tag(odile)))
    ok(odile.post(f"{LOFT}/retire", **tag(odile)))
    work()
    assert [(letter.to, letter.subject) for letter in mail.outbox] == [
        (["ines@sailloft.example"], "Retired: Pier 3, Sail loft")
    ]


def test_topics_are_chosen_by_whoever_may_edit_the_page_as_it_is_and_as_it_would_be(odile, ask):
    for name in ("Currents", "Lamps"):
        ok(odile.post("topics", {"name": name}), 201)
    page = ok(odile.patch(LOFT, {"topics": ["currents"]}, **tag(odile)))
    assert page["topics"] == ["currents"]
    about = {"kind": "give-role", "role": "duty-editor", "to": {"kind": "account", "id": "arvo"}}
    apply(odile, about | {"scope": {"topics": ["currents"]}})
    arvo = ask("arvo")
    refused(arvo.patch(LOFT, {"topics": ["lamps"]}, **tag(arvo)), "out-of-scope")
    assert ok(arvo.patch(LOFT, {"topics": ["currents", "lamps"]}, **tag(arvo)))["topics"] == ["currents", "lamps"]
    assert arvo.patch(LOFT, {"topics": ["none"]}, **tag(arvo)).status_code == 422
    changes = told(Entry.objects.filter(kind="page.saved").first())
    assert changes == [{"what": "Topics", "was": "Currents", "now": "Currents, Lamps"}]


def test_it_is_taken_back_by_whoever_may_edit_it(ask):
    ciaran, path = ask("ciaran"), "desk/pages/quay-cinema"
    refused(ciaran.post(f"{path}/take-back", **tag(ciaran, path)), "invalid", 422)
    ok(ciaran.post(f"{path}/hand-in", **tag(ciaran, path)))
    assert ok(ciaran.post(f"{path}/take-back", **tag(ciaran, path)))["state"] == "draft"


def test_what_was_retired_becomes_a_draft_by_whoever_may_retire_it(ines, ask):
    ok(ines.post(f"{LOFT}/retire", **tag(ines)))
    refused(ask("aiko").post(f"{LOFT}/to-draft", **{"If-Match": '"2"'}), "not-found", 404)
    assert ok(ines.post(f"{LOFT}/to-draft", **tag(ines)))["state"] == "draft"
    refused(ines.post(f"{LOFT}/to-draft", **tag(ines)), "invalid", 422)


def test_only_a_draft_is_handed_in(ines):
    refused(ines.post(f"{LOFT}/hand-in", **tag(ines)), "invalid", 422)


def test_a_locked_page(odile, ask):
    Lock.objects.create(node="soup-sunday", why="The poster is printed", locked_by="odile")
    odile.post("roles", {"name": "Raises the version"})
    tomasz, path = ask("tomasz"), "desk/pages/soup-sunday"
    page = ok(tomasz.get(path))
    assert page["locked"]
    assert "edit" not in page["may"]
    refused(tomasz.patch(path, {"title": "x"}, **tag(tomasz, path)), "locked")


def test_files_are_for_those_who_may_see_their_node(ask):
    assert ask().client.get("/files/pic-sail-loft").status_code == 200
    assert ask().client.get("/files/pic-nothing").status_code == 404
    Node.objects.filter(pk="pic-sail-loft").update(state="draft")
    assert ask().client.get("/files/pic-sail-loft").status_code == 404
