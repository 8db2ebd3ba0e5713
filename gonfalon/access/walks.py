"""Who was asked to try what a role can do, which lets them rehearse as themselves.

give("tenant-editor", account, by, "Please try all of it.")
is_walking("ines")                          # True
"""

from collections.abc import Iterable

from gonfalon.access.models import GivenWalk, Role


def is_walking(account: str) -> bool:
    """Whether an account was given anything to walk, of a role that there is. One query."""
    return GivenWalk.objects.filter(account=account, role__in=Role.objects.values("key")).exists()


def walks_of(account: str) -> dict[str, GivenWalk]:
    """What an account was given to walk, by role. One query."""
    return {given.role: given for given in GivenWalk.objects.filter(account=account)}


def walkers(roles: Iterable[str]) -> list[GivenWalk]:
    """Who was given the lists of some roles, the first first. One query."""
    return list(GivenWalk.objects.filter(role__in=list(roles)))
