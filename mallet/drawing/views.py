"""The drawing of a plan: millimeter polygons, dimensions and marks, no interface code.

Three views: `section` (mesiodistal, through y = 0; points are x, z), `above` (from occlusal; x, y)
and `across` (faciolingual through the middle of each box; y, z); of what is entered from a face those of `drawing_face`.
Computed in the right-handed frame;
`mirrored` tells the interface to flip x for quadrants 2 and 4, `upper` to let the crown hang down.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from functools import lru_cache
from typing import Literal

import numpy as np
from manifold3d import Manifold

from mallet.cavity.base import room_mm
from mallet.cavity.boxes import SIGN, axial_wall_mm
from mallet.cavity.crowns import shell_solid, solid_of
from mallet.cavity.measures import topmost_mm
from mallet.cavity.neighbours import OPPOSITE
from mallet.cavity.preparation import Base, box_middle_mm
from mallet.cavity.sections import Ring, crosswise_section, from_above, lengthwise_section, level_section
from mallet.cavity.tool import Tool
from mallet.drawing.face import face_sheets
from mallet.drawing.features import (
    above_dimensions,
    feature_lines,
    feature_sheets,
    pin_shapes,
    section_dimensions,
)
from mallet.drawing.sheets import (
    STEP_MM,
    Dimension,
    Drawing,
    Mark,
    Shape,
    Sheet,
    View,
    amiss,
    base_shapes,
    dimension_of,
    increment_shapes,
    outline_of,
    part_places,
    rounded,
    shape_of,
    target_lines,
    target_marks,
    tip_marks,
    tooth_shapes,
    weakest_marks,
)
from mallet.plan import Worked
from mallet.rulebook import Rulebook
from mallet.terms.parts import CuspReduction, OcclusalBox, Side
from mallet.tooth import Crown

BELOW_EDGE_MM = 0.4
LEAN_OFF_MM = 3.0
BESIDE_MM = 1.3
CONTOURS_MM = (0.3, 0.7, 1.1, 1.5, 1.9)
# A place within this of a section's plane is marked in it.
NEAR_MM = 0.8


def draw(worked: Worked) -> Drawing:
    """Return the drawing of a worked plan; the polygons are sections of the very solids planned."""
    rules = worked.rules
    if worked.cavity.from_face:
        sheets = face_sheets(worked, worked.cavity.from_face, rules)
    else:
        across = [_across(worked, box.side, rules) for box in worked.cavity.boxes if box.side]
        sheets = [_section(worked, rules), _above(worked), *across, *feature_sheets(worked, rules)]
    return Drawing(
        mirrored=worked.cavity.tooth.mirrored_when_drawn,
        upper=worked.cavity.tooth.is_upper,
        sheets=sheets,
    )


def _section(worked: Worked, rules: Rulebook) -> Sheet:
    def cut(solid: Manifold, within: Manifold | None = None) -> list[Ring]:
        return lengthwise_section(solid, 0.0, within)

    shapes = []
    for beside in worked.neighbours:
        dentin = shell_solid(beside.tooth, rules, "dentin").solid
        moved = dentin.translate((beside.dx_mm, 0.0, beside.dz_mm))
        name = f"neighbour.{beside.side}"
        shapes.append(shape_of(name, "neighbour", "enamel", cut(beside.solid)))
        shapes.append(shape_of(f"{name}.dentin", "neighbour", "dentin", cut(moved)))
    shapes += tooth_shapes(worked, cut, rules)
    shapes += base_shapes(worked, cut)
    shapes += increment_shapes(worked, cut)
    shapes += pin_shapes(worked, cut)
    shapes += _matrix(worked, cut)
    lines = [shape_of("cervical", "line", "cervical", [_cervical(worked.cavity.crown)])]
    lines += [outline_of(worked, cut), *target_lines(worked, (0, 2))]
    dims = [d for tool in worked.cavity.tools for d in _section_dimensions(worked, tool)]
    dims += [*section_dimensions(worked), *_base_dimensions(worked)]
    return Sheet(
        view="section",
        title="mesiodistal section through the middle",
        axes=["x", "z"],
        shapes=shapes,
        lines=lines,
        dimensions=dims,
        marks=[
            *weakest_marks(worked, (0, 2)),
            *tip_marks(worked, 0),
            *target_marks(worked, (0, 2)),
            *_names(worked),
            *_clearances(worked),
            *_leans(worked),
            *amiss(worked, lambda p: [p.x, p.z] if abs(p.y) < NEAR_MM else None),
        ],
        parts=part_places(worked, (0, 2), across=1),
    )


def _above(worked: Worked) -> Sheet:
    shapes = [
        shape_of(f"neighbour.{b.side}", "neighbour", "enamel", from_above(b.solid)) for b in worked.neighbours
    ]
    shapes.append(_outline_above(worked.cavity.crown))
    shapes.append(shape_of("cavity", "cavity", "air", from_above(worked.cavity.filling)))
    shapes += increment_shapes(worked, from_above)
    for band in worked.bands:
        edge = level_section(band.solid.solid, band.top_mm - BELOW_EDGE_MM)
        shapes.append(shape_of(f"band.{band.side}", "band", band.kind, edge))
    floors = [
        shape_of(f"floor.{i}", "line", "floor", [_floor(worked, t)])
        for i, t in enumerate(worked.cavity.tools)
        if t.under is None and t.kind != "strip_crown_preparation"
    ]
    dims = [d for tool in worked.cavity.tools for d in _above_dimensions(worked, tool)]
    return Sheet(
        view="above",
        title="from occlusal",
        axes=["x", "y"],
        shapes=shapes,
        lines=[*_contours(worked.cavity.crown), *floors, *_covers(worked), *feature_lines(worked)],
        dimensions=[*dims, *above_dimensions(worked)],
        marks=[*weakest_marks(worked, (0, 1)), *amiss(worked, lambda p: [p.x, p.y])],
        parts=part_places(worked, (0, 1)),
    )


def _across(worked: Worked, side: Side, rules: Rulebook) -> Sheet:
    box = worked.cavity.box(side)
    assert box is not None
    x = box_middle_mm(worked.cavity, box)

    def cut(solid: Manifold, within: Manifold | None = None) -> list[Ring]:
        return crosswise_section(solid, x, within)

    view: View = "across_mesial" if side == "mesial" else "across_distal"
    return Sheet(
        view=view,
        title=f"faciolingual section through the {side} box",
        axes=["y", "z"],
        shapes=[*tooth_shapes(worked, cut, rules), *base_shapes(worked, cut), *increment_shapes(worked, cut)],
        lines=[outline_of(worked, cut)],
        dimensions=_cover_dimensions(worked, x),
        marks=amiss(worked, lambda p: [p.y, p.z] if abs(p.x - x) < NEAR_MM else None),
        parts=part_places(worked, (1, 2), across=0, at_mm=x),
    )


def _covers(worked: Worked) -> list[Shape]:
    """Return the grounds of the cusps that were taken down, seen from above."""
    cavity = worked.cavity
    return [
        shape_of(f"cover.{one.index}", "line", "floor", from_above(cavity.outer.solid ^ one.cut.solid))
        for one in cavity.reductions
    ]


def _cover_dimensions(worked: Worked, x_mm: float) -> list[Dimension]:
    """Return how much was taken off the cusps that a faciolingual section runs through, and in the groove."""
    dims: list[Dimension] = []
    for reduction in worked.cavity.reductions:
        part = worked.case.preparation.parts[reduction.index]
        assert isinstance(part, CuspReduction)
        tips = [worked.cavity.crown.cusps[cusp] for cusp in part.cusps]
        y = min(tips, key=lambda tip: abs(tip[0] - x_mm))[1]
        # The tip's length stands beside the tooth, where nothing is written.
        beside = math.copysign(worked.cavity.crown.buccolingual_mm / 2 + BESIDE_MM, y)
        tops = topmost_mm(worked.cavity.outer.solid, np.array([[x_mm, y], [x_mm, 0.25 * y]]))[:, 1]
        ends = (("tip_mm", beside, part.tip_mm), ("groove_mm", 0.25 * y, part.in_groove_mm))
        for (name, at, by_mm), top in zip(ends, tops.tolist(), strict=True):
            p0, p1 = [at, top], [at, top - by_mm]
            dims.append(dimension_of(worked, reduction.index, name, p0, p1, "z", by_mm))
    return dims


def _matrix(worked: Worked, cut: Callable[[Manifold], list[Ring]]) -> list[Shape]:
    shapes = []
    for band in worked.bands:
        shapes.append(shape_of(f"band.{band.side}", "band", band.kind, cut(band.solid.solid)))
        wedge = band.wedge
        if wedge and band.beside:
            # As wide as the gap that it fills; what is wider parts the teeth.
            crown = worked.cavity.crown
            x0 = crown.outer_x_mm(band.side, wedge.base_mm)
            sign = SIGN[band.side]
            x1 = x0 + sign * max(band.beside.gap_mm(crown, wedge.base_mm), 0.2)
            top = wedge.base_mm + wedge.height_mm
            tip = crown.outer_x_mm(band.side, top) + sign * 0.5 * band.beside.gap_mm(crown, top)
            ring = [[x0, wedge.base_mm], [x1, wedge.base_mm], [tip, top]]
            shapes.append(shape_of(f"wedge.{band.side}", "wedge", "wedge", [ring]))
    return shapes


def _cervical(crown: Crown) -> list[list[float]]:
    mesial, distal = crown.cervical_mm["mesial"], crown.cervical_mm["distal"]
    return [
        [crown.outer_x_mm("distal", distal), distal],
        [0.0, 0.0],
        [crown.outer_x_mm("mesial", mesial), mesial],
    ]


def _section_dimensions(worked: Worked, tool: Tool) -> Iterable[Dimension]:
    crown, part = worked.cavity.crown, worked.case.preparation.parts[tool.index]
    if isinstance(part, OcclusalBox):
        x0, x1 = tool.floor[0], tool.floor[1]
        x = x0 + 0.32 * (x1 - x0)
        top = tool.floor_mm + part.depth_mm
        yield dimension_of(worked, tool.index, "depth_mm", [x, top], [x, tool.floor_mm], "z")
    if tool.side is None:
        return
    ridge = crown.ridge_mm(tool.side)
    outer = crown.outer_x_mm(tool.side, tool.floor_mm)
    axial = axial_wall_mm(tool, tool.floor_mm)
    x = axial - SIGN[tool.side] * 1.3
    yield dimension_of(worked, tool.index, "height_mm", [x, ridge], [x, tool.floor_mm], "z")
    z = tool.floor_mm - 0.55
    yield dimension_of(worked, tool.index, "axial_depth_mm", [outer, z], [axial, z], "x")


def _above_dimensions(worked: Worked, tool: Tool) -> Iterable[Dimension]:
    x0, x1, y0, y1 = tool.floor
    if tool.kind == "occlusal_box":
        x = x0 + 0.5 * (x1 - x0)
        yield dimension_of(worked, tool.index, "width_mm", [x, y0], [x, y1], "y")
        if len(worked.cavity.boxes) < 2:
            fixed, free = (x0, x1) if worked.cavity.box("distal") else (x1, x0)
            yield dimension_of(worked, tool.index, "length_mm", [fixed, y0 - 0.9], [free, y0 - 0.9], "x")
    if tool.side is None:
        return
    x = axial_wall_mm(tool, tool.floor_mm) + SIGN[tool.side] * 0.6
    yield dimension_of(worked, tool.index, "width_mm", [x, y0], [x, y1], "y")


def _base_dimensions(worked: Worked) -> list[Dimension]:
    """Return how thick the first base is, from the wall that bears it; all bases take the same where asked."""
    cavity, asked = worked.cavity, worked.case.protection.base_mm
    if not cavity.bases:
        return []
    base = cavity.bases[0]
    p0, along, axis = _off_wall(worked, base)
    return [
        Dimension(
            case_path="protection.base_mm",
            title="base, thickness",
            value=base.thickness_mm,
            p0=rounded(p0),
            p1=rounded([c + base.thickness_mm * a for c, a in zip(p0, along, strict=True)]),
            axis=axis,
            min=0.3,
            max=3.0,
            step=STEP_MM,
            both_ends=False,
            state="handbook" if asked is None else worked.case.provenance_of("protection.base_mm"),
        )
    ]


def _clearances(worked: Worked) -> list[Mark]:
    """Return what fits over each base, told beside the cavity where the restoration is, or under its box."""
    cavity, marks = worked.cavity, []
    for base in cavity.bases:
        free = room_mm(cavity, base.tool, 0.0) - base.thickness_mm
        x0, x1, _, _ = base.tool.floor
        if base.tool.side is None:
            beside = x1 + BESIDE_MM if cavity.box("distal") and not cavity.box("mesial") else x0 - BESIDE_MM
            at, text = [beside, base.tool.floor_mm + base.thickness_mm + free / 2], f"{free:.1f} over base"
        else:
            at, text = (
                [base.tool.floor[0 if base.tool.side == "mesial" else 1], base.tool.floor_mm - 1.5],
                f"{free:.1f} outside base",
            )
        marks.append(Mark(id=f"clearance.{base.tool.index}", text=text, at=rounded(at)))
    return marks


def _leans(worked: Worked) -> list[Mark]:
    """Return how far each tunnel leans off the long axis, told inside of its middle."""
    marks = []
    for tunnel in worked.cavity.tunnels:
        assert tunnel.under
        x0, x1, _, _ = tunnel.floor
        at = [(x0 + x1) / 2 - SIGN[tunnel.under] * LEAN_OFF_MM, tunnel.floor_mm]
        marks.append(
            Mark(id=f"lean.{tunnel.index}", text=f"{tunnel.leans_deg:.0f}\u00b0 to axis", at=rounded(at))
        )
    return marks


def _off_wall(worked: Worked, base: Base) -> tuple[list[float], tuple[float, float], Literal["x", "z"]]:
    """Return a point [x, z] of the wall that bears a base, and the way off the wall."""
    tool, sign = base.tool, SIGN[base.tool.side or "mesial"]
    if tool.side is None:
        x0, x1, _, _ = tool.floor
        return [x0 + 0.7 * (x1 - x0), tool.floor_mm], (0.0, 1.0), "z"
    z = tool.floor_mm + 0.4
    return [axial_wall_mm(tool, z), z], (sign, 0.0), "x"


def _floor(worked: Worked, tool: Tool) -> list[list[float]]:
    """Return a floor's outline; a proximal one ends at the outer surface."""
    x0, x1, y0, y1 = tool.floor
    if tool.side:
        outer = worked.cavity.crown.outer_x_mm(tool.side, tool.floor_mm)
        x0, x1 = sorted((axial_wall_mm(tool, tool.floor_mm), outer))
    return [[x0, y0], [x1, y0], [x1, y1], [x0, y1]]


@lru_cache(maxsize=64)
def _outline_above(crown: Crown) -> Shape:
    return shape_of("tooth", "tooth", "enamel", from_above(solid_of(crown).solid))


@lru_cache(maxsize=64)
def _contours(crown: Crown) -> list[Shape]:
    """Return lines of equal height over the cusps, so that they can be read from above."""
    return [
        shape_of(f"contour.{i}", "line", "contour", level_section(solid_of(crown).solid, z))
        for i, drop in enumerate(CONTOURS_MM)
        if (z := crown.height_mm - drop) > crown.rim_mm
    ]


def _names(worked: Worked) -> list[Mark]:
    own = Mark(id="tooth", text=worked.cavity.tooth.iso, at=[0.0, -1.2])
    marks = [own]
    for beside in worked.neighbours:
        crown = beside.crown
        middle = beside.dx_mm + SIGN[OPPOSITE[beside.side]] * 0.15 * crown.mesiodistal_mm
        marks.append(Mark(id=f"name.{beside.side}", text=beside.tooth.iso, at=rounded([middle, 2.0])))
    return marks
