"""What all tests share: hypothesis, settled so that a run is the same each time, and the served harbour."""

from collections.abc import Iterator

import pytest
from hypothesis import Phase, settings

from tests.examples import LONG, SEED
from tests.served.support import Harbour
from tools.processes import free_port
from tools.serving import served

settings.register_profile("steady", derandomize=True, deadline=None)
settings.register_profile("quick", derandomize=True, deadline=None, phases=[Phase.explicit, Phase.generate])
settings.register_profile("long", derandomize=False, deadline=None, print_blob=True)
settings.load_profile("long" if LONG else "steady")


def pytest_report_header() -> str | None:
    """Where the randomness began, so that what fails can be seen to fail again."""
    return f"GONFALON_SEED={SEED}, random examples by --hypothesis-seed={SEED}" if LONG else None


@pytest.fixture(scope="session")
def harbour_served(tmp_path_factory: pytest.TempPathFactory) -> Harbour:
    return Harbour(tmp_path_factory.mktemp("harbour"))


@pytest.fixture(scope="session")
def address(harbour_served: Harbour) -> Iterator[str]:
    with served(harbour_served.home, harbour_served.env, free_port()) as server:
        yield server.address
