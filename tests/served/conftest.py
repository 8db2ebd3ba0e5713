"""Tests over HTTP alone. Each begins with the untouched harbour and leaves it so."""

from collections.abc import Callable, Iterator

import pytest

from tests.served.support import Client, Harbour


@pytest.fixture(autouse=True)
def harbour(harbour_served: Harbour) -> Iterator[Harbour]:
    yield harbour_served
    harbour_served.restore()


@pytest.fixture
def client(address) -> Callable[..., Client]:
    """`client(ODILE)` speaks as Odile, `client()` as a visitor."""
    return lambda email=None: Client(address, email)
