"""The policy in memory: read in a fixed number of queries, once per version."""

from gonfalon.access.models import Answer, Assignment, Role
from gonfalon.access.snapshot import current, raise_version


def test_it_is_kept_until_the_version_is_raised(django_assert_num_queries):
    first = current()
    with django_assert_num_queries(1):
        assert current() is first
    raise_version()
    assert current() is not first


def test_reading_it_costs_the_same_however_much_is_said(django_assert_num_queries):
    current()
    raise_version()
    with django_assert_num_queries(17):
        current()
    role = Role.objects.create(key="many", name="Many", colour="fir", pattern="plain")
    Answer.objects.bulk_create(Answer(role=role, capability=f"event.{v}", says="all") for v in ("see", "edit", "move"))
    Assignment.objects.bulk_create(Assignment(role=role, account_id=a) for a in ("ines", "aiko", "tomasz"))
    raise_version()
    with django_assert_num_queries(17):
        assert len(current().policy.assignments) == 25
