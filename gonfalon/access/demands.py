"""What people must have when they come, before anything else is open to them: a second factor, fields of their profile.

    missing(current(), account, now())      # frozenset({FACTOR, "telephone"})

It binds whoever signs in, never those who look after accounts.
"""

from datetime import datetime

from gonfalon.access.catalogue import Field
from gonfalon.access.models import PolicyVersion
from gonfalon.access.snapshot import Demands, Snapshot, raise_version
from gonfalon.accounts.models import Account
from gonfalon.core import Question
from gonfalon.core.model.tree import profile
from gonfalon.core.model.vocabulary import PROFILE, Kind
from gonfalon.ledger.models import By, Change, record
from gonfalon.work import POLICY, raise_row, unit, version_row

FACTOR, PASSWORD = "second factor", "password of their own"
"""No key of a field has a space."""


def missing(snapshot: Snapshot, account: Account, at: datetime) -> frozenset[str]:
    """What an account lacks of what is asked of it. One query where a second factor is, else none."""
    lacks = {
        field.key
        for field in fields_asked(snapshot)
        if account.profile.get(field.key) in (None, "", []) and may_change_own(snapshot, account.id, field.key, at)
    }
    if needs_factor(snapshot, account.id, at) and not account.factors.exists():
        lacks.add(FACTOR)
    if account.password_given:
        lacks.add(PASSWORD)
    return frozenset(lacks)


def fields_asked(snapshot: Snapshot) -> list[Field]:
    """The fields that must be filled in: of those that were asked for, the ones in use that can be."""
    asked = snapshot.demands.fields
    return [f for f in snapshot.catalogue.type(PROFILE).fields if f.key in asked and f.fits_profile]


def needs_factor(snapshot: Snapshot, account: str, at: datetime) -> bool:
    """Whether an account must have a second factor: by a role it holds, or by a risky duty it passes."""
    demands = snapshot.demands
    if not demands.roles.isdisjoint(snapshot.holders(at).roles_of(account)):
        return True
    return demands.risky and any(
        snapshot.engine.decide(Question(account, duty, at=at)).allow for duty in risky_duties(snapshot)
    )


def risky_duties(snapshot: Snapshot) -> list[str]:
    """The sitewide duties of which the catalogue says what could go wrong."""
    return [duty.key for duty in snapshot.catalogue.duties.values() if duty.risk and duty.kind is Kind.SITEWIDE]


def may_change_own(snapshot: Snapshot, account: str, field: str, at: datetime) -> bool:
    """Whether somebody may fill in a field of their own profile: nobody is asked for what they cannot give."""
    own = profile(account)
    questions = (Question(account, "edit", own, at), Question(account, "change-field", own, at, field=field))
    return all(snapshot.engine.decide(question).allow for question in questions)


@unit(POLICY)
def set_demands(demands: Demands, by: By) -> None:
    """Ask people for these and no others, from their next visit on."""
    row: PolicyVersion = version_row(POLICY)
    was, asked = Demands.read(row.demands).data(), demands.data()
    changes = [Change(what=f"demands/{key}", was=was[key], now=now) for key, now in asked.items() if was[key] != now]
    if changes:
        raise_row(row, demands=asked)
        raise_version()
        record(by, "demands.changed", changes=changes)
