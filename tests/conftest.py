"""What all tests share: hypothesis, settled so that a run is the same each time."""

from hypothesis import settings

settings.register_profile("steady", derandomize=True, deadline=None)
settings.load_profile("steady")
