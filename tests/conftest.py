"""Settings for all tests."""

import pytest
from django.conf import settings as django
from django.contrib.contenttypes.management import create_contenttypes
from django.db.models.signals import post_migrate
from hypothesis import settings
from hypothesis.internal.conjecture import providers
from whitenoise.middleware import WhiteNoiseMiddleware

from ovolo.outcome import array_place, item, outcome
from ovolo.remembering import keep_imports
from ovolo.running import evaluate

# No time limit for an example, for machines are slow at times; the same examples each run, and others where more are
# wanted: `python -m pytest -m hypothesis --hypothesis-profile deep`.
settings.register_profile("ovolo", deadline=None, derandomize=True, max_examples=8)
settings.register_profile("deep", deadline=None, max_examples=150)
settings.load_profile("ovolo")


# What a sheet yields is asked here, not how fast the machine is just now: tests of the limit give their own.
evaluate.TIME_LIMIT = outcome.SHOW_LIMIT = item.SECONDS = array_place.SECONDS = 60.0


def pytest_configure() -> None:
    """Passwords of tests are not worth what a password costs; and after each test that empties the database, Django
    would write down anew what may be done with which table, which nothing here asks for."""
    django.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
    post_migrate.disconnect(dispatch_uid="django.contrib.auth.management.create_permissions")
    post_migrate.disconnect(create_contenttypes)
    _look_for_served_files_once()
    # The same examples whichever modules are there already: hypothesis would look for figures in the text of them all,
    # which takes ten seconds of each worker where it has not done so before.
    providers._get_local_constants = lambda: providers._local_constants


def _look_for_served_files_once() -> None:
    """Each client of a test puts the application together anew, and that would look through all files it serves."""
    look, found = WhiteNoiseMiddleware.add_files_from_finders, {}

    def take(self: WhiteNoiseMiddleware) -> None:
        if not found:
            look(self)
            found.update(self.files)
        self.files.update(found)

    WhiteNoiseMiddleware.add_files_from_finders = take


@pytest.hookimpl(trylast=True)
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What waits goes first, while the text is checked beside it (`make test`); then what takes long, so that no core
    waits for the last of it. By now all is imported, and need not be looked through for what has no use, as in the
    workers of the application."""
    items.sort(key=lambda item: ("waits" not in item.keywords, "browser" not in item.keywords))
    keep_imports()
