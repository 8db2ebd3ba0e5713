"""The public site while one stands in: as they have it, and a way back."""

import pytest

from tests.api.support import Asking, apply, ok

HOME = "/site/harbour/"


def read(asking: Asking, path: str = HOME) -> str:
    return asking.client.get(path).content.decode()


def test_a_visitor_is_nobody_signed_in(odile, ask):
    before = read(ask(None))
    assert "Harbour office" in read(odile)
    ok(odile.post("stand-in", {"account": None}), 204)
    page = read(odile)
    head, _, rest = page.partition("</aside>")
    assert "Standing in for <strong>a visitor</strong>" in head
    signs_in = '<p><a href="/sign-in?to=%2Fsite%2Fharbour%2F">Sign in</a></p>'
    assert rest.strip() == before.partition("<body>")[2].replace(signs_in, "").strip()
    assert odile.get("start").status_code == odile.get("crossbar").status_code == 401


def test_somebody_made_up_and_their_name(odile):
    ok(odile.post("stand-in", {"roles": ["tenant-editor"], "groups": ["pier-3"], "mode": "rehearse"}), 204)
    assert "Rehearsing as <strong>Tenant editor and a member of Pier 3</strong>" in read(odile)
    subject = ok(odile.get("session"))["subject"]
    assert (subject["id"], subject["whose"], [role["key"] for role in subject["roles"]]) == (
        None,
        "roles",
        ["tenant-editor"],
    )


def test_what_is_done_in_a_rehearsal_is_on_its_site(odile):
    ok(odile.post("stand-in", {"account": "odile", "mode": "rehearse"}), 204)
    tag = odile.get("desk/pages/p3-sail-loft")["ETag"]
    ok(odile.patch("desk/pages/p3-sail-loft", {"title": "The loft of lofts"}, **{"If-Match": tag}))
    address = ok(odile.get("desk/pages/p3-sail-loft"))["address"]
    assert "The loft of lofts" in read(odile, f"/site/harbour/{address}")
    assert "The loft of lofts" not in read(Asking("odile"), f"/site/harbour/{address}")


@pytest.mark.parametrize("xray", ["", "?xray=on"])
def test_the_x_ray_tells_what_is_not_shown(odile, xray):
    ok(odile.post("stand-in", {"account": None}), 204)
    assert ("Harbour office" in read(odile, HOME + xray)) == bool(xray)


def test_stepping_out_leads_back(odile):
    ok(odile.post("stand-in", {"account": None, "came_from": "/verify?show=breaks"}), 204)
    response = odile.client.post("/step-out")
    assert (response.status_code, response["Location"]) == (302, "/verify?show=breaks")
    assert ok(odile.get("session"))["standing_in"] is None


def test_a_page_that_is_not_there_says_so_under_the_strip(odile):
    ok(odile.post("stand-in", {"account": None}), 204)
    page = read(odile, "/site/harbour/harbour-office")
    assert "Standing in for" in page
    assert "Not found" in page


def test_the_x_ray_shows_nothing_that_one_does_not_see_oneself(ask, odile):
    lieke = ask("lieke")
    give = {"kind": "give-capability", "capability": "impersonate.start", "says": "yes"}
    apply(odile, give | {"to": {"kind": "account", "id": "lieke"}})
    mine = read(lieke)
    ok(lieke.post("stand-in", {"account": None}), 204)
    shown = read(lieke, HOME + "?xray=on").partition("</section>")[0]
    assert ("Harbour office" in shown) == ("Harbour office" in mine) is False
