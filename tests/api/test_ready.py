"""A process has read and compiled what every request asks before it says that it is ready."""

import logging

from django.db import OperationalError

from gonfalon.content import nodes
from gonfalon.server import ready
from gonfalon.verify import expectation_cache
from tests.api.support import forget


def test_what_every_request_asks_is_read_before(odile):
    forget()
    assert not nodes._engines
    ready.get_ready()
    assert nodes._engines
    [proved] = expectation_cache._kept.values()
    assert proved.results


def test_without_a_database_it_starts_and_says_so(monkeypatch, caplog):
    def down():
        raise OperationalError("no server")

    monkeypatch.setattr(ready, "read_together", down)
    with caplog.at_level(logging.WARNING):
        ready.get_ready()
    assert "no server" in caplog.text
