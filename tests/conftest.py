"""Settings for all tests."""

from hypothesis import settings

# No time limit for an example, for machines are slow at times; the same examples each run.
settings.register_profile("ovolo", deadline=None, derandomize=True, max_examples=20)
settings.load_profile("ovolo")
