"""A page as visitors would read it: before it is published, with what is being changed, and no more than one sees."""

from gonfalon.content.models import Node
from tests.api.support import apply, ok, refused

LOFT = "desk/pages/p3-sail-loft"


def drawn(asking, path=LOFT, **edits):
    return ok(asking.post(f"{path}/preview", edits))


def test_a_draft_is_drawn_as_if_it_were_published(ask):
    assert ask(None).client.get("/site/harbour/events/quay-cinema").status_code == 404
    told = drawn(ask("ciaran"), "desk/pages/quay-cinema")
    assert told["seen"]
    assert "<h1>Cinema on the quay" in told["html"]


def test_what_is_being_changed_is_in_it_and_nothing_is_written(odile):
    before = Node.objects.get(pk="p3-sail-loft")
    components = ok(odile.get(LOFT))["components"]
    told = drawn(
        odile,
        title="Sails & knots",
        values={"telephone": "0550 014 777"},
        components=[{"id": c["id"], "kind": c["kind"], "props": c["props"]} for c in components[1:]]
        + [{"kind": "heading", "props": {"text": "Ropes too"}}],
    )
    assert "<h1>Sails &amp; knots</h1>" in told["html"]
    assert "0550 014 777" in told["html"]
    assert "Ropes too" in told["html"]
    now = Node.objects.get(pk="p3-sail-loft")
    assert (now.title, now.version, now.values) == (before.title, before.version, before.values)


def test_fields_that_visitors_do_not_see_are_not_in_it(odile):
    assert "2180" in str(ok(odile.get(LOFT))["fields"])
    assert "2180" not in drawn(odile)["html"]


def test_it_says_where_visitors_would_see_nothing(odile):
    stop = {"kind": "set-limit", "node": "p3-sail-loft", "to": {"kind": "role", "id": "everyone"}, "effect": "stop"}
    apply(odile, stop | {"applies": "node", "actions": ["see"]})
    assert not drawn(odile)["seen"]


def test_a_part_that_one_may_not_change_is_refused(ask):
    told = ask("ines").post(f"{LOFT}/preview", {"values": {"dues": 1}})
    assert told.status_code == 403, told.content
    assert "Annual dues" in told.data_read["detail"]
    refused(ask("marit").post("desk/pages/p3-sail-loft/preview", {"title": "Mine"}), "not-granted")
    assert ask("ines").post("desk/pages/quay-cinema/preview").status_code == 404


def test_what_cannot_be_read_is_named(odile):
    answer = odile.post(f"{LOFT}/preview", {"title": " "})
    assert answer.status_code == 422
    assert answer.data_read["errors"] == [{"pointer": "/title", "message": "A page needs a title."}]


def test_a_list_of_pages_names_none_that_whoever_looks_does_not_see(ask, odile):
    tag = {"If-Match": odile.get(LOFT)["ETag"]}
    listing = {"kind": "pages", "props": {"heading": "On the pier", "of": "beside"}}
    ok(odile.patch(LOFT, {"components": [listing]}, **tag))
    to = {"kind": "account", "id": "ines"}
    bar = {"kind": "set-limit", "to": to, "effect": "bar", "applies": "node", "actions": ["see"]}
    school = Node.objects.get(title="Pier 3, Sea school")
    assert "Sea school" in drawn(ask("ines"))["html"]
    apply(odile, bar | {"node": school.pk})
    told = drawn(ask("ines"))["html"]
    assert "On the pier" in told
    assert "Sea school" not in told
