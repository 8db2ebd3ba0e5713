"""Policy entries: for each kind how it is read from rows, put there and dropped, and how a change of it is told.

The snapshot reads by them, operations and policy documents write by them, and the tray, requests and the ledger tell
by them. How an entry is written as data, and read again, is the core's (`core/document/entries.py`).
"""

from gonfalon.access.entries.accounts import Memberships, Reaches, States
from gonfalon.access.entries.answers import Answers
from gonfalon.access.entries.base import Cell, Cells, Entries, read_scope
from gonfalon.access.entries.delegations import Delegations
from gonfalon.access.entries.field_rules import FieldRules
from gonfalon.access.entries.given import Assignments, DirectGrants
from gonfalon.access.entries.groups import Groups
from gonfalon.access.entries.limits import Limits
from gonfalon.access.entries.locks import Locks
from gonfalon.access.entries.roles import BuildsOn, Changeable, Insertable, Roles

ROLES, ANSWERS, BUILDS_ON, INSERTABLE, CHANGEABLE = Roles(), Answers(), BuildsOn(), Insertable(), Changeable()
GROUPS, MEMBERSHIPS, REACHES, STATES = Groups(), Memberships(), Reaches(), States()
ASSIGNMENTS, DIRECT_GRANTS, DELEGATIONS = Assignments(), DirectGrants(), Delegations()
LIMITS, LOCKS, FIELD_RULES = Limits(), Locks(), FieldRules()

__all__ = (
    "ANSWERS",
    "ASSIGNMENTS",
    "BUILDS_ON",
    "CHANGEABLE",
    "DELEGATIONS",
    "DIRECT_GRANTS",
    "FIELD_RULES",
    "GROUPS",
    "INSERTABLE",
    "LIMITS",
    "LOCKS",
    "MEMBERSHIPS",
    "REACHES",
    "ROLES",
    "STATES",
    "Cell",
    "Cells",
    "Entries",
    "read_scope",
)
