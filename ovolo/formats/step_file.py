"""The entities of a STEP file (ISO 10303-21, schema AP214), each written once.

Lengths are in mm, the accuracy stated is the chord tolerance.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cached_property

import numpy as np

from ovolo.formats.exchange import exchange_file, text, yes
from ovolo.geometry.curves.pieces import Arc
from ovolo.geometry.tolerance import CHORD_TOLERANCE
from ovolo.geometry.types import Points
from ovolo.problems import Failure

MOST_FACES = 20_000
_SCHEMA = "AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }"


class StepFile:
    """Entities by number, each written once."""

    def __init__(self) -> None:
        self.lines: list[str] = []
        self.known: dict[str, int] = {}
        self.faces = 0

    def add(self, said: str) -> int:
        """The number of an entity, made where it is not there yet."""
        number = self.known.get(said)
        if number is None:
            number = self.known[said] = self.new(said)
        return number

    def new(self, said: str) -> int:
        self.lines.append(said)
        return len(self.lines)

    def point(self, p: Points) -> int:
        return self.add(f"CARTESIAN_POINT('',({three(p)}))")

    def direction(self, d: Points) -> int:
        return self.add(f"DIRECTION('',({three(d / np.linalg.norm(d))}))")

    def placement(self, origin: Points, z: Points, x: Points) -> int:
        return self.add(f"AXIS2_PLACEMENT_3D('',#{self.point(origin)},#{self.direction(z)},#{self.direction(x)})")  # fmt: skip

    def vertex(self, p: Points) -> int:
        return self.add(f"VERTEX_POINT('',#{self.point(p)})")

    def line_edge(self, a: Points, b: Points) -> tuple[int, bool]:
        """The edge between two places, and whether it runs from the first to the second."""
        u, v = self.vertex(a), self.vertex(b)
        forwards = u < v
        if not forwards:
            a, b, u, v = b, a, v, u
        way = b - a
        vector = self.add(f"VECTOR('',#{self.direction(way)},1.)")
        line = self.add(f"LINE('',#{self.point(a)},#{vector})")
        return self.add(f"EDGE_CURVE('',#{u},#{v},#{line},.T.)"), forwards

    def arc_edge(self, arc: Arc, ends: tuple[Points, Points] | None = None) -> int:
        """The edge along an arc of a circle, or of an ellipse given by its half axes; `ends` where its corners are written as those of its neighbours."""
        start, end = ends or (arc.start, arc.end)
        axis = arc.normal * math.copysign(1.0, arc.sweep)
        if not arc.is_circle:
            placed = self.placement(arc.centre, axis, arc.u)
            sizes = f"{one(float(np.linalg.norm(arc.u)))},{one(float(np.linalg.norm(arc.v)))}"
            ellipse = self.add(f"ELLIPSE('',#{placed},{sizes})")
            return self.add(f"EDGE_CURVE('',#{self.vertex(start)},#{self.vertex(end)},#{ellipse},.T.)")  # fmt: skip
        placed = self.placement(arc.centre, axis, arc.start - arc.centre)
        circle = self.add(f"CIRCLE('',#{placed},{one(arc.radius)})")
        return self.add(f"EDGE_CURVE('',#{self.vertex(start)},#{self.vertex(end)},#{circle},.T.)")  # fmt: skip

    def loop(self, edges: Sequence[tuple[int, bool]]) -> int:
        oriented = [self.new(f"ORIENTED_EDGE('',*,*,#{edge},{yes(way)})") for edge, way in edges]
        return self.new(f"EDGE_LOOP('',({refs(oriented)}))")

    def face(self, surface: int, loops: Sequence[int], same: bool = True) -> int:
        self.faces += 1
        if self.faces > MOST_FACES:
            raise Failure(
                f"this would be more than {MOST_FACES:,} faces, too many for a STEP file",
                "hand over fewer parts, or write .3mf",
            )
        bounds = [
            self.new(f"{'FACE_BOUND' if at else 'FACE_OUTER_BOUND'}('',#{loop},.T.)")
            for at, loop in enumerate(loops)
        ]
        return self.new(f"ADVANCED_FACE('',({refs(bounds)}),#{surface},{yes(same)})")

    def mapped(self, solids: Sequence[int], matrices: Points, names: Sequence[str]) -> list[int]:
        """Solids that stand where the first of some placements puts them, and again in the place of
        each: a map of their representation, used as often (ISO 10303-43)."""
        origin = self.placement(np.zeros(3), np.array([0.0, 0, 1]), np.array([1.0, 0, 0]))
        shape = self.new(
            f"ADVANCED_BREP_SHAPE_REPRESENTATION('',({refs([origin, *solids])}),#{self.context})"
        )
        source = self.new(f"REPRESENTATION_MAP(#{origin},#{shape})")
        found = []
        for matrix, name in zip(matrices @ np.linalg.inv(matrices[0]), names, strict=True):
            target = self.placement(matrix[:3, 3], matrix[:3, 2], matrix[:3, 0])
            found.append(self.new(f"MAPPED_ITEM({text(name)},#{source},#{target})"))
        return found

    def written(self, solids: Sequence[int], title: str) -> bytes:
        shape = self._product(title)
        origin = self.placement(np.zeros(3), np.array([0.0, 0, 1]), np.array([1.0, 0, 0]))
        items = [origin, *solids]
        brep = self.new(f"ADVANCED_BREP_SHAPE_REPRESENTATION('',({refs(items)}),#{self.context})")
        self.new(f"SHAPE_DEFINITION_REPRESENTATION(#{shape},#{brep})")
        return exchange_file("", title, _SCHEMA, self.lines)

    @cached_property
    def context(self) -> int:
        """The context of all geometry: mm, radians, tolerance."""
        length = self.new("(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT(.MILLI.,.METRE.))")
        angle = self.new("(NAMED_UNIT(*)PLANE_ANGLE_UNIT()SI_UNIT($,.RADIAN.))")
        solid = self.new("(NAMED_UNIT(*)SI_UNIT($,.STERADIAN.)SOLID_ANGLE_UNIT())")
        exact = self.new(f"UNCERTAINTY_MEASURE_WITH_UNIT(LENGTH_MEASURE({one(CHORD_TOLERANCE * 1e-4)}),#{length},'distance_accuracy_value','')")  # fmt: skip
        return self.new(
            f"(GEOMETRIC_REPRESENTATION_CONTEXT(3)GLOBAL_UNCERTAINTY_ASSIGNED_CONTEXT((#{exact}))"
            f"GLOBAL_UNIT_ASSIGNED_CONTEXT((#{length},#{angle},#{solid}))REPRESENTATION_CONTEXT('',''))"
        )

    def _product(self, title: str) -> int:
        """The shape of the product."""
        application = self.new("APPLICATION_CONTEXT('automotive design')")
        self.new(f"APPLICATION_PROTOCOL_DEFINITION('international standard','automotive_design',2001,#{application})")  # fmt: skip
        place = self.new(f"PRODUCT_CONTEXT('',#{application},'mechanical')")
        product = self.new(f"PRODUCT({text(title)},{text(title)},'',(#{place}))")
        self.new(f"PRODUCT_RELATED_PRODUCT_CATEGORY('part',$,(#{product}))")
        formation = self.new(f"PRODUCT_DEFINITION_FORMATION('','',#{product})")
        design = self.new(f"PRODUCT_DEFINITION_CONTEXT('part definition',#{application},'design')")
        definition = self.new(f"PRODUCT_DEFINITION('','',#{formation},#{design})")
        return self.new(f"PRODUCT_DEFINITION_SHAPE('','',#{definition})")


def one(value: float) -> str:
    said = f"{round(float(value), 9) + 0.0:.12g}".upper()
    return said if "." in said else said.replace("E", ".E") if "E" in said else f"{said}."


def three(values: Points) -> str:
    return ",".join(one(value) for value in values)


def refs(numbers: Sequence[int]) -> str:
    return ",".join(f"#{number}" for number in numbers)
