"""Sections of the desk: what is in each is there for those alone to whom it is open."""

import pytest

from gonfalon.access.models import Answer
from gonfalon.access.snapshot import raise_version
from gonfalon.api.desk import profiles
from tests.api.support import apply, ok, refused


@pytest.fixture
def closing(ask, odile):
    """`closing("content.open")` asks as Ludo, the steward, with that section closed to him."""

    def ask_as(section):
        Answer.objects.update_or_create(role_id="site-steward", capability=section, defaults={"says": "barred"})
        raise_version()
        return ask("ludo")

    return ask_as


DOING = {
    "content.open": [
        lambda ludo: ludo.get("desk/pages/p3-sail-loft"),
        lambda ludo: ludo.patch("desk/pages/p3-sail-loft", {"title": "Loft"}, **{"If-Match": '"1"'}),
        lambda ludo: ludo.get("desk/pages/p3-sail-loft/versions"),
        lambda ludo: ludo.get("desk/pages/p3-sail-loft/listing"),
    ],
    "media.open": [lambda ludo: ludo.get("desk/pages/pic-sail-loft")],
    "topics.open": [lambda ludo: ludo.post("topics", {"name": "Knots"})],
    "accounts.open": [lambda ludo: ludo.get("desk/people"), lambda ludo: ludo.get("desk/people/ines")],
    "settings.open": [lambda ludo: ludo.get("sites/harbour/listing")],
    "discussion.open": [lambda ludo: ludo.get("desk/pages/n-pier-3-dredging/posts")],
}


@pytest.mark.parametrize("section", DOING)
def test_nothing_is_done_in_a_section_that_is_closed(closing, section):
    ludo = closing(section)
    for do in DOING[section]:
        trail = refused(do(ludo), "barred")["trail"]
        assert {step["capability"] for step in trail} == {section}


def test_pages_are_on_no_list_of_the_desk_where_its_content_is_closed(closing, odile):
    ludo = closing("content.open")
    Answer.objects.filter(role_id="site-steward", capability__in=("roles.assign", "limits.set")).delete()
    raise_version()
    assert ok(ludo.get("desk/children")) == ok(ludo.get("desk/found?words=e")) == []
    assert ok(ludo.get("desk/children?tree=media")) != []
    refused(ludo.get("desk/children/moorings"), "not-found", 404)
    assert ok(ludo.get("desk/waiting")) == ok(ludo.get("locks")) == []
    assert [found for found in ok(ludo.get("find?words=pier")) if found["kind"] == "page"] == []
    start = ok(ludo.get("start"))
    assert not any(start[part] for part in ("waits", "came_back", "drafts", "left_off", "of_late"))
    refused(ludo.post("desk/pages", {"parent": "events", "type": "event", "title": "Supper"}), "invalid", 422)
    told = ok(ludo.post("desk/many", {"nodes": ["crab-race"], "action": "publish"}))
    assert (told["done"], told["pages"][0]["done"]) == (0, False)


def test_under_the_xray_pages_of_a_closed_section_are_there_with_the_reason(closing, odile):
    closing("content.open")
    ok(odile.post("stand-in", {"account": "ludo"}), 204)
    rows = {row["id"]: row["closed"] for row in ok(odile.get("xray/children"))}
    assert rows["home-harbour"] == {"seen": False, "reason": "barred"}
    assert [row["closed"] for row in ok(odile.get("xray/children?tree=media"))] != rows["home-harbour"]


def test_whoever_says_where_something_is_given_chooses_pages_all_the_same(closing):
    ludo = closing("content.open")
    assert {row["id"] for row in ok(ludo.get("desk/children"))} >= {"home-harbour"}


def test_what_is_in_the_bin_belongs_to_its_section(closing, odile):
    ok(odile.post("desk/pages/crab-race/remove", None, **{"If-Match": odile.get("desk/pages/crab-race")["ETag"]}), 204)
    ludo = closing("content.open")
    assert ok(ludo.get("desk/bin")) == []
    refused(ludo.post("desk/pages/crab-race/restore", {}), "barred")


def test_whoever_opens_the_desk_alone_finds_it_empty(ask, odile):
    apply(odile, *({"kind": "set-answer", "role": "pilot", "capability": c, "says": None} for c in ("content.open",)))
    arvo = ask("arvo")
    assert ok(arvo.get("start"))["drafts"] == []


class TestProfiles:
    def test_those_whose_profile_one_may_see(self, ask, odile):
        names = [row["name"] for row in ok(ask("ludo").get("desk/people?limit=200"))]
        assert "Ines Marrow" in names
        assert names == sorted(names)
        assert [row["name"] for row in ok(ask("ludo").get("desk/people?words=marr ine"))] == ["Ines Marrow"]

    def test_of_others_nothing_is_told(self, lone):
        asking = lone("desk.open")
        assert [row["id"] for row in ok(asking.get("desk/people"))] == ["lone"]
        assert asking.get("desk/people/ines").content == asking.get("desk/people/no-such-thing").content

    def test_fields_are_changed_on_top_of_what_was_read(self, ask):
        ludo = ask("ludo")
        read = ludo.get("desk/people/ines")
        saved = ok(ludo.patch("desk/people/ines", {"profile": {"work": "Sails"}}, **{"If-Match": read["ETag"]}))
        assert {field["key"]: field["value"] for field in saved["profile"]}["work"] == "Sails"
        late = ludo.patch("desk/people/ines", {"profile": {"work": "Rope"}}, **{"If-Match": read["ETag"]})
        refused(late, "changed-meanwhile", 412)
        body = {"profile": {"shoe": "9"}}
        refused(
            ludo.patch("desk/people/ines", body, **{"If-Match": ludo.get("desk/people/ines")["ETag"]}), "invalid", 422
        )

    def test_who_may_only_see_changes_nothing(self, ask, odile):
        Answer.objects.filter(role_id="site-steward", capability="account.edit").delete()
        raise_version()
        ludo = ask("ludo")
        read = ludo.get("desk/people/ines")
        assert not any(field["may_change"] for field in ok(read)["profile"])
        refused(
            ludo.patch("desk/people/ines", {"profile": {"work": "Sails"}}, **{"If-Match": read["ETag"]}),
            "out-of-extent",
        )

    def test_a_name_longer_than_any_is_refused(self, ask):
        refused(ask("ludo").get(f"desk/people?words={'a' * (profiles.LONGEST + 1)}"), "invalid", 422)
