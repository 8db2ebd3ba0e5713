"""What is used of what is given: noted by the way, shown in reviews and on an account's page."""

from datetime import UTC, datetime, timedelta

import pytest

from gonfalon.access import uses
from gonfalon.access.models import ReviewItem, Use
from gonfalon.clock import now
from gonfalon.core import Decision
from gonfalon.core.model.question import Finding, TrailStep
from gonfalon.core.model.vocabulary import Reason
from tests.api.support import ok


@pytest.fixture(autouse=True)
def nothing_gathered():
    uses._gathered.clear()
    Use.objects.all().delete()
    yield
    uses._gathered.clear()


def given_by(role: str, capability: str, *more: Finding) -> Decision:
    found = Finding("source", "a1", role, reason=Reason.ALLOWED)
    return Decision(Reason.ALLOWED, (TrailStep("grants", capability, True, (found, *more)),))


def test_asking_notes_the_roles_that_gave_it(ines):
    ok(ines.get("desk/pages/p3-sail-loft"))
    ok(ines.get("desk/children"))
    uses.write()
    noted = {use.role: use.capabilities for use in Use.objects.filter(account="ines")}
    assert "desk.open" in noted["tenant-editor"]
    assert set(noted) <= {"everyone", "signed-in", "tenant-editor", "regatta-crew"}


def test_trying_out_as_somebody_is_no_use_of_what_they_hold(odile):
    ok(odile.post("stand-in", {"account": "ines"}), 204)
    uses._gathered.clear()
    ok(odile.get("desk/pages/p3-sail-loft"))
    assert not uses._gathered


def test_what_gave_nothing_is_not_noted():
    refused = Finding("source", "a2", "pilot", reason=Reason.OUT_OF_SCOPE)
    uses.note("ines", given_by("tenant-editor", "berth.edit", refused), now())
    uses.note("ines", Decision(Reason.NOT_GRANTED), now())
    uses.write()
    assert [(use.role, use.capabilities) for use in Use.objects.all()] == [("tenant-editor", ["berth.edit"])]


def test_a_day_is_one_row_however_often_it_is_written():
    noon = datetime(2026, 6, 1, 12, tzinfo=UTC)
    for capability, at in (("berth.edit", noon), ("berth.see", noon), ("berth.see", noon + timedelta(days=1))):
        uses.note("ines", given_by("tenant-editor", capability), at)
        uses.write()
    rows = [(use.day.isoformat(), use.capabilities) for use in Use.objects.order_by("day")]
    assert rows == [("2026-06-01", ["berth.edit", "berth.see"]), ("2026-06-02", ["berth.see"])]
    assert uses.last_used([("ines", "tenant-editor"), ("ines", "pilot")]) == {
        ("ines", "tenant-editor"): (noon + timedelta(days=1)).date()
    }


def test_old_notes_go():
    at = now()
    uses.note("ines", given_by("pilot", "berth.edit"), at - timedelta(days=500))
    uses.write()
    uses.note("ines", given_by("pilot", "berth.edit"), at)
    uses.write()
    assert [use.day for use in Use.objects.all()] == [at.date()]


def test_writing_waits_a_moment(monkeypatch):
    uses.note("ines", given_by("pilot", "berth.edit"), now())
    uses.write_now_and_then()
    assert not Use.objects.exists()
    monkeypatch.setattr(uses, "EVERY", 0.0)
    uses.write_now_and_then()
    assert Use.objects.count() == 1


def test_a_review_and_an_account_show_the_last_use(odile):
    day = now().date() - timedelta(days=3)
    item = ReviewItem.objects.filter(review="review-1", to_kind="account").first()
    Use.objects.create(account=item.to_id, role=item.role, day=day)
    page = ok(odile.get("reviews/review-1"))
    told = {line["id"]: line["last_used"] for line in page["items"]}
    assert told[item.id] == day.isoformat()
    assert ok(odile.get(f"accounts/{item.to_id}"))["used"] == {item.role: day.isoformat()}


def test_for_a_group_it_is_the_last_use_of_any_member(odile):
    item = ReviewItem.objects.filter(review="review-1").first()
    ReviewItem.objects.filter(pk=item.pk).update(to_kind="group", to_id="pier-3", role="tenant-editor")
    first, second = now().date() - timedelta(days=9), now().date() - timedelta(days=2)
    Use.objects.create(account="ines", role="tenant-editor", day=first)
    Use.objects.create(account="greta", role="tenant-editor", day=second)
    page = ok(odile.get("reviews/review-1"))
    assert {line["last_used"] for line in page["items"] if line["id"] == item.id} == {second.isoformat()}
