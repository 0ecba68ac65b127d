"""What a drawing is made of: sheets of millimeter polygons, dimensions and marks, and the parts that every view
shares."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from typing import Literal

import numpy as np
from annotated_types import Ge, Gt, Le
from manifold3d import Manifold
from numpy.typing import ArrayLike
from pydantic import BaseModel, ConfigDict

from mallet.cavity.crowns import shell_solid
from mallet.cavity.sections import Ring
from mallet.cavity.tool import Tool
from mallet.restoratives.worked import Worked
from mallet.rulebook import Rulebook
from mallet.rulebook.parts import part_name, size_name
from mallet.terms.parts import ProximalBox
from mallet.terms.pieces import Point
from mallet.terms.plan import Target
from mallet.terms.reasons import signed

View = Literal[
    "section",
    "above",
    "across_mesial",
    "across_distal",
    "across_feature",
    "through",
    "level",
    "facial",
    "lingual",
]
Slice = Callable[..., list[Ring]]
STEP_MM = 0.1
DECIMALS = 3
# Half of a tick at a height to carve to.
TICK_MM = 0.6
BEYOND_MM = 0.55


class Drawn(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Shape(Drawn):
    """A filled outline; `figure_path` names the plan's entry that it stands for."""

    id: str
    role: str
    material: str
    order: int
    rings: list[list[list[float]]]
    figure_path: str | None = None


class Dimension(Drawn):
    """A length that the user may drag or type; `case_path` is what it sets.

    p1 is the end that moves when the length grows; with `both_ends` p0 moves as far the other way. Longer, one that
    `deepens` takes the cavity further in.
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
    deepens: bool = False
    state: Literal["measured", "estimated", "handbook"]


class Mark(Drawn):
    id: str
    text: str
    at: list[float]


class PartPlace(Drawn):
    """Where a view shows a part of the preparation, `path`: the box around it, from its lower left to its upper right."""

    path: str
    low: list[float]
    high: list[float]


class Sheet(Drawn):
    """One view: shapes from back to front, open lines, dimensions and marks, and where its parts are; `window` is what of it
    is worth showing, from its lower left to its upper right, where that is not all."""

    view: View
    title: str
    axes: list[str]
    shapes: list[Shape]
    lines: list[Shape]
    dimensions: list[Dimension]
    marks: list[Mark]
    parts: list[PartPlace] = []
    window: list[list[float]] | None = None


class Drawing(Drawn):
    unit: Literal["mm"] = "mm"
    mirrored: bool
    upper: bool
    sheets: list[Sheet]


def amiss(worked: Worked, on: Callable[[Point], list[float] | None]) -> list[Mark]:
    """Return the places of checks that failed, where a view shows them."""
    amiss = [check for check in worked.plan.checks if check.verdict == "fail" and check.place]
    return [
        Mark(id=f"check.{check.topic}", text=f"{check.measured:g}{_after(check.unit)}", at=rounded(at))
        for check in amiss
        if check.place and (at := on(check.place))
    ]


def _after(unit: str) -> str:
    """Return a unit as it stands behind a number in the drawing."""
    return f" {unit}" if len(unit) < 5 else " \u00d7"


def tooth_shapes(worked: Worked, cut: Slice, rules: Rulebook) -> list[Shape]:
    """Return what is left of the tooth, layer on layer: enamel, dentin, pulp."""
    cavity = worked.cavity
    left = cavity.access.in_tooth(cavity.remaining_tooth)
    dentin = shell_solid(cavity.tooth, rules, "dentin").solid
    shapes = [
        shape_of("tooth", "tooth", "enamel", cut(left)),
        shape_of("dentin", "tooth", "dentin", cut(left, dentin)),
    ]
    if cavity.pulp:
        shapes.append(shape_of("pulp", "tooth", "pulp", cut(cavity.access.in_tooth(cavity.pulp))))
    return shapes


def base_shapes(worked: Worked, cut: Slice) -> list[Shape]:
    """Return what is laid on walls toward the pulp."""
    in_tooth = worked.cavity.access.in_tooth
    laid = {f"base.{base.tool.index}": base.solid for base in worked.cavity.bases}
    if worked.cavity.chamber:
        laid["base.chamber"] = worked.cavity.chamber
    return [shape_of(id, "base", "base", cut(in_tooth(solid))) for id, solid in laid.items()]


def increment_shapes(worked: Worked, cut: Slice) -> list[Shape]:
    """Return the increments in order, each with the plan's entry that it shows."""
    shapes = []
    for i, one in enumerate(worked.built.placed):
        rings = cut(worked.cavity.access.in_tooth(one.solid))
        shapes.append(shape_of(one.id, "increment", one.role, rings, i + 1, f"increments[{i}]"))
    return shapes


def part_places(
    worked: Worked, axes: tuple[int, int], across: int | None = None, at_mm: float = 0.0
) -> list[PartPlace]:
    """Return where the parts of a preparation from occlusal are seen along two axes; of a section those that it runs through,
    at `at_mm` of the axis `across`."""
    cavity = worked.cavity
    boxes = [(one.index, _around(one)) for one in cavity.tools]
    boxes += [(one.index, _corners(one.taken)) for one in cavity.features]
    boxes += [(one.index, _corners(cavity.outer.solid ^ one.cut.solid)) for one in cavity.reductions]
    return [
        PartPlace(
            path=f"preparation.parts[{index}]",
            low=rounded([low[axis] for axis in axes]),
            high=rounded([high[axis] for axis in axes]),
        )
        for index, (low, high) in boxes
        if across is None or low[across] <= at_mm <= high[across]
    ]


def _around(tool: Tool) -> tuple[Sequence[float], Sequence[float]]:
    """Return the corners of the box over a floor."""
    x0, x1, y0, y1 = tool.floor
    return (x0, y0, tool.floor_mm), (x1, y1, _corners(tool.cut.solid)[1][2])


def _corners(solid: Manifold) -> tuple[Sequence[float], Sequence[float]]:
    box = solid.bounding_box()
    return box[:3], box[3:]


def outline_of(worked: Worked, cut: Slice) -> Shape:
    """Return the line of the whole tooth in a section."""
    return shape_of(
        "outline", "line", "outline", cut(worked.cavity.access.in_tooth(worked.cavity.outer.solid))
    )


def weakest_marks(worked: Worked, axes: tuple[int, int]) -> list[Mark]:
    """Return the point that gets least of what it needs, where anything is lit."""
    if worked.built.curing is None:
        return []
    worst = worked.lit.weakest
    at = worked.cavity.access.points_in_tooth(worst.lit.points[:1])[0]
    ratio = worst.worst_dose_j_cm2 / worst.need.dose_j_cm2
    text = f"lowest, {ratio:.2f} \u00d7 required"
    return [Mark(id="worst", text=text, at=rounded([at[axes[0]], at[axes[1]]]))]


def tip_marks(worked: Worked, across: int) -> list[Mark]:
    """Return the rim of the light's tip as a section cuts it that runs along one axis of the access (0 or 1) and
    up, where anything is lit."""
    if worked.built.curing is None:
        return []
    worst, access = worked.lit.weakest, worked.cavity.access
    tip = next((aim.tip for aim in worst.lit.aims if not aim.is_side), None)
    if tip is None:
        return []
    # Across the tip's axis.
    along, up = tip.towards[across], tip.towards[2]
    rim = np.zeros(3)
    rim[across], rim[2] = tip.beam.radius_mm * np.array([up, -along]) / math.hypot(along, up)
    ends = access.points_in_tooth(np.array([tip.centre - rim, tip.centre + rim]))
    shown = [i for i in range(3) if abs(access.axes[across][i]) + abs(access.axes[2][i]) > 0]
    text = f"{tip.beam.contact_mw_cm2:.0f} mW/cm\u00b2"
    return [
        Mark(id="tip.left", text="", at=rounded(ends[0, shown].tolist())),
        Mark(id="tip.right", text=text, at=rounded(ends[1, shown].tolist())),
    ]


def target_lines(worked: Worked, axes: tuple[int, int]) -> list[Shape]:
    """Return the heights to carve to, each as a tick, and the lines that cusps are held against."""
    lines = []
    for target, at in _targets(worked):
        x, z = at[axes[0]], at[axes[1]]
        ends = [[(end.x, end.y, end.z)[axis] for axis in axes] for end in target.ends]
        if ends and axes[0] == 0:
            lines.append(shape_of(f"sight.{target.id}", "line", "sight", [ends]))
        tick = [[x - TICK_MM, z], [x + TICK_MM, z]]
        lines.append(shape_of(f"target.{target.id}", "line", "target", [tick]))
    return lines


def target_marks(worked: Worked, axes: tuple[int, int]) -> list[Mark]:
    """Return what each of those heights of a cusp is, beyond its tick."""
    return [
        Mark(
            id=f"target.{target.id}",
            text=signed(target.value),
            at=rounded([at[axes[0]], at[axes[1]] + BEYOND_MM]),
        )
        for target, at in _targets(worked)
        if target.ends
    ]


def _targets(worked: Worked) -> Iterator[tuple[Target, tuple[float, float, float]]]:
    for step in worked.plan.steps:
        for target in step.targets:
            if target.place:
                yield target, (target.place.x, target.place.y, target.place.z)


def dimension_of(
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
    what = part_name(part.kind, side=getattr(part, "side", getattr(part, "face", "")))
    return Dimension(
        case_path=path,
        title=f"{what}, {size_name(part.kind, name)}",
        value=taken_mm if taken_mm is not None else getattr(part, name),
        p0=rounded(p0),
        p1=rounded(p1),
        axis=axis,
        min=max(least, STEP_MM),
        max=most,
        step=STEP_MM,
        both_ends=name == "width_mm" or (name == "length_mm" and not worked.cavity.boxes),
        deepens=name == "depth_mm" or (isinstance(part, ProximalBox) and name == "height_mm"),
        state="estimated" if getattr(part, name) is None else worked.case.provenance_of(path),
    )


def shape_of(
    id: str, role: str, material: str, rings: Sequence[ArrayLike], order: int = 0, path: str | None = None
) -> Shape:
    """Return rings (N, 2) as a shape."""
    drawn = [(np.round(np.asarray(ring, dtype=np.float64), DECIMALS) + 0.0).tolist() for ring in rings]
    return Shape(id=id, role=role, material=material, order=order, rings=drawn, figure_path=path)


def rounded(p: Sequence[float]) -> list[float]:
    """Return a point as it is drawn."""
    return [round(float(c), DECIMALS) + 0.0 for c in p]
