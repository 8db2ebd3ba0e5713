"""Reviews: begun over what is given, decided one by one by their reviewers, closed by their date, and reported."""

import csv
import io
from datetime import timedelta

import pytest
from django_tasks_db.models import DBTaskResult

from gonfalon.access.models import Assignment, Review, ReviewItem
from gonfalon.access.snapshot import current
from gonfalon.api.tables import cell
from gonfalon.clock import now
from tests.api.support import ok, refused
from tests.api.worker import work

INTERNS = {
    "name": "Interns, winter",
    "role": "season-intern",
    "reviewers": ["tomasz"],
    "due_at": "2099-01-01T00:00:00Z",
}


def begun(odile, **changed):
    return ok(odile.post("reviews", INTERNS | changed), 201)


def items(asking, id):
    return {item["who"]: item for item in ok(asking.get(f"reviews/{id}"))["items"]}


def decide(asking, id, who, decision, reason="Season is over."):
    item = items(asking, id)[who]["id"]
    return asking.post(f"reviews/{id}/items/{item}", {"decision": decision, "reason": reason})


def test_it_goes_through_what_is_given_there(odile):
    review = begun(odile)
    assert (review["about"], review["items"], review["decided"]) == ("holders of Season intern", 2, 0)
    assert set(items(odile, review["id"])) == {"Aiko Lindqvist", "Ciaran Ubukata"}
    group = begun(odile, role=None, group="volunteers")
    assert group["items"] >= 1
    branch = begun(odile, role=None, branch="fees")
    assert 0 < branch["items"] <= begun(odile, role=None)["items"]


def test_a_reviewer_keeps_and_ends_without_any_duty(odile, ask):
    id = begun(odile)["id"]
    tomasz = ask("tomasz")
    assert [r["id"] for r in ok(tomasz.get("reviews"))] == [id, "review-1"]
    assert "reviews" in ok(tomasz.get("session"))["places"]
    ok(decide(tomasz, id, "Aiko Lindqvist", "keep", ""))
    told = ok(decide(tomasz, id, "Ciaran Ubukata", "end"))
    assert told["review"]["decided"] == 2
    gone = {item["who"]: item["there"] for item in told["items"]}
    assert gone == {"Aiko Lindqvist": True, "Ciaran Ubukata": False}
    assert not Assignment.objects.filter(account="ciaran", role="season-intern").exists()
    refused(decide(tomasz, id, "Ciaran Ubukata", "keep"), "conflict", 409)


def test_what_ends_has_a_reason(odile):
    id = begun(odile)["id"]
    problem = refused(decide(odile, id, "Aiko Lindqvist", "end", " "), "invalid", 422)
    assert problem["errors"][0]["pointer"] == "/reason"


def test_nobody_decides_about_their_own(odile, ask):
    id = begun(odile, reviewers=["aiko"])["id"]
    refused(decide(ask("aiko"), id, "Aiko Lindqvist", "keep"), "own")
    ok(decide(ask("aiko"), id, "Ciaran Ubukata", "keep"))


def test_nor_about_what_a_group_has_that_they_are_in(odile, ask):
    """Arvo is a pilot, and through their group so are those above it."""
    own = {a.group_id for a in Assignment.objects.exclude(group=None) if arvo_is_in(a.group_id)}
    assert own, "something is given to a group of his"
    id = begun(odile, role=None, reviewers=["arvo"])["id"]
    for item in ok(ask("arvo").get(f"reviews/{id}"))["items"]:
        row = ReviewItem.objects.get(pk=item["id"])
        answer = ask("arvo").post(f"reviews/{id}/items/{row.id}", {"decision": "keep"})
        assert (answer.status_code == 403) == (row.to_id in {"arvo", *own}), row.to_id


def arvo_is_in(group: str) -> bool:
    policy = current().policy
    return any(group in policy.group_chain(key) for key in policy.accounts["arvo"].groups)


def test_nobody_else_sees_it(odile, ask):
    id = begun(odile)["id"]
    assert ok(ask("ines").get("reviews")) == []
    refused(ask("ines").get(f"reviews/{id}"), "not-found", 404)
    refused(ask("ines").get(f"reviews/{id}/report"), "not-found", 404)
    refused(ask("tomasz").post("reviews", INTERNS), "not-granted")
    refused(ask("tomasz").post(f"reviews/{id}/close"), "not-granted")


@pytest.mark.parametrize(("silent", "left"), [("keep", 2), ("end", 0)])
def test_on_its_date_what_nobody_decided_is_kept_or_ended(odile, silent, left):
    id = begun(odile, silent=silent)["id"]
    work()
    assert Review.objects.get(pk=id).closed_at is None
    Review.objects.filter(pk=id).update(due_at=now() - timedelta(seconds=1))
    DBTaskResult.objects.update(run_after=now() - timedelta(seconds=1))
    work()
    assert Review.objects.get(pk=id).closed_at is not None
    assert Assignment.objects.filter(role="season-intern").count() == left
    assert set(ReviewItem.objects.filter(review=id).values_list("decision", flat=True)) == {silent}
    refused(odile.post(f"reviews/{id}/close"), "conflict", 409)


def test_it_is_closed_by_hand(odile):
    id = begun(odile)["id"]
    ok(odile.post(f"reviews/{id}/close"), 204)
    refused(decide(odile, id, "Aiko Lindqvist", "end"), "conflict", 409)


def test_the_report_is_a_table(odile):
    id = begun(odile)["id"]
    ok(decide(odile, id, "Ciaran Ubukata", "end", "=SUM(A1)"))
    answer = odile.client.get(f"/api/reviews/{id}/report")
    assert answer["Content-Type"] == "text/csv; charset=utf-8"
    rows = list(csv.DictReader(io.StringIO(answer.content.decode("utf-8-sig"))))
    [ciaran] = [row for row in rows if row["Who"] == "Ciaran Ubukata"]
    assert (ciaran["Decision"], ciaran["Reason"]) == ("end", "'=SUM(A1)")


def test_no_cell_is_a_formula():
    assert [cell(text) for text in ("=1", "+1", "-1", "@x", "\tx", "ok", None)] == [
        "'=1", "'+1", "'-1", "'@x", "'\tx", "ok", ""
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("changed", "at"),
    [({"name": ""}, "/name"), ({"group": "nothing"}, "/group"), ({"branch": "nowhere"}, "/branch"),
     ({"reviewers": []}, "/reviewers"), ({"reviewers": ["nobody"]}, "/reviewers/0"),
     ({"due_at": "2020-01-01T00:00:00Z"}, "/due_at"), ({"silent": "perhaps"}, "/silent")],
)  # fmt: skip
def test_what_cannot_be_begun_names_the_field(odile, changed, at):
    problem = refused(odile.post("reviews", INTERNS | changed), "invalid", 422)
    assert problem["errors"][0]["pointer"].startswith(at)
