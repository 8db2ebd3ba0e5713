"""Ids and times come from here and nowhere else, so that a replay can repeat them."""

import secrets
import time
from datetime import UTC, datetime

_ALPHABET = "0123456789abcdefghjkmnpqrstvwxyz"


def now() -> datetime:
    """The present moment, aware, in UTC."""
    return datetime.now(UTC)


def new_id() -> str:
    """A new id: 20 lower-case characters that sort by when they were made."""
    number = (time.time_ns() // 1_000_000) << 52 | secrets.randbits(52)
    digits = []
    for _ in range(20):
        number, digit = divmod(number, 32)
        digits.append(_ALPHABET[digit])
    return "".join(reversed(digits))
