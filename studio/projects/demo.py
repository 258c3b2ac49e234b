"""The sheets of the demonstration: loaded by `manage.py load_demo`, and starting points."""

from __future__ import annotations

import json
from functools import cache
from pathlib import Path
from typing import Any

from django.conf import settings

from ovolo.sheet.names import files_named
from ovolo.sheet.reader import title_of

SHEETS = Path(settings.BASE) / "demo" / "quillmere"


@cache
def demo_sheets() -> dict[str, str]:
    """The texts of the demonstration by their titles, in order."""
    texts = [path.read_text(encoding="utf-8") for path in sorted(SHEETS.glob("*.ovo"))]
    return {title_of(text): text for text in texts}


def demo_files(text: str) -> dict[str, bytes]:
    """The files that a sheet of the demonstration names."""
    return {name: (SHEETS / name).read_bytes() for name in files_named(text)}


def demo_contact_sheets(title: str) -> list[dict[str, Any]]:
    """The contact sheets that a study of the demonstration has: title, plan, what is looked at."""
    kept = json.loads((SHEETS / "contact-sheets.json").read_text(encoding="utf-8"))
    return list(kept.get(title, ()))
