"""Names of people, for views of apps that know accounts only by id."""

from collections.abc import Iterable

from gonfalon.accounts.models import Account


def names_of(ids: Iterable[str]) -> dict[str, str]:
    """The names of these accounts, in one query."""
    return dict(Account.objects.filter(pk__in=set(ids)).values_list("id", "name"))
