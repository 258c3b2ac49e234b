"""What CSS says of the elements of an SVG, as far as it changes where and what their curves are.

Read are the `style` attribute and style sheets whose selectors name an element, a class or an id
(W3C, CSS Cascading 4: an id outweighs classes, those an element, the later of equals wins).
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from msgspec import Struct

from ovolo.problems import Failure

GEOMETRY = (
    "transform", "transform-origin", "transform-box", "display", "visibility", "translate", "rotate", "scale",
    "d", "x", "y", "cx", "cy", "r", "rx", "ry", "width", "height", "offset-path",
)  # fmt: skip
"""Properties that matter; all others (colours, line widths) are passed over."""

ORIGIN_KEPT = ("data-origin", "kept")
"""Says of a drawing that its coordinates are those of the study, the y axis turned down."""

_REFUSED = ("transform-box", "translate", "rotate", "scale", "offset-path")
_COMMENT = re.compile(r"/\*.*?\*/|<!--|-->", re.DOTALL)
_RULE = re.compile(r"([^{}]*)\{([^{}]*)\}")
_SIMPLE = re.compile(r"(\*|[a-zA-Z][\w-]*)?((?:[.#][\w-]+)*)")


class _Rule(Struct, frozen=True):
    tag: str
    classes: frozenset[str]
    ids: frozenset[str]
    said: dict[str, str]

    @property
    def weight(self) -> tuple[int, int, int]:
        return len(self.ids), len(self.classes), int(self.tag not in ("", "*"))

    def applies(self, tag: str, classes: frozenset[str], name: str) -> bool:
        return self.tag in ("", "*", tag) and self.classes <= classes and self.ids <= {name}


class Styles:
    """The style sheets of a drawing. Raises Failure for one that moves or hides by what is not read."""

    def __init__(self, sheets: list[str], name: str) -> None:
        self.name = name
        rules = [rule for sheet in sheets for rule in self._rules(_COMMENT.sub("", sheet))]
        self.rules = sorted(rules, key=lambda rule: rule.weight)  # stable: later ones stay later

    def of(self, element: Any, tag: str) -> dict[str, str]:
        """The properties of an element that matter, those of its `style` attribute before all."""
        if not self.rules and "style" not in element.attrib:
            return {}
        classes = frozenset(element.get("class", "").split())
        found: dict[str, str] = {}
        for rule in self.rules:
            if rule.applies(tag, classes, element.get("id", "")):
                found |= rule.said
        return found | self._declared(element.get("style", ""))

    def _rules(self, sheet: str) -> Iterator[_Rule]:
        if "@media" in sheet or "@import" in sheet or "@supports" in sheet:
            raise Failure(f"{self.name} has a style sheet with @media or the like", _PLAIN)
        for selectors, body in _RULE.findall(re.sub(r"@[\w-]+\s*[^{};]*(;|\{[^{}]*\})", "", sheet)):
            said = self._declared(body)
            if not said:
                continue
            for selector in selectors.split(","):
                found = _SIMPLE.fullmatch(selector.strip())
                if not found or not selector.strip():
                    raise Failure(
                        f"{self.name} sets `{next(iter(said))}` for `{selector.strip()[:40]}` in its "
                        "style sheet, and such selectors are not read",
                        _PLAIN,
                    )
                named = re.findall(r"([.#])([\w-]+)", found[2])
                yield _Rule(
                    found[1] or "",
                    frozenset(one for sign, one in named if sign == "."),
                    frozenset(one for sign, one in named if sign == "#"),
                    said,
                )

    def _declared(self, body: str) -> dict[str, str]:
        found: dict[str, str] = {}
        for declaration in body.split(";"):
            name, colon, value = declaration.partition(":")
            name = name.strip().lower()
            if not colon or name not in GEOMETRY:
                continue
            if name in _REFUSED:
                raise Failure(f"{self.name} sets `{name}` by CSS, which is not read", _PLAIN)
            value = re.sub(r"\s*!important\s*$", "", value.strip())
            found[name] = re.sub(r"^path\(\s*['\"](.*)['\"]\s*\)$", r"\1", value, flags=re.DOTALL)
        return found


_PLAIN = "save it as plain SVG, with transforms as attributes"
