"""What a sheet names: attached files and other studies, as checking takes them."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any

from msgspec import Struct

from ovolo.geometry.attached_drawing import AttachedDrawing
from ovolo.geometry.digest import digest
from ovolo.geometry.solids.attached_solid import AttachedSolid
from ovolo.geometry.underlay import Underlay
from ovolo.problems import Failure
from ovolo.quantities.table import Table


class OtherStudy(Struct, frozen=True, eq=False, dict=True):
    """A study that another one may use: its text, and the files and studies that it names."""

    title: str
    text: str
    reached: Mapping[str, Any]

    @cached_property
    def digest(self) -> str:
        found = sorted(self.reached.items(), key=lambda entry: entry[0])
        return digest(self.text, *((n, getattr(one, "digest", str(one))) for n, one in found))


def study_key(title: str) -> str:
    """How a study is called among the files that a sheet names."""
    return f'study "{title}"'


Attached = Table | AttachedDrawing | Underlay | AttachedSolid | OtherStudy

Tables = Mapping[str, Attached | Failure]
"""What a sheet names, by its name: an attached file as a table, a plot, a picture or a solid, another
study (by its `study_key`), or what stands against reading it."""
