"""Passwords: whether one is good enough, and one made up.

trouble("harbour1", account)     # ["This is a top-100 common password. …"]
made_up()                        # "tide-…"
"""

import secrets

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from zxcvbn import zxcvbn

from gonfalon.accounts.models import Account

GOOD_ENOUGH = 3
"""Of zxcvbn's scores, from 0 to 4."""
_LONGEST = 24
"""So many characters are judged: a longer text of look-alikes takes the judge seconds."""
_LETTERS = "abcdefghjkmnpqrstuvwxyz23456789"


class GuessableValidator:
    """Refuses what somebody could guess in less than a hundred million tries, and says why (zxcvbn)."""

    def validate(self, password: str, user: Account | None = None) -> None:
        """Raise ValidationError where the password is too easily guessed."""
        if not password:
            raise ValidationError("Choose a password.", code="empty")
        known = [user.email, *user.email.split("@"), *user.name.split()] if user else []
        found = zxcvbn(password[:_LONGEST], user_inputs=[word for word in known if word])
        if found["score"] >= GOOD_ENOUGH:
            return
        said = [found["feedback"]["warning"], *found["feedback"]["suggestions"]]
        words = " ".join(f"{line.rstrip('.')}." for line in said if line)
        raise ValidationError(f"Too easily guessed. {words}".strip(), code="guessable")

    def get_help_text(self) -> str:
        return "It is not easily guessed."


def trouble(password: str, account: Account | None) -> list[str]:
    """Why a password is refused, in sentences; none when it is good enough."""
    try:
        validate_password(password, account)
    except ValidationError as errors:
        return list(errors.messages)
    return []


def made_up(groups: int = 4, length: int = 5) -> str:
    """A password that nobody guesses, in groups that can be read aloud."""
    return "-".join("".join(secrets.choice(_LETTERS) for _ in range(length)) for _ in range(groups))
