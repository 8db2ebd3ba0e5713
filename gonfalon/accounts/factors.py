"""A second factor: codes that change with time (RFC 6238), passkeys (WebAuthn), and codes for when both are lost.

    secret = new_secret()
    add_code(account, "Telephone", secret, "492039")     # raises WrongFactor
    passes_code(account, "118402")                       # whether it is the code of now, and was not used yet

A passkey answers a challenge, which the caller keeps between asking and being answered.
"""

from secrets import compare_digest
from typing import Any

import pyotp
import segno
import webauthn
from django.conf import settings
from django.db.models import Q
from django.utils.crypto import salted_hmac
from webauthn.helpers import base64url_to_bytes, bytes_to_base64url
from webauthn.helpers.exceptions import WebAuthnException
from webauthn.helpers.structs import (
    AuthenticatorSelectionCriteria,
    PublicKeyCredentialDescriptor,
    ResidentKeyRequirement,
    UserVerificationRequirement,
)

from gonfalon.accounts.models import Account, Factor, RecoveryCode
from gonfalon.accounts.passwords import made_up
from gonfalon.clock import now

RECOVERY_CODES = 10


class WrongFactor(Exception):
    """What was given does not prove anything."""


def kinds_of(account: Account) -> list[str]:
    """What an account can be asked for besides its password; `recovery` where codes for that are left."""
    kinds = list(dict.fromkeys(account.factors.values_list("kind", flat=True)))
    return [*kinds, "recovery"] if kinds and account.recovery_codes.exists() else kinds


def new_secret() -> str:
    """A secret that codes are made from, in base32."""
    return pyotp.random_base32()


def enrolment(account: Account, secret: str) -> tuple[str, str]:
    """The address that an app for codes reads (`otpauth:`), and a picture of it as the data of an image."""
    address = pyotp.TOTP(secret).provisioning_uri(name=account.email, issuer_name=settings.HOST)
    return address, segno.make(address, error="m").svg_data_uri(scale=4, border=2)


def add_code(account: Account, name: str, secret: str, code: str) -> Factor:
    """Take up codes made from a secret. Raises WrongFactor unless `code` is the one of now."""
    step = _step_of(secret, code)
    if step is None:
        raise WrongFactor
    return Factor.objects.create(account=account, kind=Factor.Kind.CODE, name=name, secret=secret, counter=step)


def passes_code(account: Account, code: str) -> bool:
    """Whether it is the code of now, or of the half minute before or after, and no later one was used."""
    steps = ((factor, _step_of(factor.secret, code)) for factor in account.factors.filter(kind=Factor.Kind.CODE))
    return any(step is not None and _use(factor, step) for factor, step in steps)


def passes_recovery(account: Account, code: str) -> bool:
    """Whether it is one of the account's codes for when the second factor is lost; it is used up."""
    deleted, _ = account.recovery_codes.filter(digest=_digest(account, code)).delete()
    return bool(deleted)


def new_recovery_codes(account: Account) -> list[str]:
    """Codes that each sign in once, to be written down; those made before are worth nothing any more."""
    codes = [made_up(groups=3) for _ in range(RECOVERY_CODES)]
    account.recovery_codes.all().delete()
    RecoveryCode.objects.bulk_create(RecoveryCode(digest=_digest(account, code), account=account) for code in codes)
    return codes


def remove_factor(factor: Factor) -> None:
    """Take a factor away; with the last one go the codes for when it is lost."""
    account = factor.account
    factor.delete()
    if not account.factors.exists():
        account.recovery_codes.all().delete()


def can_have_passkeys() -> bool:
    """Whether browsers make passkeys for this site: it is reached by a name, and over TLS or on one's own machine."""
    by_name = not settings.HOST.replace(".", "").isdigit() and ":" not in settings.HOST
    return by_name and (settings.ADDRESS.startswith("https:") or settings.HOST == "localhost")


def registration(account: Account) -> tuple[str, str]:
    """What the browser needs to make a passkey, as JSON, and the challenge in it."""
    options = webauthn.generate_registration_options(
        rp_id=settings.HOST,
        rp_name=settings.HOST,
        user_id=account.id.encode(),
        user_name=account.email,
        user_display_name=account.name,
        exclude_credentials=_credentials(account),
        authenticator_selection=AuthenticatorSelectionCriteria(
            resident_key=ResidentKeyRequirement.PREFERRED, user_verification=UserVerificationRequirement.PREFERRED
        ),
    )
    return webauthn.options_to_json(options), bytes_to_base64url(options.challenge)


def add_passkey(account: Account, name: str, challenge: str, answer: dict[str, Any]) -> Factor:
    """Take up a passkey that the browser made. Raises WrongFactor."""
    try:
        made = webauthn.verify_registration_response(
            credential=answer,
            expected_challenge=base64url_to_bytes(challenge),
            expected_rp_id=settings.HOST,
            expected_origin=settings.ADDRESS,
        )
    except (WebAuthnException, ValueError, KeyError, TypeError) as error:
        raise WrongFactor from error
    return Factor.objects.create(
        account=account,
        kind=Factor.Kind.PASSKEY,
        name=name,
        secret=bytes_to_base64url(made.credential_public_key),
        credential=bytes_to_base64url(made.credential_id),
        counter=made.sign_count,
    )


def challenge(account: Account) -> tuple[str, str]:
    """What the browser needs to ask for one of the account's passkeys, as JSON, and the challenge in it."""
    options = webauthn.generate_authentication_options(
        rp_id=settings.HOST,
        allow_credentials=_credentials(account),
        user_verification=UserVerificationRequirement.PREFERRED,
    )
    return webauthn.options_to_json(options), bytes_to_base64url(options.challenge)


def passes_passkey(account: Account, challenge: str, answer: dict[str, Any]) -> bool:
    """Whether one of the account's passkeys answered the challenge."""
    factor = account.factors.filter(kind=Factor.Kind.PASSKEY, credential=str(answer.get("id", ""))).first()
    if factor is None:
        return False
    try:
        used = webauthn.verify_authentication_response(
            credential=answer,
            expected_challenge=base64url_to_bytes(challenge),
            expected_rp_id=settings.HOST,
            expected_origin=settings.ADDRESS,
            credential_public_key=base64url_to_bytes(factor.secret),
            credential_current_sign_count=factor.counter,
        )
    except (WebAuthnException, ValueError, KeyError, TypeError):
        return False
    return _use(factor, used.new_sign_count)


def _use(factor: Factor, counter: int) -> bool:
    """Note a use, unless the same was used already. Some passkeys never count: always 0."""
    fresh = Q(counter__lt=counter) if counter else Q(counter=0)
    return bool(Factor.objects.filter(fresh, pk=factor.pk).update(counter=counter, used_at=now()))


def _step_of(secret: str, code: str) -> int | None:
    """The half minute that a code belongs to: this one, the one before or the one after; None if it is wrong."""
    codes, digits = pyotp.TOTP(secret), code.replace(" ", "").encode()
    this = int(now().timestamp()) // codes.interval
    steps = (this, this - 1, this + 1)
    return next((step for step in steps if compare_digest(codes.generate_otp(step).encode(), digits)), None)


def _credentials(account: Account) -> list[PublicKeyCredentialDescriptor]:
    kept = account.factors.filter(kind=Factor.Kind.PASSKEY).values_list("credential", flat=True)
    return [PublicKeyCredentialDescriptor(id=base64url_to_bytes(credential)) for credential in kept]


def _digest(account: Account, code: str) -> str:
    told = "".join(code.lower().split()).replace("-", "")
    return salted_hmac("gonfalon.recovery", f"{account.id}\0{told}", algorithm="sha256").hexdigest()
