"""Settings for all tests."""

import pytest
from django.conf import settings as django
from hypothesis import settings

from ovolo.remembering import keep_imports

# No time limit for an example, for machines are slow at times; the same examples each run.
settings.register_profile("ovolo", deadline=None, derandomize=True, max_examples=20)
settings.load_profile("ovolo")


def pytest_configure() -> None:
    """Passwords of tests are not worth what a password costs."""
    django.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]


@pytest.hookimpl(trylast=True)
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What takes long goes first, so that no core waits for the last of it. By now all is imported, and need
    not be looked through for what has no use, as in the workers of the application."""
    items.sort(key=lambda item: "browser" not in item.keywords)
    keep_imports()
