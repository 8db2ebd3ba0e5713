"""Who an account is: what can be changed of it, by itself and by those who look after accounts."""

from dataclasses import replace
from typing import Any

from rest_framework import serializers

from gonfalon.access.people import send_confirmation
from gonfalon.access.roles import fold
from gonfalon.accounts.models import Account
from gonfalon.api.problems import Invalid, Refused
from gonfalon.ledger.models import Change, record
from gonfalon.verify.presence import Presence

LANGUAGES = ("en", "cy", "da", "de", "es", "fi", "fr", "ga", "is", "it", "nb", "nl", "pl", "pt", "sv")


class NameField(serializers.CharField):
    """A person's name, without characters that nobody sees."""

    def to_internal_value(self, data: Any) -> str:
        name = fold(super().to_internal_value(data))
        if not name:
            raise serializers.ValidationError("An account needs a name that can be read.")
        return name


class AccountChangeInput(serializers.Serializer):
    name = NameField(max_length=120, required=False)
    email = serializers.EmailField(required=False, error_messages={"invalid": "This is not an e-mail address."})
    language = serializers.ChoiceField(choices=LANGUAGES, required=False)
    telephone = serializers.CharField(max_length=40, required=False, allow_blank=True)


def change_account(row: Account, asked: dict[str, Any], presence: Presence) -> None:
    """Change who an account is. Raises Invalid for an address that another one has, Refused as `may_answer_for`."""
    asked = dict(asked)
    email = asked.pop("email", row.email)
    if email.lower() != row.email.lower():
        may_answer_for(row, presence)
        if Account.objects.filter(email__iexact=email).exclude(pk=row.pk).exists():
            raise Invalid({"/email": "Another account has this address."})
        send_confirmation(row, email, presence.by)
    changes = [
        Change(what=key, was=getattr(row, key), now=value) for key, value in asked.items() if getattr(row, key) != value
    ]
    if changes:
        for change in changes:
            setattr(row, change["what"], change["now"])
        row.version += 1
        row.save(update_fields=["version", *(change["what"] for change in changes)])
        record(
            presence.by,
            "account.changed",
            f"Changed {row.name}",
            about=("account", row.id),
            changes=changes,
        )


def may_answer_for(row: Account, presence: Presence) -> None:
    """Raise Refused unless whoever asks could do all that an account may: whoever has its mail could sign in as it.

    One that is not active counts as what it could do once it is.
    """
    actor = presence.subject
    if actor is not None and (actor.keyholder or actor.id == row.id):
        return
    policy = presence.snapshot.policy
    awake = replace(policy.accounts[row.id], state="active")
    engine = presence.engine.changed(replace(policy, accounts={**policy.accounts, row.id: awake}))
    if row.keyholder or next(engine.excess(presence.who or "", row.id, presence.at), None) is not None:
        raise Refused("beyond", f"{row.name} may do things that you may not, and could be signed in as.")


def who_data(row: Account) -> dict[str, Any]:
    """What can be changed of who an account is."""
    return {"name": row.name, "email": row.email, "language": row.language, "telephone": row.telephone}
