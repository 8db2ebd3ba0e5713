"""What `manage.py check --database default` says of all that a policy document would say of this installation."""

from collections.abc import Sequence
from typing import Any

from django.core.checks import CheckMessage, Error, Tags, Warning, register
from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor

from gonfalon.core.checks.findings import review
from gonfalon.core.document.errors import PolicyError
from gonfalon.core.document.reader import load_policy
from gonfalon.core.document.writer import write_policy
from gonfalon.core.model.policy import Policy
from gonfalon.verify.documents import whole_policy

MOST_TOLD = 50


@register(Tags.database)
def installation_is_a_policy(databases: Sequence[str] | None = None, **_: Any) -> list[CheckMessage]:
    """What the rules cannot read, else what can hardly be meant: what `gonfalon check` says of the document."""
    if not databases:
        return []
    migrations = MigrationExecutor(connection)
    if migrations.migration_plan(migrations.loader.graph.leaf_nodes()):
        return []  # nothing to read yet: `migrate` checks before it migrates
    try:
        policy = load_policy(write_policy(whole_policy()))
    except DatabaseError as problem:
        return [Error(f"The policy cannot be read: {problem}", id="gonfalon.E001")]
    except PolicyError as wrong:
        # Warnings, so that `migrate` goes on: it may well mend what is wrong.
        return [Warning(str(fault), id="gonfalon.W003") for fault in wrong.faults[:MOST_TOLD]]
    findings = [
        Warning(str(finding), hint=_HINTS.get(finding.pointer), id="gonfalon.W001") for finding in review(policy)
    ]
    return [*findings[:MOST_TOLD], *_baseline(policy)]


_HINTS = {
    "/accounts": "Nobody can mend a policy that locks everyone out; mark one with `manage.py keyholder`.",
}


def _baseline(policy: Policy) -> list[CheckMessage]:
    return [
        Warning(
            f"No role is the baseline for {key}, so that reaches nobody.",
            hint="`manage.py migrate` makes both; an imported document may leave one out.",
            id="gonfalon.W002",
        )
        for key, role in (("everyone", policy.everyone), ("signed-in", policy.signed_in))
        if role is None
    ]
