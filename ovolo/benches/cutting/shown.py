"""A cut plan as a person reads it, and as the screen draws it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ovolo.benches.answers import (
    BenchPartSaid,
    CutMeasuredSaid,
    CutPieceSaid,
    CutPlanSaid,
    CutSheetSaid,
)
from ovolo.benches.cutting.cutter import Cutter
from ovolo.benches.cutting.outputs import middle_of, numbers_on, outline_curves
from ovolo.benches.cutting.plan import LEFT_OUT, CutPlan, Sheet, role_of
from ovolo.benches.cutting.routes import spans
from ovolo.benches.cutting.simulated import Measured, SimulatedCutter
from ovolo.formats.svg import path_of
from ovolo.outcome.part import Part
from ovolo.quantities.kinds import REGION, SOLID


def shown_parts(parts: Sequence[Part], roles: Mapping[str, str]) -> list[BenchPartSaid]:
    """The parts, and whether each is cut."""
    return [
        {
            "name": part.name,
            "label": part.label or part.name,
            "count": part.count,
            "solid": part.kind in (REGION, SOLID),
            "role": role_of(part, roles) if part.kind in (REGION, SOLID) else LEFT_OUT,
        }
        for part in parts
    ]


def shown_plan(plan: CutPlan) -> CutPlanSaid:
    return {
        "width": plan.cutter.width,
        "height": plan.cutter.height,
        "margin": plan.cutter.margin,
        "nests": [
            {
                "thickness": thickness,
                "by": nest.by,
                "sheets": nest.sheets,
                "pieces": len(nest.laid),
                "taken": nest.taken,
            }
            for thickness, nest in plan.nests
        ],
        "sheets": [_sheet(one) for one in plan.sheets],
    }


def _sheet(sheet: Sheet) -> CutSheetSaid:
    remnant = sheet.nest.remnants()[sheet.number]
    effort = sheet.effort
    return {
        "thickness": sheet.thickness,
        "used": sum(sheet.nest.pieces[one.piece].region.area for one in sheet.laid) / (sheet.nest.cutter.width * sheet.nest.cutter.height),
        "remnant": max(remnant, 0.0),
        "length": effort.length, "travel": effort.travel, "pierces": effort.pierces, "seconds": effort.seconds,
        "pieces": [_piece(sheet, at) for at in numbers_on(sheet)],
        "cuts": [
            {
                "kind": cut.kind,
                "lead": None if cut.lead is None else [*cut.lead[:2], *cut.path.start[:2]],
                "start": [float(one) for one in cut.start[:2]],
                "end": [float(one) for one in cut.path.end[:2]],
                "paths": [path_of(curve) for curve, on in spans(cut) if on],
            }
            for cut in sheet.cuts
        ],
    }  # fmt: skip


def _piece(sheet: Sheet, at: int) -> CutPieceSaid:
    flat = sheet.nest.pieces[sheet.nest.laid[at].piece]
    return {
        "laid": at,
        "mark": flat.mark,
        "label": flat.piece.label,
        "size": flat.size.tolist(),
        "middle": middle_of(sheet, at).tolist(),
        "path": " ".join(path_of(curve) for curve in outline_curves(sheet, at)),
    }


def _is_held(one: Measured, cutter: Cutter) -> bool:
    """Whether a piece hangs on its tabs, and on nothing else."""
    return 0 < one.uncut <= cutter.tabs * (cutter.tab + cutter.kerf)


def shown_measured(found: Sequence[Measured], machine: SimulatedCutter) -> CutMeasuredSaid:
    """What the simulated cutter found."""
    return {
        "pieces": [
            {"laid": one.laid, "off": one.off, "corner": one.corner, "uncut": one.uncut, "free": one.is_free, "held": _is_held(one, machine.cutter)}
            for one in found
        ],
        "seconds": machine.seconds,
        "length": machine.length,
        "travel": machine.travel,
        "pierces": machine.pierces,
    }  # fmt: skip
