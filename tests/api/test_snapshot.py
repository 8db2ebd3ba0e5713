"""The policy in memory: read in a fixed number of queries, once per version."""

from gonfalon.access import snapshot
from gonfalon.access.models import Answer, Assignment, Role
from gonfalon.access.snapshot import current, raise_version, read_policy
from gonfalon.clock import now
from gonfalon.content.nodes import content, engine_over
from gonfalon.core import Engine


def test_it_is_kept_until_the_version_is_raised(django_assert_num_queries):
    first = current()
    with django_assert_num_queries(1):
        assert current() is first
    raise_version()
    assert current() is not first


def test_reading_it_costs_the_same_however_much_is_said(django_assert_num_queries):
    current()
    raise_version()
    with django_assert_num_queries(19):
        current()
    role = Role.objects.create(key="many", name="Many", colour="fir", pattern="plain")
    Answer.objects.bulk_create(Answer(role=role, capability=f"event.{v}", says="all") for v in ("see", "edit", "move"))
    Assignment.objects.bulk_create(Assignment(role=role, account_id=a) for a in ("ines", "aiko", "tomasz"))
    raise_version()
    with django_assert_num_queries(19):
        assert len(current().policy.assignments) == 25


def test_another_version_is_made_of_what_the_one_before_had():
    first = current()
    Answer.objects.create(role_id="pilot", capability="event.move", says="own")
    raise_version()
    again = current()
    assert (again.policy, again.line) == (read_policy(), first.line + 1)
    assert again.policy.accounts is first.policy.accounts
    changed = {key for key, role in again.policy.roles.items() if role is not first.policy.roles[key]}
    assert changed == {"pilot"}


def test_after_a_long_line_of_versions_one_begins_anew(monkeypatch):
    monkeypatch.setattr(snapshot, "_LONGEST_LINE", 2)
    lines = []
    for _ in range(5):
        lines.append(current().line)
        raise_version()
    assert lines == [0, 1, 2, 0, 1]


def test_the_survey_of_another_version_is_that_of_its_policy():
    trees = []
    for says in ("own", "all", None):
        Answer.objects.filter(role_id="pilot", capability="notice.edit").delete()
        if says is not None:
            Answer.objects.create(role_id="pilot", capability="notice.edit", says=says)
        raise_version()
        told = engine_over(content(), current())
        assert told.policy is current().policy
        fresh = Engine(read_policy(), told.tree).surveyor
        who = [None, *told.policy.accounts]
        answers = told.surveyor.allowed(who, None, ["edit", "see"], now())
        assert (answers == fresh.allowed(who, None, ["edit", "see"], now())).all()
        trees.append(told.tree)
    assert trees[0] is trees[1] is trees[2]
