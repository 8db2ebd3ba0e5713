"""What `manage.py check --database default` says about the policy in the database."""

from collections.abc import Sequence
from typing import Any

from django.core.checks import CheckMessage, Error, Tags, Warning, register
from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor

from gonfalon.access.snapshot import read_policy
from gonfalon.accounts.models import Account


@register(Tags.database)
def policy_can_be_read(databases: Sequence[str] | None = None, **_: Any) -> list[CheckMessage]:
    if not databases:
        return []
    migrations = MigrationExecutor(connection)
    if migrations.migration_plan(migrations.loader.graph.leaf_nodes()):
        return []  # nothing to read yet: `migrate` checks before it migrates
    try:
        policy = read_policy()
        keyholders = Account.objects.filter(keyholder=True, state=Account.State.ACTIVE).exists()
    except DatabaseError as problem:
        return [Error(f"The policy cannot be read: {problem}", id="gonfalon.E001")]
    missing = [key for key, role in (("everyone", policy.everyone), ("signed-in", policy.signed_in)) if role is None]
    found: list[CheckMessage] = [
        Warning(
            f"No role is the baseline for {key}, so that reaches nobody.",
            hint="`manage.py migrate` makes both; an imported document may leave one out.",
            id="gonfalon.W002",
        )
        for key in missing
    ]
    if not keyholders:
        found.append(
            Warning(
                "No active account is a keyholder.",
                hint="Nobody can mend a policy that locks everyone out; mark one with `manage.py keyholder`.",
                id="gonfalon.W001",
            )
        )
    return found
