"""Reading SVG (W3C, 1.1 and 2) as exact curves by layer, in mm with the y axis up.

Paths and basic shapes become curves, with their transforms (attributes or CSS), the units of the
page and of drawings within it, shares of these where lengths are written in per cent; what is
referred to by `use` is unfolded, of a `switch` the first that is meant for English is taken; what
is hidden is left out; all else is counted and passed over. A layer is an outermost group of the
drawing. The lower left corner of the page becomes the origin, but for drawings written here, which
keep theirs.
"""

from __future__ import annotations

import hashlib
import itertools
import math
import re
from collections import Counter
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np
from msgspec import Struct, field
from msgspec.structs import replace

from ovolo.formats.svg_style import ORIGIN_KEPT, Styles
from ovolo.geometry.attached_drawing import AttachedDrawing, as_layer, left_out
from ovolo.geometry.curves.curve import Curve
from ovolo.geometry.curves.pieces import Arc, Cubic, Piece, Straight
from ovolo.geometry.placement import IDENTITY, Matrix
from ovolo.geometry.same import ROUNDING, SMALLEST
from ovolo.geometry.types import Points
from ovolo.problems import Failure

MOST_BYTES = 5_000_000
MOST_CURVES = 20_000
MOST_PIECES = 200_000
_DEEPEST = 60
"""How deeply groups and uses may be nested."""

_UNITS = {
    "": 25.4 / 96, "px": 25.4 / 96, "mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72,
    "pc": 25.4 / 6, "q": 0.25,
}  # fmt: skip
"""mm for a unit of CSS."""

_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_GROUPS = ("svg", "g", "a")
_NAMESPACE = "{http://www.w3.org/2000/svg}"
Size = tuple[float, float]
"""The width and height of the page, or of a drawing within it, in its own units."""
_UNSEEN = (
    "defs", "symbol", "clipPath", "mask", "pattern", "marker", "style", "script", "metadata",
    "title", "desc", "linearGradient", "radialGradient", "filter", "namedview",
)  # fmt: skip


def read_svg(data: bytes, name: str) -> AttachedDrawing:
    """The curves of a drawing. Raises Failure for what is no SVG, and for one that is too large."""
    if len(data) > MOST_BYTES:
        raise Failure(f"{name} has {len(data):,} bytes; at most {MOST_BYTES:,} are read")
    root = _root(data, name)
    reading = _Reading(
        name,
        {one.get("id", ""): one for one in root.iter()},
        Styles([one.text or "" for one in root.iter() if _tag(one) == "style"], name),
    )
    box = _view_box(root, name)
    size = box[2:] if box else _drawn_size(root.attrib, None, name)
    reading.element(root, _Place(_page(root, name), size))
    if not reading.layers:
        said = ", ".join(f"{n} x {kind}" for kind, n in reading.passed.items()) or "nothing at all"
        raise Failure(f"there are no curves in {name}", f"it holds {said}")
    digest = hashlib.blake2b(data, digest_size=12).hexdigest()
    unit = "" if _has_unit(root) else "pixels, 96 to an inch"
    notes = tuple(left_out(reading.passed))
    return AttachedDrawing(name, reading.layers, reading.titles, digest, unit, notes)


def _has_unit(root: Any) -> bool:
    """Whether the size of a page is said in another unit than pixels."""
    said = f"{root.get('width')} {root.get('height')}".lower()
    return bool(re.search(r"\d\s*(?:mm|cm|in|pt|pc|q)\b", said))


def _root(data: bytes, name: str) -> Any:
    from xml.etree.ElementTree import ParseError

    from defusedxml.common import DefusedXmlException
    from defusedxml.ElementTree import fromstring

    try:
        root = fromstring(data)
    except DefusedXmlException:
        raise Failure(
            f"{name} defines entities of its own, and such files are not read",
            "save it again as plain SVG",
        ) from None
    except (ParseError, ValueError, LookupError, RecursionError) as error:
        raise Failure(f"{name} cannot be read as SVG: {str(error)[:120]}") from None
    if _tag(root) != "svg":
        raise Failure(f"{name} is not an SVG file", "save it as SVG")
    return root


def _tag(element: Any) -> str:
    """The name of an element of SVG; nothing for one of another vocabulary, which editors keep beside it."""
    tag = element.tag if isinstance(element.tag, str) else ""
    return "" if tag.startswith("{") and not tag.startswith(_NAMESPACE) else tag.rpartition("}")[2]


def _length(said: str | None) -> float:
    """A length in user units; 0 where nothing is said."""
    if not said:
        return 0.0
    found = re.fullmatch(rf"\s*({_NUMBER})\s*([a-zA-Z%]*)\s*", said)
    if found is None:
        raise Failure(f"`{said[:40]}` is no length", "a number, or one with px, mm, cm, in or pt")
    value, unit = float(found[1]), found[2].lower()
    if unit not in _UNITS:
        raise Failure(f"the unit `{unit[:20]}` is not known", f"known: {', '.join(_UNITS)[2:]}")
    return value * (_UNITS[unit] / _UNITS["px"] if unit else 1.0)


_ACROSS = ("x", "width", "cx", "rx", "x1", "x2")
_UP = ("y", "height", "cy", "ry", "y1", "y2")


def _in_units(said: Mapping[str, str], size: Size | None, name: str) -> Mapping[str, str]:
    """What an element says, its shares in user units: of the width, of the height, or of the root of the mean square of
    both (SVG 2, 8.9). Raises Failure where what they are shares of has no size."""
    shares = [key for key in (*_ACROSS, *_UP, "r") if said.get(key, "").strip().endswith("%")]
    if not shares:
        return said
    if size is None:
        raise _without_size(f"{name} says `{said[shares[0]]}` of a page")
    width, height = size
    found = dict(said)
    for key in shares:
        whole = (
            width if key in _ACROSS else height if key in _UP else math.hypot(*size) / math.sqrt(2)
        )
        found[key] = repr(_length(said[key].strip()[:-1]) / 100 * whole)
    return found


def _without_size(said: str) -> Failure:
    return Failure(f"{said} that has no size", "give its <svg> a width and a height, or a viewBox")


def _drawn_size(said: Mapping[str, str], around: Size | None, name: str) -> Size | None:
    """How large a page, or a drawing within it, is drawn: as large as what is around it, where it does not say. None where
    nothing says it."""
    wanted = {key: said.get(key, "auto").replace("auto", "100%") for key in ("width", "height")}
    if around is None and any("%" in one for one in wanted.values()):
        return None
    found = _in_units(wanted, around, name)
    return _length(found["width"]), _length(found["height"])


def _page(root: Any, name: str) -> Matrix:
    """From user units to mm with the y axis up: the size of the page by its width, height and
    viewBox. The lower left corner of the page is the origin."""
    said = [root.get("width"), root.get("height")]
    size = [_length(one) if one and "%" not in one else 0.0 for one in said]
    pixel = _UNITS["px"]
    box = _view_box(root, name)
    if box is None:
        return _upright(pixel, pixel, 0.0, size[1] * pixel if size[1] else 0.0)
    _, _, width, height = box
    sx, sy = (one / all_ if one else 0.0 for one, all_ in zip(size, (width, height), strict=True))
    sx, sy = sx or sy or 1.0, sy or sx or 1.0
    inner = _viewport(box, sx * width, sy * height, root.get("preserveAspectRatio", ""), name)
    upright = _upright(pixel, pixel, 0.0, sy * height * pixel)
    matrix = upright @ inner
    if root.get(ORIGIN_KEPT[0]) == ORIGIN_KEPT[1]:
        matrix[:2, 3] = 0.0
    return matrix


def _view_box(element: Any, name: str) -> tuple[float, float, float, float] | None:
    numbers = [float(n) for n in re.findall(_NUMBER, element.get("viewBox", ""))]
    if len(numbers) != 4:
        return None
    x, y, width, height = numbers
    if width <= 0 or height <= 0:
        raise Failure(f"a viewBox of {name} is {width:g} x {height:g}", "both must be above 0")
    return x, y, width, height


def _viewport(
    box: tuple[float, float, float, float], width: float, height: float, said: str, name: str
) -> Matrix:
    """From the units of a viewBox to those around it, laid out as `preserveAspectRatio` says (SVG
    1.1, 7.8). What `slice` would cut off is kept."""
    x, y, w, h = box
    sx, sy = width / w, height / h
    words = said.replace("defer", "").split() or ["xMidYMid"]
    if words[0] == "none":
        return _affine(sx, 0, 0, sy, -x * sx, -y * sy)
    found = re.fullmatch(r"x(Min|Mid|Max)Y(Min|Mid|Max)", words[0])
    if found is None or words[1:] not in ([], ["meet"], ["slice"]):
        raise Failure(f"{name} says preserveAspectRatio `{said[:40]}`, which is not known")
    scale = max(sx, sy) if words[1:] == ["slice"] else min(sx, sy)
    left, top = (
        _ALIGNED[way] * (whole - scale * size)
        for way, whole, size in ((found[1], width, w), (found[2], height, h))
    )
    return _affine(scale, 0, 0, scale, left - x * scale, top - y * scale)


_ALIGNED = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}


def _upright(sx: float, sy: float, x: float, y: float) -> Matrix:
    matrix = IDENTITY.copy()
    matrix[0, 0], matrix[1, 1], matrix[0, 3], matrix[1, 3] = sx, -sy, x, y
    return matrix


def _affine(a: float, b: float, c: float, d: float, e: float, f: float) -> Matrix:
    matrix = IDENTITY.copy()
    matrix[:2, 0], matrix[:2, 1], matrix[:2, 3] = (a, b), (c, d), (e, f)
    return matrix


def _turned(degrees: float, x: float = 0.0, y: float = 0.0) -> Matrix:
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return _affine(c, s, -s, c, x - c * x + s * y, y - s * x - c * y)


def _skewed(x: float, y: float = 0.0) -> Matrix:
    along, up = (math.tan(math.radians(one)) for one in (x, y))
    return _affine(1, up, along, 1, 0, 0)


_TRANSFORMS: dict[str, tuple[Callable[..., Matrix], tuple[int, ...]]] = {
    "matrix": (_affine, (6,)),
    "translate": (lambda x, y=0.0: _affine(1, 0, 0, 1, x, y), (1, 2)),
    "translateX": (lambda x: _affine(1, 0, 0, 1, x, 0), (1,)),
    "translateY": (lambda y: _affine(1, 0, 0, 1, 0, y), (1,)),
    "scale": (lambda x, y=None: _affine(x, 0, 0, x if y is None else y, 0, 0), (1, 2)),
    "scaleX": (lambda x: _affine(x, 0, 0, 1, 0, 0), (1,)),
    "scaleY": (lambda y: _affine(1, 0, 0, y, 0, 0), (1,)),
    "rotate": (_turned, (1, 3)),
    "skew": (_skewed, (1, 2)),
    "skewX": (lambda angle: _skewed(angle), (1,)),
    "skewY": (lambda angle: _skewed(0.0, angle), (1,)),
}
_TURNS = {"deg": 1.0, "rad": 180 / math.pi, "grad": 0.9, "turn": 360.0}


def transform(said: str, origin: str = "") -> Matrix:
    """The matrix (4, 4) of a transform attribute, or of the property of that name, about an origin.
    Raises Failure."""
    matrix = IDENTITY
    for word, arguments in re.findall(r"(\w+)\s*\(([^)]*)\)", said if said != "none" else ""):
        rule, counts = _TRANSFORMS.get(word, (None, ()))
        numbers = [_argument(one) for one in re.findall(rf"{_NUMBER}[a-zA-Z%]*", arguments)]
        if rule is None or None in numbers or len(numbers) not in counts:
            raise Failure(f"`{word}({arguments[:60]})` is no transform that can be read")
        matrix = matrix @ rule(*numbers)
    if not origin.strip():
        return matrix
    about = [_argument(one) for one in origin.split()]
    if len(about) < 2 or None in about:
        raise Failure(f"the transform-origin `{origin[:40]}` cannot be read", "two lengths")
    x, y = (float(one or 0.0) for one in about[:2])
    return _affine(1, 0, 0, 1, x, y) @ matrix @ _affine(1, 0, 0, 1, -x, -y)


def _argument(said: str) -> float | None:
    """A number of a transform: plain, a length in user units, an angle in degrees; None for others."""
    found = re.fullmatch(rf"({_NUMBER})([a-zA-Z%]*)", said)
    if found is None:
        return None
    unit = found[2].lower()
    if unit in _TURNS:
        return float(found[1]) * _TURNS[unit]
    return float(found[1]) * _UNITS[unit] / _UNITS["px"] if unit in _UNITS else None


class _Place(Struct, frozen=True):
    """Where an element stands: its units, the size of the page or drawing around it, its layer, how deep it lies, and
    whether it is seen."""

    matrix: Matrix
    size: Size | None
    layer: str = ""
    depth: int = 0
    seen: bool = True

    def within(self, matrix: Matrix, **changed: Any) -> _Place:
        return replace(self, matrix=self.matrix @ matrix, depth=self.depth + 1, **changed)


class _Reading(Struct):
    """What was found so far."""

    name: str
    by_id: dict[str, Any]
    styles: Styles
    layers: dict[str, list[Curve]] = field(default_factory=dict)
    titles: dict[str, str] = field(default_factory=dict)
    passed: Counter[str] = field(default_factory=Counter)
    curves: int = 0
    pieces: int = 0

    def element(self, element: Any, place: _Place) -> None:
        tag = _tag(element)
        if tag in _UNSEEN or not tag:
            return
        said = {**element.attrib, **self.styles.of(element, tag)}
        if said.get("display") == "none":
            return
        if place.depth > _DEEPEST:
            raise Failure(f"{self.name} is nested more than {_DEEPEST} deep", "flatten its groups")
        turned = transform(said.get("transform", ""), said.get("transform-origin", ""))
        seen = {"visible": True, "hidden": False, "collapse": False}.get(
            said.get("visibility", ""), place.seen
        )
        place = replace(place, matrix=place.matrix @ turned, seen=seen)
        if tag in _GROUPS:
            self._group(element, tag, said, place)
        elif tag == "switch":
            chosen = next((child for child in element if _is_meant(child)), None)
            if chosen is not None:
                self.element(chosen, place.within(IDENTITY))
        elif tag == "use":
            self._use(element, said, place)
        elif tag not in _SHAPES:
            self.passed[tag] += 1
        elif place.seen:
            self._shape(tag, _in_units(said, place.size, self.name), place)

    def _group(self, element: Any, tag: str, said: Mapping[str, str], place: _Place) -> None:
        inner = place.within(IDENTITY)
        if tag == "g" and not place.layer:
            inner = replace(inner, layer=_title_of(element))
        if tag == "svg" and place.depth:
            inner = self._drawing_within(element, said, place)
        for child in element:
            self.element(child, inner)

    def _use(self, element: Any, said: Mapping[str, str], place: _Place) -> None:
        link = element.get("href") or element.get("{http://www.w3.org/1999/xlink}href") or ""
        wanted = self.by_id.get(link.removeprefix("#")) if link.startswith("#") else None
        if wanted is None:
            raise Failure(f"{self.name} uses `{link[:60]}`, which it does not hold")
        own = _in_units(said, place.size, self.name)
        place = place.within(_affine(1, 0, 0, 1, _length(own.get("x")), _length(own.get("y"))))
        if _tag(wanted) not in ("symbol", "svg"):
            self.element(wanted, place)
            return
        sizes = {key: own[key] for key in ("width", "height") if own.get(key)}
        inner = self._drawing_within(wanted, {**wanted.attrib, **sizes}, place)
        for child in wanted:
            self.element(child, inner)

    def _drawing_within(self, element: Any, said: Mapping[str, str], place: _Place) -> _Place:
        """The place of what a nested drawing or a symbol holds."""
        own = _in_units(said, place.size, self.name)
        shift = _affine(1, 0, 0, 1, _length(own.get("x")), _length(own.get("y")))
        size, box = _drawn_size(said, place.size, self.name), _view_box(element, self.name)
        if box is None:
            return place.within(shift, size=size)
        if size is None:
            raise _without_size(f"{self.name} holds a drawing with a viewBox as large as a page")
        fitted = _viewport(box, *size, element.get("preserveAspectRatio", ""), self.name)
        return place.within(shift @ fitted, size=box[2:])

    def _shape(self, tag: str, said: Mapping[str, str], place: _Place) -> None:
        try:
            chains = _SHAPES[tag](said)
        except (ValueError, IndexError) as error:
            raise Failure(f"a <{tag}> of {self.name} cannot be read: {str(error)[:120]}") from None
        title = place.layer or "drawing"
        key = as_layer(title)
        for chain in chains:
            pieces = tuple(one.placed(place.matrix) for one in chain)
            pieces = tuple(one for one in pieces if one.length > SMALLEST)
            if not pieces:
                continue
            self._count(len(pieces))
            self.titles.setdefault(key, title)
            self.layers.setdefault(key, []).append(Curve(pieces))

    def _count(self, pieces: int) -> None:
        self.curves += 1
        self.pieces += pieces
        if self.curves > MOST_CURVES:
            raise Failure(f"{self.name} has more than {MOST_CURVES:,} curves", "split it by layers")
        if self.pieces > MOST_PIECES:
            raise Failure(f"{self.name} has more than {MOST_PIECES:,} pieces of curves", "split it")


def _is_meant(element: Any) -> bool:
    """Whether a switch may take an element: it wants nothing that is not here, and is for English or for all (SVG 1.1, 5.8)."""
    languages = element.get("systemLanguage")
    spoken = languages is None or any(
        one.strip().partition("-")[0] == "en" for one in languages.split(",")
    )
    return bool(_tag(element)) and not element.get("requiredExtensions") and spoken


def _title_of(group: Any) -> str:
    labels = [str(value) for key, value in group.items() if key.endswith("}label")]
    return (labels or [str(group.get("id", ""))])[0]


# --- shapes, in user units with the y axis down ---


class _Chains:
    """A pen (as fontTools has them) that keeps exact pieces."""

    def __init__(self) -> None:
        self.chains: list[list[Piece]] = []
        self._at = np.zeros(3)

    def moveTo(self, point: tuple[float, float]) -> None:  # noqa: N802
        self.chains.append([])
        self._at = _point(*point)

    def lineTo(self, point: tuple[float, float]) -> None:  # noqa: N802
        self._add(Straight(self._at, _point(*point)))

    def curveTo(self, *points: tuple[float, float]) -> None:  # noqa: N802
        self._add(Cubic(np.array([self._at, *(_point(*one) for one in points)])))

    def qCurveTo(self, control: tuple[float, float], end: tuple[float, float]) -> None:  # noqa: N802
        a, b, c = self._at, _point(*control), _point(*end)
        self._add(Cubic(np.array([a, a + 2 / 3 * (b - a), c + 2 / 3 * (b - c), c])))

    def arcTo(  # noqa: N802
        self,
        rx: float,
        ry: float,
        rotation: float,
        large: int,
        sweep: int,
        end: tuple[float, float],
    ) -> None:
        piece = arc_between(self._at, _point(*end), rx, ry, rotation, bool(large), bool(sweep))
        if piece is not None:
            self._add(piece)

    def closePath(self) -> None:  # noqa: N802
        """The parser has drawn the line back to the start."""

    def endPath(self) -> None:  # noqa: N802
        """An open path just ends."""

    def _add(self, piece: Piece) -> None:
        self.chains[-1].append(piece)
        self._at = piece.end


def _point(x: float, y: float) -> Points:
    if not (math.isfinite(x) and math.isfinite(y)):
        raise ValueError("a coordinate is not finite")
    return np.array([x, y, 0.0])


def arc_between(
    a: Points, b: Points, rx: float, ry: float, rotation: float, large: bool, sweep: bool
) -> Piece | None:
    """The elliptic arc of a path's A command by its ends; radii too small are made to fit
    (SVG 1.1, appendix F.6.5 and F.6.6)."""
    rx, ry = abs(rx), abs(ry)
    if np.linalg.norm(b - a) < ROUNDING:
        return None
    if rx < ROUNDING or ry < ROUNDING:
        return Straight(a, b)
    c, s = math.cos(math.radians(rotation)), math.sin(math.radians(rotation))
    turn = np.array([[c, s], [-s, c]])
    x, y = turn @ (a - b)[:2] / 2
    excess = math.hypot(x / rx, y / ry)
    if excess > 1:
        rx, ry = rx * excess, ry * excess
    square = max((rx * ry) ** 2 - (rx * y) ** 2 - (ry * x) ** 2, 0.0)
    size = math.sqrt(square / ((rx * y) ** 2 + (ry * x) ** 2))
    size = -size if large == sweep else size
    middle = np.array([size * rx * y / ry, -size * ry * x / rx])
    begin = math.atan2((y - middle[1]) / ry, (x - middle[0]) / rx)
    end = math.atan2((-y - middle[1]) / ry, (-x - middle[0]) / rx)
    turns = (end - begin) % (2 * math.pi)
    turns = turns if sweep else turns - 2 * math.pi
    centre = np.append(turn.T @ middle + (a + b)[:2] / 2, 0.0)
    return Arc(centre, np.array([rx * c, rx * s, 0]), np.array([-ry * s, ry * c, 0]), begin, turns)


def _path(element: Mapping[str, str]) -> list[list[Piece]]:
    from fontTools.svgLib.path import parse_path

    pen = _Chains()
    parse_path(element.get("d", ""), pen)
    return pen.chains


def _line(element: Mapping[str, str]) -> list[list[Piece]]:
    x1, y1, x2, y2 = (_length(element.get(key)) for key in ("x1", "y1", "x2", "y2"))
    return [[Straight(_point(x1, y1), _point(x2, y2))]]


def _polyline(element: Mapping[str, str]) -> list[list[Piece]]:
    numbers = [float(n) for n in re.findall(_NUMBER, element.get("points", ""))]
    if len(numbers) % 2:
        raise ValueError(f"{len(numbers)} coordinates are no points")
    points = [_point(*numbers[at : at + 2]) for at in range(0, len(numbers), 2)]
    return [[Straight(a, b) for a, b in itertools.pairwise(points)]]


def _polygon(element: Mapping[str, str]) -> list[list[Piece]]:
    (chain,) = _polyline(element)
    return [[*chain, Straight(chain[-1].end, chain[0].start)]] if chain else []


def _rect(element: Mapping[str, str]) -> list[list[Piece]]:
    x, y, w, h = (_length(element.get(key)) for key in ("x", "y", "width", "height"))
    if w <= 0 or h <= 0:
        return []
    rx, ry = (min(one, half) for one, half in zip(_radii(element), (w / 2, h / 2), strict=True))
    if rx <= 0 or ry <= 0:
        corners = [_point(x, y), _point(x + w, y), _point(x + w, y + h), _point(x, y + h)]
        return [[Straight(a, b) for a, b in zip(corners, corners[1:] + corners[:1], strict=True)]]
    u, v = np.array([rx, 0.0, 0.0]), np.array([0.0, ry, 0.0])
    middles = [
        (x + w - rx, y + ry),
        (x + w - rx, y + h - ry),
        (x + rx, y + h - ry),
        (x + rx, y + ry),
    ]
    quarter = math.pi / 2
    arcs = [Arc(_point(*m), u, v, (k - 1) * quarter, quarter) for k, m in enumerate(middles)]
    pieces: list[Piece] = []
    for before, arc in zip([arcs[-1], *arcs[:-1]], arcs, strict=True):
        pieces += [Straight(before.end, arc.start), arc]
    return [pieces]


def _radii(element: Mapping[str, str]) -> tuple[float, float]:
    """Of what is elliptic, or has such corners: one that is not said is the other."""
    x, y = (None if element.get(key) == "auto" else element.get(key) for key in ("rx", "ry"))
    return _length(x or y), _length(y or x)


def _circle(element: Mapping[str, str]) -> list[list[Piece]]:
    return _round(element, _length(element.get("r")), _length(element.get("r")))


def _ellipse(element: Mapping[str, str]) -> list[list[Piece]]:
    return _round(element, *_radii(element))


def _round(element: Mapping[str, str], rx: float, ry: float) -> list[list[Piece]]:
    if rx <= 0 or ry <= 0:
        return []
    u, v = np.array([rx, 0.0, 0.0]), np.array([0.0, ry, 0.0])
    centre = _point(_length(element.get("cx")), _length(element.get("cy")))
    return [[Arc(centre, u, v, 0.0, 2 * math.pi)]]


_SHAPES = {
    "path": _path, "line": _line, "polyline": _polyline, "polygon": _polygon, "rect": _rect,
    "circle": _circle, "ellipse": _ellipse,
}  # fmt: skip
