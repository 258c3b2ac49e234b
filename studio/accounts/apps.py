"""The accounts of people."""

from django.apps import AppConfig


class Accounts(AppConfig):
    name = "studio.accounts"

    def ready(self) -> None:
        from studio.accounts import sessions  # noqa: F401 - it listens to sign-ins
