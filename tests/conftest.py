"""What all tests share: hypothesis, settled so that a run is the same each time."""

from hypothesis import Phase, settings

settings.register_profile("steady", derandomize=True, deadline=None)
settings.register_profile("quick", derandomize=True, deadline=None, phases=[Phase.explicit, Phase.generate])
settings.load_profile("steady")
