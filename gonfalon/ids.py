"""How ids are kept: letter for letter, as a policy document writes them."""

from typing import Any

from django.db import models

LONGEST_ID = 120


class IdField(models.CharField):
    """An id of anything: a text of up to LONGEST_ID characters, compared exactly, trailing spaces included."""

    def __init__(self, **options: Any) -> None:
        options.setdefault("max_length", LONGEST_ID)
        options.setdefault("db_collation", "utf8mb4_nopad_bin")
        super().__init__(**options)
