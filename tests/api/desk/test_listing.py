"""Search-listing texts: of a page apart from the rest of it, and of a site apart from its pages."""

import pytest

from gonfalon.content.models import Node
from gonfalon.ledger.models import Entry
from tests.api.changes.test_change_sets import EDIT
from tests.api.support import apply, ok, refused

PAGE, SITE = "desk/pages/p3-sail-loft/listing", "sites/harbour/listing"
TEXTS = {"title": "Sails mended", "description": "On Pier 3 since the old quay.", "hidden": False}
FIRST = {"If-Match": '"1"'}
ADDRESS = "/site/harbour/"
ROOTS = ("home-regatta", "home-harbour")


def test_whoever_may_edit_the_page_may_not_list_it_and_the_other_way_round(ines, odile):
    refused(ines.put(PAGE, TEXTS, **FIRST), "not-granted")
    apply(odile, EDIT | {"capability": "listing.edit", "says": "yes"})
    apply(odile, EDIT | {"capability": "berth.edit", "says": None})
    assert ok(ines.get("desk/pages/p3-sail-loft"))["may_edit_listing"] is True
    assert ok(ines.put(PAGE, TEXTS, **FIRST)) == TEXTS
    refused(ines.patch("desk/pages/p3-sail-loft", {"title": "x"}, **FIRST), "not-granted")
    assert ok(ines.get(PAGE)) == TEXTS


def test_it_is_in_the_head_of_the_public_page(odile, ask):
    address = ADDRESS + Node.objects.get(pk="p3-sail-loft").address
    assert b"<title>Pier 3, Sail loft \xc2\xb7 Skerrow Harbour</title>" in ask().client.get(address).content
    ok(odile.put(PAGE, TEXTS | {"hidden": True}, **FIRST))
    head = ask().client.get(address).content.decode()
    assert "<title>Sails mended</title>" in head
    assert '<meta name="description" content="On Pier 3 since the old quay.">' in head
    assert '<meta name="robots" content="noindex">' in head


def test_a_site_says_what_its_pages_do_not(odile, ask):
    assert "Moorings, notices" in ask().client.get(ADDRESS + "events").content.decode()
    ok(odile.put(SITE, {"title": "The Skerrow", "description": "", "hidden": True}, **FIRST))
    head = ask().client.get(ADDRESS + "events").content.decode()
    assert "<title>Events · The Skerrow</title>" in head
    assert "Moorings, notices" not in head
    assert "noindex" in head
    assert "noindex" not in ask().client.get("/site/regatta/").content.decode()


def test_listing_settings_are_apart_from_listing_texts(ask):
    tomasz = ask("tomasz")
    assert ok(tomasz.put("desk/pages/events/listing", TEXTS, **FIRST)) == TEXTS
    refused(tomasz.get(SITE), "not-granted")
    refused(tomasz.put(SITE, TEXTS, **FIRST), "not-granted")


def test_listing_settings_may_be_given_for_one_site(odile, ask):
    for duty in ("listing.settings", "settings.open"):
        apply(odile, EDIT | {"capability": duty, "says": "yes"})
    apply(
        odile,
        {
            "kind": "give-role",
            "role": "tenant-editor",
            "to": {"kind": "account", "id": "tomasz"},
            "scope": {"sites": ["regatta"]},
        },
    )
    ok(ask("tomasz").put("sites/regatta/listing", TEXTS, **FIRST))
    may = {root: ok(ask("tomasz").get(f"desk/pages/{root}"))["may_edit_site_listing"] for root in ROOTS}
    assert may == {"home-regatta": True, "home-harbour": False}
    refused(ask("tomasz").put(SITE, TEXTS, **FIRST), "out-of-scope")


def test_saving_over_somebody_elses_is_noticed_and_the_page_itself_is_not_touched(odile):
    version = odile.get("desk/pages/p3-sail-loft")["ETag"]
    ok(odile.put(PAGE, TEXTS, **FIRST))
    problem = refused(odile.put(PAGE, TEXTS | {"title": "Mine"}, **FIRST), "changed-meanwhile", 412)
    assert problem["theirs"] == TEXTS
    refused(odile.put(PAGE, TEXTS), "precondition-required", 428)
    assert odile.get("desk/pages/p3-sail-loft")["ETag"] == version
    [entry] = Entry.objects.filter(kind="listing.saved")
    assert {change["what"] for change in entry.changes} == {"listing/title", "listing/description"}


@pytest.mark.parametrize(("change", "pointer"), [({"title": "x" * 121}, "/title"), ({"hidden": "so"}, "/hidden")])
def test_bad_input_names_the_field(odile, change, pointer):
    problem = refused(odile.put(PAGE, TEXTS | change, **FIRST), "invalid", 422)
    assert problem["errors"][0]["pointer"] == pointer
    assert Node.objects.get(pk="p3-sail-loft").listing == {}


def test_no_such_page_or_site(odile):
    refused(odile.get("desk/pages/atlantis/listing"), "not-found", 404)
    refused(odile.get("sites/atlantis/listing"), "not-found", 404)
