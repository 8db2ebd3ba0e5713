"""What a page names that its reader may not see, media behind their own door, and writing what one may not see."""

import pytest

from gonfalon.access.models import Answer
from gonfalon.access.snapshot import raise_version
from gonfalon.content.models import Node
from gonfalon.content.nodes import raise_version as content_changed
from tests.api.support import ok, refused

LOFT, TAG = "desk/pages/p3-sail-loft", {"If-Match": '"1"'}
HIDDEN, MADE_UP = "doc-storm-plan", "no-such-picture"


@pytest.fixture
def hidden_picture():
    """A picture that nobody but keyholders sees."""
    Node.objects.filter(pk="pic-sail-loft").update(state="draft")
    Answer.objects.filter(capability="picture.see-draft").delete()
    Answer.objects.filter(role="site-steward", capability="picture.see-draft").delete()
    content_changed()
    raise_version()
    return "pic-sail-loft"


def field(page, key):
    return next(f for f in page["fields"] if f["key"] == key)


def set_plan(asking, picture):
    return asking.patch(LOFT, {"values": {"plan": picture}}, **TAG)


def test_a_picture_out_of_sight_is_named_by_nothing(odile, ask, hidden_picture):
    Node.objects.filter(pk="p3-sail-loft").update(values={"plan": hidden_picture})
    seen, unseen = (field(ok(ask(who).get(LOFT)), "plan") for who in ("odile", "ludo"))
    assert (seen["value"], seen["shown"]) == (hidden_picture, Node.objects.get(pk=hidden_picture).title)
    assert (unseen["value"], unseen["shown"]) == (None, "a page out of sight")
    parts = {c["kind"]: c["props"] for c in ok(ask("ludo").get(LOFT))["components"]}
    assert "picture" not in parts["picture"]


def test_what_is_not_sent_of_a_picture_out_of_sight_stays(ask, hidden_picture):
    page = ok(ask("ludo").get(LOFT))
    sent = [{"id": c["id"], "kind": c["kind"], "props": c["props"]} for c in page["components"]]
    sent[3]["props"]["caption"] = "The loft"
    ok(ask("ludo").patch(LOFT, {"components": sent}, **TAG))
    props = Node.objects.get(pk="p3-sail-loft").components[3]["props"]
    assert (props["picture"], props["caption"]) == (hidden_picture, "The loft")


def test_the_public_page_prints_no_id_of_what_its_reader_may_not_see(ask, hidden_picture):
    Node.objects.filter(pk="p3-sail-loft").update(values={"plan": hidden_picture, "dues": 1})
    page = ask().client.get("/site/harbour/moorings/berth-directory/pier-3/pier-3-sail-loft").content.decode()
    assert hidden_picture not in page
    assert "out of sight" not in page


def test_a_reference_out_of_sight_is_answered_like_one_that_was_made_up(ask, odile, hidden_picture):
    ludo = ask("ludo")
    hidden, made_up = (refused(set_plan(ludo, id), "invalid", 422) for id in (hidden_picture, MADE_UP))
    assert hidden == made_up
    assert ok(set_plan(odile, hidden_picture))["version"] == 2


def test_a_picture_field_takes_pictures_alone(odile):
    for other in ("notices", "general-pictures"):
        problem = refused(set_plan(odile, other), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/values/plan"


class TestMedia:
    PICTURE = "desk/pages/pic-sail-loft"

    def test_they_are_behind_a_door_of_their_own(self, ask, odile):
        Answer.objects.filter(capability="media.open").delete()
        raise_version()
        tomasz = ask("tomasz")
        ok(tomasz.get("desk/children"))
        media = {"tree": "media", "role": "pilot"}
        for path, query in ((self.PICTURE, {}), ("desk/children", media), ("limits/children", media)):
            assert tomasz.get(path, **query).status_code == 403
            ok(odile.get(path, **query))
        refused(tomasz.patch(self.PICTURE, {"title": "Mine"}, **TAG), "not-granted")
        refused(tomasz.post(f"{self.PICTURE}/retire", **TAG), "not-granted")
        assert Node.objects.get(pk="pic-sail-loft").version == 1

    def test_another_tree_there_is_not(self, odile):
        problem = refused(odile.get("desk/children", tree="sea"), "invalid", 422)
        assert problem["errors"][0]["pointer"] == "/tree"


def test_every_refusal_of_a_save_names_the_part(ines):
    page = ok(ines.get(LOFT))
    parts = [{"id": c["id"], "kind": c["kind"], "props": c["props"]} for c in page["components"]]

    def why(data):
        return ines.patch(LOFT, data, **TAG).data_read["detail"].partition(".")[0]

    assert why({"values": {"dues": 1}}) == "You may not change “Annual dues”"
    assert why({"components": [*parts, {"kind": "table", "props": {"rows": [["a"]]}}]}) == "You may not put in a table"
    assert why({"components": parts[:-1]}) == "You may not take out or move the table"
    parts[1]["props"] = parts[1]["props"] | {"level": 3}
    assert why({"components": parts}) == "You may not change the layout of the heading"
