"""A body in layers: how high each is, and the exact section in its middle."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import manifold3d
import numpy as np
import shapely
from msgspec import Struct
from numpy.typing import NDArray

from ovolo.benches.printing.bodies import Body
from ovolo.benches.printing.printer import BY_SLOPE, Printer
from ovolo.geometry.regions.region import polygons_of
from ovolo.geometry.same import SAME_PLACE
from ovolo.geometry.types import Floats
from ovolo.geometry.vectors import cross_product
from ovolo.problems import Failure

Areas = NDArray[Any]
"""Areas (shapely), one for each of some layers: an array of objects (n,)."""

MOST_LAYERS = 20_000

NEARLY = 0.999
"""Of a width: what is just as wide as a line is no narrower, whatever the rounding."""

_LEVEL = 0.999
"""A face whose direction has no less of z is level: it is met or missed, whatever the layers."""


class Heights(Struct, frozen=True, eq=False):
    """The layers of a print: the z of the lower side of each (n,), and how high it is (n,), in mm."""

    levels: Floats
    heights: Floats

    def __len__(self) -> int:
        return len(self.levels)

    @property
    def middles(self) -> Floats:
        return np.asarray(self.levels + self.heights / 2)

    def of(self, body: Body) -> int:
        """How many of them a body has: those whose middle lies within it."""
        return int(np.searchsorted(self.middles, float(body.size[2])))


def heights_for(bodies: Sequence[Body], printer: Printer) -> Heights:
    """The layers in which bodies are laid together. Raises Failure where they are too many, or none."""
    tall = max(float(body.size[2]) for body in bodies)
    least = printer.least_layer if printer.heights == BY_SLOPE else printer.layer
    count = 1 + max((tall - printer.first_layer) / least, 0.0)
    if count > MOST_LAYERS:
        raise Failure(
            f"{tall:.6g} mm in layers of {least:g} mm are {count:,.0f} layers",
            f"at most {MOST_LAYERS:,}: make the layers higher, or the body smaller",
        )
    if tall < printer.first_layer / 2:
        raise Failure(
            f"nothing is as high as half of the first layer ({printer.first_layer:g} mm): the highest is "
            f"{tall:.4g} mm",
            "a lower first layer",
        )
    if printer.heights == BY_SLOPE:
        return _by_slope(bodies, printer, tall)
    number = 1 + max(int((tall - printer.first_layer) / printer.layer + 0.5), 0)
    levels = np.concatenate([[0.0], printer.first_layer + printer.layer * np.arange(number - 1)])
    return Heights(levels, np.diff(np.append(levels, levels[-1] + _last(printer, number))))


def _last(printer: Printer, number: int) -> float:
    return printer.first_layer if number == 1 else printer.layer


def _by_slope(bodies: Sequence[Body], printer: Printer, tall: float) -> Heights:
    """Lower layers where the surface leans: the step that a layer of height t leaves on a face whose unit
    normal has the vertical component n is t |n| (cusp height: Dolenc and Mäkelä, Slicing procedures for
    layered manufacturing techniques, Computer-Aided Design 26, 1994)."""
    low, high, lean = _leaning(bodies)
    levels, heights = [0.0], [printer.first_layer]
    while (at := levels[-1] + heights[-1]) < tall - printer.least_layer / 2:
        there = (high > at) & (low < at + printer.layer)
        steepest = float(lean[there].max(initial=0.0))
        height = printer.step / steepest if steepest > 0 else printer.layer
        levels.append(at)
        heights.append(float(np.clip(height, printer.least_layer, printer.layer)))
    return Heights(np.array(levels), np.array(heights))


def _leaning(bodies: Sequence[Body]) -> tuple[Floats, Floats, Floats]:
    """Of all faces that are not level: from which z to which they reach, and the vertical component of
    their unit normals."""
    found: list[tuple[Floats, Floats, Floats]] = []
    for body in bodies:
        vectors = body.mesh.area_vectors()
        sizes = np.linalg.norm(vectors, axis=1)
        heights = body.mesh.corners[body.mesh.triangles][:, :, 2]
        lean = np.abs(vectors[:, 2]) / np.where(sizes > 0, sizes, 1.0)
        kept = (lean < _LEVEL) & (sizes > 0)
        found.append((heights.min(axis=1)[kept], heights.max(axis=1)[kept], lean[kept]))
    low, high, lean = (np.concatenate([one[at] for one in found]) for at in range(3))
    return low, high, lean


def sections(manifold: manifold3d.Manifold, heights: Floats, within: float = 0.0) -> Areas:
    """The sections (shapely areas) of a body at some heights (n,); corners that lie `within` so many mm of
    the outline without them are left out (Douglas and Peucker)."""
    found = np.empty(len(heights), dtype=object)
    new = _where_new(manifold, heights)
    for at in np.flatnonzero(new):
        found[at] = _area(manifold.slice(float(heights[at])))
    if within > 0:
        found[new] = shapely.simplify(found[new], within, preserve_topology=False)
    found[new] = sound(found[new])
    return np.asarray(found[np.maximum.accumulate(np.where(new, np.arange(len(heights)), 0))])


def _where_new(manifold: manifold3d.Manifold, heights: Floats) -> NDArray[np.bool_]:
    """Whether the section at each height (ascending) may differ from that at the height before: only upright
    faces lie between equal ones."""
    raw = manifold.to_mesh64()
    corners = np.asarray(raw.vert_properties)[:, :3][np.asarray(raw.tri_verts, dtype=np.int64)]
    vectors = cross_product(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    leaning = np.abs(vectors[:, 2]) > _UPRIGHT * np.linalg.norm(vectors, axis=1)
    low, high = corners[leaning][:, :, 2].min(axis=1), corners[leaning][:, :, 2].max(axis=1)
    return np.concatenate([[True], any_between(low, high, heights)])[: len(heights)]


def any_between(low: Floats, high: Floats, heights: Floats) -> NDArray[np.bool_]:
    """Whether any of faces that reach from `low` to `high` (m,) lies between each of heights (n,),
    ascending, and the next (n - 1,): unless it ends below the first, or begins above the second."""
    ended = np.searchsorted(np.sort(high), heights[:-1])
    begun = np.searchsorted(np.sort(low), heights[1:], side="right")
    found: NDArray[np.bool_] = begun > ended
    return found


_UPRIGHT = 1e-9
"""A face whose unit normal has no more of z is upright."""


def _area(section: manifold3d.CrossSection) -> Any:
    rings = [ring for ring in section.to_polygons() if len(ring) > 2]
    if not rings:
        return shapely.Polygon()
    if len(rings) == 1:
        return shapely.Polygon(rings[0])
    polygons = []
    for one in section.decompose():
        outer, *holes = sorted(one.to_polygons(), key=_signed_area, reverse=True)
        polygons.append(shapely.Polygon(outer, [ring for ring in holes if len(ring) > 2]))
    return shapely.MultiPolygon(polygons) if len(polygons) > 1 else polygons[0]


def _signed_area(ring: Any) -> float:
    x, y = np.asarray(ring).T
    return float(x @ np.roll(y, -1) - y @ np.roll(x, -1))


def sound(areas: Areas) -> Areas:
    """The areas, those that touch themselves mended; lines and points among them left out."""
    broken = ~shapely.is_valid(areas)
    if broken.any():
        areas = areas.copy()
        areas[broken] = [only_areas(one) for one in shapely.make_valid(areas[broken])]
    return areas


def only_areas(found: Any) -> Any:
    """The polygons among what an overlay gave."""
    polygons = polygons_of(found)
    return polygons[0] if len(polygons) == 1 else shapely.MultiPolygon(polygons)


def common(first: Areas, second: Areas) -> Areas:
    """What areas have in common with others, pair by pair. Of two of which one covers the other it is
    that other: to ask takes a fifth of the time of laying them over each other."""
    found = np.asarray(first).copy()
    differ = np.flatnonzero(~shapely.equals_exact(first, second, SAME_PLACE))
    larger = shapely.covers(first[differ], second[differ])
    found[differ[larger]] = second[differ[larger]]
    rest = differ[~larger]
    rest = rest[~shapely.covers(second[rest], first[rest])]
    found[rest] = once(shapely.intersection, first[rest], second[rest])
    return found


def once(work: Callable[..., Any], *areas: Areas) -> Areas:
    """What `work` makes of areas (of pairs, threes …), each done once: equal layers of a body share theirs."""
    if len(areas[0]) < 2:
        return np.asarray(work(*areas))
    names = np.array([[id(one) for one in each] for each in areas]).reshape(len(areas), -1)
    _, first, again = np.unique(names, axis=1, return_index=True, return_inverse=True)
    done = work(*(np.asarray(each)[first] for each in areas))
    return np.asarray(done)[again.ravel()]


def inset(areas: Areas, distance: float) -> Areas:
    """The areas made smaller all round by a distance in mm, corners kept; larger where it is negative."""
    return once(
        lambda one: shapely.buffer(one, -distance, join_style="mitre", mitre_limit=2.0), areas
    )


def widened(areas: Areas, distance: float) -> Areas:
    """The areas made larger all round by a distance in mm, corners rounded."""
    return once(lambda one: shapely.buffer(one, distance, quad_segs=4), areas)


def rings(areas: Areas) -> tuple[NDArray[Any], NDArray[np.int64]]:
    """All outlines and holes of areas, and the number of the area each belongs to."""
    parts, owner = shapely.get_parts(areas, return_index=True)
    found, of_part = shapely.get_rings(parts, return_index=True)
    return found, owner[of_part]


def opened(areas: Areas, radius: float) -> Areas:
    """What of the areas is at least twice the radius (mm) wide everywhere; it lies within them."""
    return widened(inset(areas, radius), radius)
