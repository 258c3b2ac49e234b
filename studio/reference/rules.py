"""The rules of the language as pages: the chapters of docs/language.md."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache

from django.conf import settings
from django.utils.text import slugify
from markdown import Markdown


@dataclass(frozen=True, slots=True)
class Chapter:
    key: str
    title: str
    html: str


@cache
def chapters() -> tuple[Chapter, ...]:
    """All chapters in their order. The text is the project's own, so its HTML is safe."""
    text = (settings.BASE / "docs" / "language.md").read_text(encoding="utf-8")
    pieces = re.split(r"^## (.+)\n", text, flags=re.MULTILINE)
    titled = zip(pieces[1::2], pieces[2::2], strict=True)
    return tuple(Chapter(slugify(title), title, _html(body)) for title, body in titled)


_PICTURE = re.compile(r"!\[(?P<said>[^]]*)\]\((?!http)[^)]*/(?P<name>[^)/]+)\)")
_LINK = re.compile(r"\[(?P<said>[^]]*)\]\((?!http)[^)]*\)")


def _html(text: str) -> str:
    """A chapter without the links to other files of the docs, which are not served."""
    plain = _LINK.sub(r"\g<said>", _PICTURE.sub(r"", text))
    return str(Markdown(extensions=["tables", "fenced_code", "sane_lists"]).convert(plain))
