"""What runs within a rehearsal's unit: a step that breaks off leaves the unit as it was before it."""

import pytest

from gonfalon.access.snapshot import current, raise_version
from gonfalon.work import POLICY, rehearsing, run


class Broke(Exception):
    """Something a step ran into, after it had written."""


def test_a_step_that_breaks_off_leaves_neither_versions_nor_what_was_read(harbour):
    def breaks_off() -> None:
        raise_version()
        current()
        raise Broke

    with rehearsing(60.0) as rehearsal:
        number, read = rehearsal.rows[POLICY.name].number, dict(rehearsal.own)
        with pytest.raises(Broke):
            run(breaks_off, (POLICY,))
        assert (rehearsal.rows[POLICY.name].number, rehearsal.own) == (number, read)
        run(raise_version, (POLICY,))
        assert rehearsal.rows[POLICY.name].number != number, "one that is kept raises it"
