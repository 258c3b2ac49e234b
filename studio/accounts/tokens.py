"""Tokens of programs: made, known again by their digest."""

from __future__ import annotations

import hashlib
import secrets
from typing import Any

from django.utils import timezone

from studio.accounts.models import Token

MOST_TOKENS = 20


def made_token(person: Any, said: str) -> str:
    """A new token of a person; nobody can read it again."""
    token = f"ovolo_{secrets.token_urlsafe(32)}"
    Token.objects.create(person=person, said=said, digest=_digest(token))
    return token


def person_of(token: str) -> Any:
    """Who a token acts for; None where nobody. That it was used is noted, by the day."""
    found = Token.objects.select_related("person").filter(digest=_digest(token)).first()
    if found is None or not found.person.is_active:
        return None
    now = timezone.now()
    if found.used is None or found.used.date() != now.date():
        Token.objects.filter(pk=found.pk).update(used=now)
    return found.person


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
