"""The machine that a bench works with, and what the parts are there, as a request says them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, TypeVar

from ovolo.benches.profile import Profile, profile_said, read_profile, with_settings
from ovolo.outcome.part import Part

Said = Mapping[str, Any]
P = TypeVar("P", bound=Profile)


def machine_of(kind: type[P], said: Said) -> P:
    """A shipped machine by its title (`machine`), or one's own by its text (`profile`); with what is set
    otherwise (`settings`). Raises Failure."""
    own = str(said.get("profile") or "")
    profile = read_profile(kind, own) if own else profile_said(kind, str(said.get("machine") or ""))
    return with_settings(profile, said.get("settings") or {})


def roles_of(said: Said, parts: Sequence[Part]) -> dict[str, str]:
    """What is said of parts that there are: the bench may know of others, which have gone since."""
    names = {part.name for part in parts}
    return {
        str(name): str(role) for name, role in (said.get("roles") or {}).items() if name in names
    }
