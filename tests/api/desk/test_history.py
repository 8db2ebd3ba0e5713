"""History of a page, and bringing an earlier version back: what is closed to whoever asks keeps what it has."""

from gonfalon.access.models import Answer
from gonfalon.access.snapshot import current, raise_version
from gonfalon.content.history import changes
from gonfalon.content.models import Node
from gonfalon.content.pages import version_data
from tests.api.desk.test_pages import LOFT, parts, tag
from tests.api.support import ok, refused

DUES = "Annual dues"


def changed_by_the_office(odile) -> dict:
    """The keyholder changes a bit of everything on the page of the sail loft."""
    components = parts(ok(odile.get(LOFT)))
    for component in components:
        if component["kind"] == "heading":
            component["props"] |= {"text": "Closed", "level": 3}
        if component["kind"] == "banner":
            component["props"]["text"] = "Out of order"
    sent = {"title": "Shut", "values": {"dues": 9999, "telephone": "1"}, "components": components}
    return ok(odile.patch(LOFT, sent, **tag(odile)))


def test_every_save_is_told_with_who_and_when(odile, ines):
    changed_by_the_office(odile)
    last, first = ok(ines.get(f"{LOFT}/versions"))
    assert (last["number"], last["title"], last["by"], last["now"]) == (2, "Shut", "Odile Varga", True)
    assert (first["number"], first["title"], first["now"]) == (1, "Pier 3, Sail loft", False)


def test_a_version_is_told_beside_the_one_before_and_beside_any_other(odile, ines):
    changed_by_the_office(odile)
    second = ok(ines.get(f"{LOFT}/versions/2"))
    told = {change["what"]: (change["was"], change["now"]) for change in second["before"]}
    assert told["Title"] == ("Pier 3, Sail loft", "Shut")
    assert told[DUES][1] == "9999"
    assert second["between"] == []
    first = ok(ines.get(f"{LOFT}/versions/1", **{"with": 2}))
    assert first["before"] == []
    assert first["between"] == second["before"] == ok(ines.get(f"{LOFT}/versions/2", **{"with": 1}))["between"]
    refused(ines.get(f"{LOFT}/versions/1", **{"with": 9}), "not-found", 404)
    assert {DUES, "Banner: text", "Heading: level"} <= set(first["kept"])
    assert not {"Title", "Telephone", "Heading: text"} & set(first["kept"])


def test_restoring_brings_back_what_is_open_and_keeps_the_rest(odile, ines):
    was = Node.objects.get(pk="p3-sail-loft")
    changed_by_the_office(odile)
    page = ok(ines.post(f"{LOFT}/versions/1/restore", **tag(ines)))
    row = Node.objects.get(pk="p3-sail-loft")
    assert (page["title"], row.version) == ("Pier 3, Sail loft", 3)
    assert row.values["telephone"] == was.values["telephone"]
    assert row.values["dues"] == 9999, "she sees it, and may not change it"
    by_kind = {component["kind"]: component["props"] for component in row.components}
    before = {component["kind"]: component["props"] for component in was.components}
    assert by_kind["banner"]["text"] == "Out of order", "it is locked"
    assert by_kind["heading"] == before["heading"] | {"level": 3}, "its layout is closed to her"


def test_what_was_taken_out_comes_back_only_where_it_may_be_put_in(odile, ines):
    was = [component["id"] for component in Node.objects.get(pk="p3-sail-loft").components]
    kinds = {component["id"]: component["kind"] for component in Node.objects.get(pk="p3-sail-loft").components}
    kept = [part for part in parts(ok(odile.get(LOFT))) if part["kind"] == "banner"]
    ok(odile.patch(LOFT, {"components": kept}, **tag(odile)))
    ok(ines.post(f"{LOFT}/versions/1/restore", **tag(ines)))
    now = [component["id"] for component in Node.objects.get(pk="p3-sail-loft").components]
    assert [id for id in was if kinds[id] != "table"] == sorted(now, key=was.index)
    ok(odile.post(f"{LOFT}/versions/1/restore", **tag(odile)))
    assert [component["id"] for component in Node.objects.get(pk="p3-sail-loft").components] == was


def test_what_a_version_lacks_is_taken_out_only_where_it_may_be_changed(odile, ines):
    """A gauge reading needs a duty of its own, the width of a picture its facet: neither is hers to change."""
    part = {"id": "tides", "kind": "tides", "props": {"station": "the quay"}}
    seen = {"id": "seen", "kind": "picture", "props": {"picture": "pic-sail-loft"}}
    Node.objects.filter(pk="p3-sail-loft").update(components=[part, seen])
    row = Node.objects.get(pk="p3-sail-loft")
    row.versions.update(data=version_data(row))
    more = [part | {"props": part["props"] | {"gauge": "4.2"}}, seen | {"props": seen["props"] | {"width": "narrow"}}]
    ok(odile.patch(LOFT, {"components": more}, **tag(odile)))
    ok(ines.post(f"{LOFT}/versions/1/restore", **tag(ines)))
    props = {c["id"]: c["props"] for c in Node.objects.get(pk="p3-sail-loft").components}
    assert props["tides"] == {"station": "the quay", "gauge": "4.2"}
    assert props["seen"]["width"] == "narrow"
    ok(odile.post(f"{LOFT}/versions/1/restore", **tag(odile)))
    props = {c["id"]: c["props"] for c in Node.objects.get(pk="p3-sail-loft").components}
    assert props == {"tides": part["props"], "seen": seen["props"]}


def test_it_is_refused_on_top_of_what_somebody_saved_meanwhile(odile, ines):
    seen = tag(ines)
    changed_by_the_office(odile)
    problem = refused(ines.post(f"{LOFT}/versions/1/restore", **seen), "changed-meanwhile", 412)
    assert problem["theirs"]["title"] == "Shut"
    refused(ines.post(f"{LOFT}/versions/1/restore"), "precondition-required", 428)
    refused(ines.post(f"{LOFT}/versions/99/restore", **tag(ines)), "not-found", 404)


def test_history_and_restore_are_two_capabilities(odile, ines):
    changed_by_the_office(odile)
    Answer.objects.filter(capability="berth.restore").delete()
    raise_version()
    ok(ines.get(f"{LOFT}/versions"))
    refused(ines.post(f"{LOFT}/versions/1/restore", **tag(ines)), "not-granted")
    Answer.objects.filter(capability="berth.history").delete()
    raise_version()
    refused(ines.get(f"{LOFT}/versions"), "not-granted")
    refused(ines.get(f"{LOFT}/versions/1"), "not-granted")
    Answer.objects.filter(capability="berth.publish").delete()
    raise_version()
    refused(ines.get(f"{LOFT}/since-public"), "not-granted")


def test_a_field_that_may_not_be_seen_is_in_no_version(odile, ines):
    ok(odile.patch("desk/pages/fees", {"title": "Fees"}, **tag(odile, "desk/pages/fees")))
    rule = {"kind": "set-field-rule", "type": "berth", "field": "dues", "mode": "table", "table": {}}
    changed_by_the_office(odile)
    ok(odile.post("change-set/operations", {"operations": [rule]}))
    ok(odile.post("change-set/apply"))
    told = ok(ines.get(f"{LOFT}/versions/1"))
    assert DUES not in str(told)
    assert "9999" not in str(told)


def test_each_save_says_what_it_did(ask):
    rows = ok(ask("tomasz").get("desk/pages/n-regatta-course/versions"))
    assert [row["did"] for row in reversed(rows)] == [
        "made", "handed-in", "returned", "saved", "handed-in", "published", "retired", "to-draft", "saved", "handed-in",
    ]  # fmt: skip
    assert rows[-3]["note"] == "Which perch? There are two."
    assert rows[1]["note"] == ""
    taken = "desk/pages/n-regatta-course/take-back"
    ok(ask("tomasz").post(taken, **{"If-Match": f'"{rows[0]["number"]}"'}))
    assert ok(ask("tomasz").get("desk/pages/n-regatta-course/versions"))[0]["did"] == "taken-back"


def test_a_table_reads_by_its_rows(ask):
    [text, table] = ok(ask("tomasz").get("desk/pages/n-regatta-course/versions/9"))["before"]
    assert (text["what"], table["what"]) == ("Text", "Table: rows")
    assert table["was"].splitlines()[1] == "One · 0.4 nm NE of the perch"
    assert table["now"].splitlines()[1] == "One · 0.6 nm NE of the perch"


def test_parts_of_one_kind_that_changed_places_are_told_apart():
    kinds = {"one": "text", "two": "text", "rows": "table", "gone": "banner"}
    one, two, rows, gone = ({"id": id, "kind": kind, "props": {}} for id, kind in kinds.items())
    was = {"title": "Knots", "state": "draft", "values": {}}
    before, after = was | {"components": [one, gone, two, rows]}, was | {"components": [two, rows, one]}
    *_, order = changes("article", before, after, current().catalogue)
    assert (order["was"], order["now"]) == ("Text 1, Text 2, Table", "Text 2, Table, Text 1")
    emptied = changes("article", before, before | {"components": []}, current().catalogue)
    assert "Order of the components" not in [c["what"] for c in emptied]
