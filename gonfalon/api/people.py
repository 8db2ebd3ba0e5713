"""Who an account is: what can be changed of it, by itself and by those who look after accounts."""

from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import Any

from rest_framework import serializers

from gonfalon.access.catalogue import Catalogue, Field
from gonfalon.access.demands import fields_asked
from gonfalon.access.people import send_confirmation
from gonfalon.accounts.models import Account, ProfileVersion
from gonfalon.accounts.signin import TooManyGuesses, count_letter
from gonfalon.api.guard import decide, may
from gonfalon.api.names import AddressField, NameField
from gonfalon.api.problems import Invalid, Refused, TooMany
from gonfalon.content.field_kinds import read_value
from gonfalon.content.page_input import Writer
from gonfalon.core import Question
from gonfalon.core.model.tree import profile
from gonfalon.core.model.vocabulary import PROFILE
from gonfalon.inputs import Input
from gonfalon.ledger.models import By, Change, record
from gonfalon.viewpoint.viewpoint import Viewpoint

LANGUAGES = ("en", "cy", "da", "de", "es", "fi", "fr", "ga", "is", "it", "nb", "nl", "pl", "pt", "sv")
_PLAIN = Writer(Catalogue({}, {}, {}), (), lambda kind, id: False)
"""Fields of a profile hold no markup and name no nodes."""


class AccountChangeInput(Input):
    name = NameField(max_length=120, required=False)
    email = AddressField(required=False)
    language = serializers.ChoiceField(choices=LANGUAGES, required=False)
    profile = serializers.DictField(required=False, help_text="Values by field; one left out stays.")


class ProfileFieldShape(serializers.Serializer):
    """A field of a profile that may be seen."""

    key = serializers.CharField()
    name = serializers.CharField()
    kind = serializers.CharField()
    choices = serializers.ListField(child=serializers.CharField())
    value = serializers.JSONField(allow_null=True)
    may_change = serializers.BooleanField()
    asked = serializers.BooleanField(help_text="Whether everybody must fill it in.")


class WhoShape(serializers.Serializer):
    """What can be changed of who an account is."""

    name = serializers.CharField()
    email = serializers.CharField()
    language = serializers.CharField()
    portrait = serializers.CharField(allow_null=True, help_text="Where the picture of the account is.")
    profile = ProfileFieldShape(many=True)


def change_account(row: Account, asked: Mapping[str, Any], viewpoint: Viewpoint, by: By) -> None:
    """Change who an account is. Raises Invalid, and Refused for a closed field and as `may_answer_for`."""
    asked = dict(asked)
    email = asked.pop("email", row.email)
    given = asked.pop("profile", {})
    values = {**row.profile, **_values(row, given, viewpoint)}
    if email.lower() != row.email.lower():
        may_answer_for(row, viewpoint)
        taken = Account.objects.filter(email__iexact=email).exclude(pk=row.pk).exists()
        if taken and may(viewpoint, "accounts.invite"):
            raise Invalid({"/email": "Another account has this address."})
        count_letters(email, by)
        send_confirmation(row, email, by, taken=taken)
    was = ProfileVersion(account=row, number=row.version, data=row.profile)
    changes = [
        Change(what=key, was=getattr(row, key), now=value) for key, value in asked.items() if getattr(row, key) != value
    ]
    profile_changed = values != row.profile
    if changes or profile_changed:
        for key, value in asked.items():
            setattr(row, key, value)
        row.profile = values
        row.version += 1
        row.save(update_fields=["version", "profile", *asked])
        data = None
        if profile_changed:
            now = ProfileVersion(account=row, number=row.version, data=values)
            ProfileVersion.objects.bulk_create([was, now], ignore_conflicts=True)
            data = {"profile": row.id, "versions": [was.number, now.number]}
        about = ("account", row.id)
        record(by, "account.changed", about=about, changes=changes, data=data, name=row.name)


def count_letters(to: str, by: By) -> None:
    """Count a letter that somebody lets be sent. Raises TooMany."""
    try:
        count_letter(to, by.actor or "")
    except TooManyGuesses as wait:
        raise TooMany(wait.seconds) from None


def may_answer_for(row: Account, viewpoint: Viewpoint) -> None:
    """Raise Refused unless whoever asks could do all that an account may: whoever has its mail could sign in as it.

    One that is not active counts as what it could do once it is.
    """
    if viewpoint.keyholder or viewpoint.account == row.id:
        return
    policy = viewpoint.snapshot.policy
    awake = replace(policy.accounts[row.id], state="active")
    engine = viewpoint.engine.changed(replace(policy, accounts={**policy.accounts, row.id: awake}))
    if row.keyholder or next(engine.excess(viewpoint.subject, row.id, viewpoint.at), None) is not None:
        raise Refused("beyond", f"{row.name} may do things that you may not, and could be signed in as.")


def who_data(row: Account, viewpoint: Viewpoint) -> dict[str, Any]:
    """Who an account is, as `WhoShape` has it."""
    return {
        "name": row.name,
        "email": row.email,
        "language": row.language,
        "portrait": portrait_address(row),
        "profile": list(_profile(row, viewpoint)),
    }


def portrait_address(row: Account) -> str | None:
    """Where the picture of an account is; another address for another picture, so that browsers may keep it."""
    return f"/api/accounts/{row.id}/portrait?{str(row.portrait).rpartition('/')[2]}" if row.portrait else None


def _profile(row: Account, viewpoint: Viewpoint) -> Iterator[dict[str, Any]]:
    asked = fields_asked(viewpoint.in_force)
    for field in _fields(viewpoint):
        if _may(viewpoint, "see-field", row, field.key):
            yield {
                "key": field.key,
                "name": field.name,
                "kind": field.kind,
                "choices": field.choices,
                "value": row.profile.get(field.key),
                "may_change": _may(viewpoint, "edit", row) and _may(viewpoint, "change-field", row, field.key),
                "asked": field in asked,
            }


def _values(row: Account, given: Mapping[str, Any], viewpoint: Viewpoint) -> dict[str, Any]:
    """What was sent for fields of a profile, checked. Raises Invalid, and Refused for a field that is closed."""
    known = {field.key: field for field in _fields(viewpoint)}
    values, errors = {}, {}
    for key, value in given.items():
        if key not in known or not _may(viewpoint, "see-field", row, key):
            errors[f"/profile/{key}"] = "A profile has no such field."
            continue
        try:
            new = read_value(known[key], value.strip() if isinstance(value, str) else value, _PLAIN)
        except ValueError as wrong:
            errors[f"/profile/{key}"] = str(wrong)
            continue
        if new != row.profile.get(key):
            values[key] = new
    if errors:
        raise Invalid(errors)
    for key in values:
        if not _may(viewpoint, "change-field", row, key):
            raise Refused("field", f"You may not change “{known[key].name}”.")
    return values


def _fields(viewpoint: Viewpoint) -> tuple[Field, ...]:
    return viewpoint.snapshot.catalogue.types[PROFILE].fields


def _may(viewpoint: Viewpoint, action: str, row: Account, field: str | None = None) -> bool:
    question = Question(viewpoint.subject, action, profile(row.id), viewpoint.at, field=field)
    return decide(viewpoint, question, trail=False).allow
