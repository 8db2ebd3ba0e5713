"""Discussion under a page follows the page: scope, limits and all."""

from gonfalon.access.models import Answer
from gonfalon.access.snapshot import raise_version
from gonfalon.ledger.models import Entry
from tests.api.support import ok, refused

DREDGING = "desk/pages/n-pier-3-dredging/posts"


def states(asking, path=DREDGING):
    return [post["state"] for post in ok(asking.get(path))]


def test_what_is_held_is_for_moderators(ask):
    assert states(ask("halla")) == ["approved", "approved", "held"]
    refused(ask("ines").get(DREDGING), "not-granted")
    Answer.objects.create(role_id="tenant-editor", capability="discussion.open", says="yes")
    raise_version()
    assert states(ask("ines")) == ["approved", "approved"]


def test_a_moderator_approves_and_visitors_read_it(ask):
    page = "/site/harbour/notices-to-mariners/dredging-off-pier-3"
    assert "has no light" not in ask().client.get(page).content.decode()
    ok(ask("halla").patch(f"{DREDGING}/post-3", {"state": "approved"}))
    assert "has no light" in ask().client.get(page).content.decode()
    assert Entry.objects.first().changes[0]["now"] == "approved"


def test_moderating_holds_only_where_it_was_given(ask):
    Answer.objects.create(role_id="tenant-editor", capability="discussion.open", says="yes")
    raise_version()
    refused(ask("ines").patch(f"{DREDGING}/post-3", {"state": "approved"}), "not-granted")
    refused(ask("halla").patch("desk/pages/winter-rates/posts/post-3", {"state": "approved"}), "out-of-scope")


def test_a_post_is_found_under_its_own_page_only(ask):
    refused(ask("halla").patch("desk/pages/n-seals/posts/post-3", {"state": "approved"}), "not-found", 404)
    refused(ask("halla").patch(f"{DREDGING}/post-3", {"state": "held"}), "invalid", 422)
