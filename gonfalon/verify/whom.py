"""Whom one stands in for, in words: an account, a visitor, or somebody made up who holds some roles.

whom_words(HypotheticalSubject(("tenant-editor", "regatta-crew")))      # "Tenant editor + Regatta crew"
"""

from gonfalon.access.models import Group, Role
from gonfalon.accounts.names import names_of
from gonfalon.core.model.question import HypotheticalSubject, Who

VISITOR = "A visitor"


def roles_of(who: HypotheticalSubject) -> list[str]:
    """The roles that somebody made up holds, each once."""
    return list(dict.fromkeys((*who.roles, *(role for role, _ in who.scoped))))


def whom_words(who: Who) -> str:
    """A name for whoever it is. One query, or two for somebody made up."""
    if who is None:
        return VISITOR
    if isinstance(who, str):
        return names_of([who]).get(who, who)
    held, groups = roles_of(who), who.groups
    roles = dict(Role.objects.filter(pk__in=held).values_list("pk", "name"))
    teams = dict(Group.objects.filter(pk__in=groups).values_list("pk", "name"))
    named = " + ".join(roles.get(key, key) for key in held)
    member = f"a member of {', '.join(teams.get(key, key) for key in groups)}" if groups else ""
    return " and ".join(filter(None, (named, member))) or "Somebody without a role"
