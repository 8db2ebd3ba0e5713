"""How many examples properties are held to, and where their randomness begins.

On every push they are few and the same each time. `make test-long` takes twenty times as many, from a seed of its own,
which it prints: with GONFALON_SEED set to it the same ones come again.
"""

import os
from secrets import randbelow

LONG = os.environ.get("GONFALON_TEST") == "long"
SEED = int(os.environ.get("GONFALON_SEED") or (randbelow(10**9) if LONG else 1))
_SCALE = 10.0 if LONG else 0.5


def examples(n: int) -> int:
    """So many examples as things stand, where `n` would do by themselves."""
    return max(1, int(n * _SCALE))
