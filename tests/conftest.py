"""What all tests share: hypothesis, settled so that a run is the same each time, and which tests run in one process."""

from hypothesis import settings
from xdist.scheduler import LoadFileScheduling

settings.register_profile("steady", derandomize=True, deadline=None)
settings.load_profile("steady")


class Together(LoadFileScheduling):
    """Tests of one file stay together; so do all in a browser, who share a database and what serves it."""

    def _split_scope(self, nodeid: str) -> str:
        return "tests/browser" if nodeid.startswith("tests/browser/") else super()._split_scope(nodeid)


def pytest_xdist_make_scheduler(config, log):
    return Together(config, log)
