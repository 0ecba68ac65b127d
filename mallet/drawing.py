"""The drawing of a plan: millimetre polygons, dimensions and marks, no interface code.

Three views: `section` (mesiodistal, through y = 0; points are x, z), `above` (from occlusal; x, y)
and `across` (faciolingual through the middle of each box; y, z). Computed in the right-handed frame;
`mirrored` tells the interface to flip x for quadrants 2 and 4, `upper` to let the crown hang down.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from functools import lru_cache
from typing import Literal

import numpy as np
from annotated_types import Ge, Gt, Le
from manifold3d import Manifold
from numpy.typing import ArrayLike
from pydantic import BaseModel, ConfigDict

from mallet.cavity.base import room_mm
from mallet.cavity.measures import topmost_mm
from mallet.cavity.neighbours import OPPOSITE
from mallet.cavity.preparation import SIGN, Base, Tool, axial_wall_mm, box_middle_mm, shell_solid, solid_of
from mallet.cavity.sections import Ring, crosswise_section, from_above, lengthwise_section, level_section
from mallet.plan import Worked
from mallet.rulebook import Rulebook, load_rulebook
from mallet.runsheet.reckoning import weakest_of
from mallet.terms.case import CuspReduction, ProximalBox, Side
from mallet.terms.plan import Point
from mallet.tooth import Crown

View = Literal["section", "above", "across_mesial", "across_distal"]
Slice = Callable[..., list[Ring]]
STEP_MM = 0.1
BELOW_EDGE_MM = 0.4
BESIDE_MM = 1.3
CONTOURS_MM = (0.3, 0.7, 1.1, 1.5, 1.9)
DECIMALS = 3
# A place within this of a section's plane is marked in it.
NEAR_MM = 0.8
PART_NAMES = {"occlusal_box": "occlusal box", "cusp_reduction": "cusps taken down"}


class Drawn(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Shape(Drawn):
    """A filled outline; `figure_path` names the plan's entry that it shows."""

    id: str
    role: str
    material: str
    order: int
    rings: list[list[list[float]]]
    figure_path: str | None = None


class Dimension(Drawn):
    """A length that the user may drag or type; `case_path` is what it sets.

    p1 is the end that moves when the length grows; with `both_ends` p0 moves as far the other way.
    """

    case_path: str
    title: str
    value: float
    p0: list[float]
    p1: list[float]
    axis: Literal["x", "y", "z"]
    min: float
    max: float
    step: float
    both_ends: bool
    state: Literal["measured", "estimated", "handbook"]


class Mark(Drawn):
    id: str
    text: str
    at: list[float]


class Sheet(Drawn):
    """One view: shapes from back to front, open lines, dimensions and marks."""

    view: View
    title: str
    axes: list[str]
    shapes: list[Shape]
    lines: list[Shape]
    dimensions: list[Dimension]
    marks: list[Mark]


class Drawing(Drawn):
    unit: Literal["mm"] = "mm"
    mirrored: bool
    upper: bool
    sheets: list[Sheet]


def draw(worked: Worked, book: Rulebook | None = None) -> Drawing:
    """Return the drawing of a worked plan; the polygons are sections of the very solids planned."""
    rules = (book or load_rulebook()).with_house(worked.case.house)
    across = [_across(worked, box.side, rules) for box in worked.cavity.boxes if box.side]
    return Drawing(
        mirrored=worked.cavity.tooth.mirrored_when_drawn,
        upper=worked.cavity.tooth.is_upper,
        sheets=[_section(worked, rules), _above(worked), *across],
    )


def _section(worked: Worked, rules: Rulebook) -> Sheet:
    def cut(solid: Manifold, within: Manifold | None = None) -> list[Ring]:
        return lengthwise_section(solid, 0.0, within)

    shapes = []
    for beside in worked.neighbours:
        dentin = shell_solid(beside.tooth, rules, "dentin").solid
        moved = dentin.translate((beside.dx_mm, 0.0, beside.dz_mm))
        name = f"neighbour.{beside.side}"
        shapes.append(_shape(name, "neighbour", "enamel", cut(beside.solid)))
        shapes.append(_shape(f"{name}.dentin", "neighbour", "dentin", cut(moved)))
    shapes += _tooth(worked, cut, rules)
    shapes += _bases(worked, cut)
    shapes += _increments(worked, cut)
    shapes += _matrix(worked, cut)
    lines = [_shape("cervical", "line", "cervical", [_cervical(worked.cavity.crown)])]
    lines += [_shape("outline", "line", "outline", cut(worked.cavity.outer.solid))]
    dims = [d for tool in worked.cavity.tools for d in _section_dimensions(worked, tool)]
    dims += _base_dimensions(worked)
    return Sheet(
        view="section",
        title="mesiodistal section through the middle",
        axes=["x", "z"],
        shapes=shapes,
        lines=lines,
        dimensions=dims,
        marks=[
            *_worst(worked, (0, 2)),
            *_tip(worked),
            *_names(worked),
            *_clearances(worked),
            *_amiss(worked, lambda p: [p.x, p.z] if abs(p.y) < NEAR_MM else None),
        ],
    )


def _above(worked: Worked) -> Sheet:
    shapes = [
        _shape(f"neighbour.{b.side}", "neighbour", "enamel", from_above(b.solid)) for b in worked.neighbours
    ]
    shapes.append(_outline_above(worked.cavity.crown))
    shapes.append(_shape("cavity", "cavity", "air", from_above(worked.cavity.filling)))
    shapes += _increments(worked, from_above)
    for band in worked.bands:
        edge = level_section(band.solid.solid, band.top_mm - BELOW_EDGE_MM)
        shapes.append(_shape(f"band.{band.side}", "band", band.kind, edge))
    floors = [
        _shape(f"floor.{i}", "line", "floor", [_floor(worked, t)]) for i, t in enumerate(worked.cavity.tools)
    ]
    dims = [d for tool in worked.cavity.tools for d in _above_dimensions(worked, tool)]
    return Sheet(
        view="above",
        title="from occlusal",
        axes=["x", "y"],
        shapes=shapes,
        lines=[*_contours(worked.cavity.crown), *floors, *_covers(worked)],
        dimensions=dims,
        marks=[*_worst(worked, (0, 1)), *_amiss(worked, lambda p: [p.x, p.y])],
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
        shapes=[*_tooth(worked, cut, rules), *_bases(worked, cut), *_increments(worked, cut)],
        lines=[_shape("outline", "line", "outline", cut(worked.cavity.outer.solid))],
        dimensions=_cover_dimensions(worked, x),
        marks=_amiss(worked, lambda p: [p.y, p.z] if abs(p.x - x) < NEAR_MM else None),
    )


def _covers(worked: Worked) -> list[Shape]:
    """Return the grounds of the cusps that were taken down, seen from above."""
    cavity = worked.cavity
    return [
        _shape(f"cover.{one.index}", "line", "floor", from_above(cavity.outer.solid ^ one.cut.solid))
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
            dims.append(_dimension(worked, reduction.index, name, p0, p1, "z", by_mm))
    return dims


def _amiss(worked: Worked, on: Callable[[Point], list[float] | None]) -> list[Mark]:
    """Return the places of checks that failed, where a view shows them."""
    amiss = [check for check in worked.plan.checks if check.verdict == "fail" and check.place]
    return [
        Mark(id=f"check.{check.topic}", text=f"{check.measured:g}{_after(check.unit)}", at=_point(at))
        for check in amiss
        if check.place and (at := on(check.place))
    ]


def _after(unit: str) -> str:
    """Return a unit as it stands behind a number in the drawing."""
    return f" {unit}" if len(unit) < 5 else " \u00d7"


def _tooth(worked: Worked, cut: Slice, rules: Rulebook) -> list[Shape]:
    """Return what is left of the tooth, layer on layer: enamel, dentin, pulp."""
    cavity = worked.cavity
    dentin = shell_solid(cavity.tooth, rules, "dentin").solid
    pulp = shell_solid(cavity.tooth, rules, "pulp").solid
    return [
        _shape("tooth", "tooth", "enamel", cut(cavity.remaining_tooth)),
        _shape("dentin", "tooth", "dentin", cut(cavity.remaining_tooth, dentin)),
        _shape("pulp", "tooth", "pulp", cut(pulp)),
    ]


def _bases(worked: Worked, cut: Slice) -> list[Shape]:
    bases = worked.cavity.bases
    return [_shape(f"base.{base.tool.index}", "base", "base", cut(base.solid)) for base in bases]


def _increments(worked: Worked, cut: Slice) -> list[Shape]:
    shapes = []
    for i, cured in enumerate(worked.build.cured):
        path = f"increments[{i}]"
        rings = cut(cured.portion.solid)
        id = cured.portion.id
        shapes.append(_shape(id, "increment", cured.portion.role, rings, i + 1, path))
    return shapes


def _matrix(worked: Worked, cut: Slice) -> list[Shape]:
    shapes = []
    for band in worked.bands:
        shapes.append(_shape(f"band.{band.side}", "band", band.kind, cut(band.solid.solid)))
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
            shapes.append(_shape(f"wedge.{band.side}", "wedge", "wedge", [ring]))
    return shapes


def _cervical(crown: Crown) -> list[list[float]]:
    mesial, distal = crown.cervical_mm["mesial"], crown.cervical_mm["distal"]
    return [
        [crown.outer_x_mm("distal", distal), distal],
        [0.0, 0.0],
        [crown.outer_x_mm("mesial", mesial), mesial],
    ]


def _section_dimensions(worked: Worked, tool: Tool) -> Iterable[Dimension]:
    crown = worked.cavity.crown
    if tool.side is None:
        x0, x1 = tool.floor[0], tool.floor[1]
        x = x0 + 0.32 * (x1 - x0)
        depth = worked.case.preparation.parts[tool.index].model_dump()["depth_mm"]
        yield _dimension(worked, tool.index, "depth_mm", [x, tool.floor_mm + depth], [x, tool.floor_mm], "z")
        return
    ridge = crown.ridge_mm(tool.side)
    outer = crown.outer_x_mm(tool.side, tool.floor_mm)
    axial = axial_wall_mm(tool, tool.floor_mm)
    x = axial - SIGN[tool.side] * 1.3
    yield _dimension(worked, tool.index, "height_mm", [x, ridge], [x, tool.floor_mm], "z")
    z = tool.floor_mm - 0.55
    yield _dimension(worked, tool.index, "axial_depth_mm", [outer, z], [axial, z], "x")


def _above_dimensions(worked: Worked, tool: Tool) -> Iterable[Dimension]:
    x0, x1, y0, y1 = tool.floor
    if tool.side is None:
        x = x0 + 0.5 * (x1 - x0)
        yield _dimension(worked, tool.index, "width_mm", [x, y0], [x, y1], "y")
        if len(worked.cavity.boxes) < 2:
            fixed, free = (x0, x1) if worked.cavity.box("distal") else (x1, x0)
            yield _dimension(worked, tool.index, "length_mm", [fixed, y0 - 0.9], [free, y0 - 0.9], "x")
        return
    x = axial_wall_mm(tool, tool.floor_mm) + SIGN[tool.side] * 0.6
    yield _dimension(worked, tool.index, "width_mm", [x, y0], [x, y1], "y")


def _dimension(
    worked: Worked,
    index: int,
    name: str,
    p0: list[float],
    p1: list[float],
    axis: Literal["x", "y", "z"],
    taken_mm: float | None = None,
) -> Dimension:
    """Return a length of the part at an index; `taken_mm` is what it is taken for where nobody told."""
    part = worked.case.preparation.parts[index]
    path = f"preparation.parts[{index}].{name}"
    bounds = type(part).model_fields[name].metadata
    least = next(
        (float(str(b.ge if isinstance(b, Ge) else b.gt)) for b in bounds if isinstance(b, Ge | Gt)), 0.0
    )
    most = next((float(str(b.le)) for b in bounds if isinstance(b, Le)), 12.0)
    what = f"{part.side} box" if isinstance(part, ProximalBox) else PART_NAMES[part.kind]
    return Dimension(
        case_path=path,
        title=f"{what}, {name.removesuffix('_mm').replace('_', ' ')}",
        value=taken_mm if taken_mm is not None else getattr(part, name),
        p0=_point(p0),
        p1=_point(p1),
        axis=axis,
        min=max(least, STEP_MM),
        max=most,
        step=STEP_MM,
        both_ends=name == "width_mm" or (name == "length_mm" and not worked.cavity.boxes),
        state="estimated" if getattr(part, name) is None else worked.case.provenance_of(path),
    )


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
            p0=_point(p0),
            p1=_point([c + base.thickness_mm * a for c, a in zip(p0, along, strict=True)]),
            axis=axis,
            min=0.3,
            max=3.0,
            step=STEP_MM,
            both_ends=False,
            state="handbook" if asked is None else worked.case.provenance_of("protection.base_mm"),
        )
    ]


def _clearances(worked: Worked) -> list[Mark]:
    """Return what fits over each base, told beside the cavity where the filling is, or under its box."""
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
        marks.append(Mark(id=f"clearance.{base.tool.index}", text=text, at=_point(at)))
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
    return _shape("tooth", "tooth", "enamel", from_above(solid_of(crown).solid))


@lru_cache(maxsize=64)
def _contours(crown: Crown) -> list[Shape]:
    """Return lines of equal height over the cusps, so that they can be read from above."""
    return [
        _shape(f"contour.{i}", "line", "contour", level_section(solid_of(crown).solid, z))
        for i, drop in enumerate(CONTOURS_MM)
        if (z := crown.height_mm - drop) > crown.rim_mm
    ]


def _worst(worked: Worked, axes: tuple[int, int]) -> list[Mark]:
    worst = weakest_of(worked.build)
    point = worst.lit.points[0]
    ratio = worst.worst_dose_j_cm2 / worst.need.dose_j_cm2
    text = f"weakest, {ratio:.2f} \u00d7 need"
    return [Mark(id="worst", text=text, at=_point([point[axes[0]], point[axes[1]]]))]


def _tip(worked: Worked) -> list[Mark]:
    worst = weakest_of(worked.build)
    tip = next((aim.tip for aim in worst.lit.aims if not aim.is_side), None)
    if tip is None:
        return []
    middle = np.array([tip.centre[0], tip.centre[2]])
    # The rim as the section cuts it: across the tip's axis.
    x, z = tip.towards[0], tip.towards[2]
    rim = tip.beam.radius_mm * np.array([z, -x]) / math.hypot(x, z)
    text = f"{tip.beam.contact_mw_cm2:.0f} mW/cm\u00b2"
    return [
        Mark(id="tip.left", text="", at=_point((middle - rim).tolist())),
        Mark(id="tip.right", text=text, at=_point((middle + rim).tolist())),
    ]


def _names(worked: Worked) -> list[Mark]:
    own = Mark(id="tooth", text=worked.cavity.tooth.iso, at=[0.0, -1.2])
    marks = [own]
    for beside in worked.neighbours:
        crown = beside.crown
        middle = beside.dx_mm + SIGN[OPPOSITE[beside.side]] * 0.15 * crown.mesiodistal_mm
        marks.append(Mark(id=f"name.{beside.side}", text=beside.tooth.iso, at=_point([middle, 2.0])))
    return marks


def _shape(
    id: str, role: str, material: str, rings: Sequence[ArrayLike], order: int = 0, path: str | None = None
) -> Shape:
    rounded = [(np.round(np.asarray(ring, dtype=np.float64), DECIMALS) + 0.0).tolist() for ring in rings]
    return Shape(id=id, role=role, material=material, order=order, rings=rounded, figure_path=path)


def _point(p: list[float]) -> list[float]:
    return [round(float(c), DECIMALS) + 0.0 for c in p]
