"""Settings for all tests."""

import pytest
from hypothesis import settings

# No time limit for an example, for machines are slow at times; the same examples each run.
settings.register_profile("ovolo", deadline=None, derandomize=True, max_examples=20)
settings.load_profile("ovolo")


@pytest.hookimpl(trylast=True)
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What takes long goes first, so that no core waits for the last of it."""
    items.sort(key=lambda item: "browser" not in item.keywords)
