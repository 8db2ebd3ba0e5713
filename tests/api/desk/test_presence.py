"""Who else has a page open."""

from datetime import timedelta

from gonfalon.clock import now
from gonfalon.content.models import Present
from tests.api.support import ok

LOFT = "desk/pages/p3-sail-loft"


def here(asking, working=False):
    return ok(asking.put(f"{LOFT}/here", {"working": working}))


def test_two_on_one_page_see_each_other(ask):
    assert here(ask("ines"))["others"] == []
    assert here(ask("odile"))["others"] == [{"name": "Ines Marrow", "working": False}]
    assert [other["name"] for other in here(ask("ines"))["others"]] in (["Odile Varga"], ["somebody"])


def test_somebody_one_does_not_know_of_is_somebody(ask, odile):
    here(odile)
    assert here(ask("aiko"))["others"] == [{"name": "somebody", "working": False}]


def test_whoever_left_is_soon_forgotten(ask):
    here(ask("ines"))
    Present.objects.update(at=now() - timedelta(minutes=1))
    assert here(ask("odile"))["others"] == []


def test_what_is_saved_by_now_is_told(ask, odile):
    before = here(odile)["tag"]
    ok(odile.patch(LOFT, {"title": "The loft"}, **{"If-Match": odile.get(LOFT)["ETag"]}))
    assert (before, here(odile)["tag"]) == ("1", "2")


def test_a_copy_out_of_sight_is_not_told_of(ask, odile):
    here(odile, working=True)
    assert here(ask("ines"))["others"][0]["working"]
    for account in ("aiko", "viggo"):
        answer = ask(account).put(f"{LOFT}/here", {"working": True})
        told = answer.data_read["others"] if answer.status_code == 200 else []
        assert not any(other["working"] for other in told)
