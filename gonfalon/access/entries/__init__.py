"""Policy entries as rows: for each kind how it is read, put and dropped, and nowhere else.

The snapshot reads by them, operations and policy documents write by them. How an entry is written as data, and read
again, is the core's (`core/document/entries.py`); how a change of it is told, `describe`'s.
"""

from gonfalon.access.entries.base import Entries, read_scope
from gonfalon.access.entries.delegations import Delegations
from gonfalon.access.entries.field_rules import FieldRules
from gonfalon.access.entries.given import Assignments, DirectGrants
from gonfalon.access.entries.limits import Limits
from gonfalon.access.entries.locks import Locks

ASSIGNMENTS, DIRECT_GRANTS, DELEGATIONS = Assignments(), DirectGrants(), Delegations()
LIMITS, LOCKS, FIELD_RULES = Limits(), Locks(), FieldRules()

__all__ = (
    "ASSIGNMENTS",
    "DELEGATIONS",
    "DIRECT_GRANTS",
    "FIELD_RULES",
    "LIMITS",
    "LOCKS",
    "Entries",
    "read_scope",
)
