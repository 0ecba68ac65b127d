"""The drawing of what is entered from a face: a section through it, and the tooth as it is seen from that face
(`facial` or `lingual`; x, z).

The section is faciolingual (`through`; y, z), and of a cavity beside the contact level (`level`; x, y).
"""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from manifold3d import Manifold

from mallet.cavity.boxes import SIGN
from mallet.cavity.sections import Ring, crosswise_section, from_above, level_section, rings_of
from mallet.cavity.tool import Tool
from mallet.drawing.features import notch_dimensions
from mallet.drawing.sheets import (
    Dimension,
    Mark,
    Shape,
    Sheet,
    View,
    amiss,
    base_shapes,
    dimension_of,
    increment_shapes,
    outline_of,
    rounded,
    shape_of,
    tip_marks,
    tooth_shapes,
    weakest_marks,
)
from mallet.plan import Worked
from mallet.rulebook import Rulebook
from mallet.terms.increments import Stepped
from mallet.terms.parts import GoldPit, IncisalFracture, ProximalCavity

NEAR_MM = 0.8
OFF_MM = 1.4
BELOW_MM, CLEAR_MM = 0.5, 2.0
# What is shown round a pit for gold, and from its surface in and out.
ROUND_PIT_MM, IN_PIT_MM, OVER_PIT_MM = 1.0, 3.0, 1.5
# Its lengths stand beside its bevel.
BESIDE_PIT_MM = 0.9
# From where to where past a margin its turning is drawn, and the head of that arrow.
TURN_MM, BARB_MM = (-0.25, 0.2), 0.12


def face_sheets(worked: Worked, tool: Tool, rules: Rulebook) -> list[Sheet]:
    """Return the two views of a part that is entered from a face."""
    section = _level if tool.kind == "proximal_cavity" else _through
    sheets = [section(worked, tool, rules), _from_face(worked, tool)]
    if tool.kind == "gold_pit" or any(isinstance(one.detail, Stepped) for one in worked.plan.increments):
        more = (_forces(worked, sheets[0]), _turning(tool, worked, sheets[1]))
        return [
            sheet.model_copy(
                update={"window": _round_pit(tool, worked, sheet), "lines": [*sheet.lines, *lines]}
            )
            for sheet, lines in zip(sheets, more, strict=True)
        ]
    if notch := notch_dimensions(worked):
        sheets.append(_from_behind(worked, notch))
    return sheets


def _forces(worked: Worked, sheet: Sheet) -> list[Shape]:
    """Return the line of force of each zone that is stepped, as an arrow; they are shown one at a time."""
    at = [("x", "y", "z").index(axis) for axis in sheet.axes]
    lines = []
    for one in worked.plan.increments:
        if isinstance(one.detail, Stepped):
            start, tip = np.array([[p.x, p.y, p.z] for p in one.detail.line_of_force])[:, at]
            way = (tip - start) / max(float(np.linalg.norm(tip - start)), 1e-9)
            lines.append(
                shape_of(f"force.{one.order}", "line", "force", [_arrow(start, tip, way)], one.order)
            )
    return lines


def _arrow(start: np.ndarray, tip: np.ndarray, way: np.ndarray) -> np.ndarray:
    """Return the places (5, 2) of an arrow: its shaft, then the two barbs of its head."""
    aside = np.array([-way[1], way[0]])
    barbs = [tip - BARB_MM * (way + side * aside) for side in (0.6, -0.6)]
    return np.array([start, tip, barbs[0], tip, barbs[1]])


def _turning(pit: Tool, worked: Worked, sheet: Sheet) -> list[Shape]:
    """Return which way a stone or disc turns over each margin, as arrows: off what is placed, onto the tooth."""
    if not any(one.topic == "finish.turning" for one in worked.plan.decisions):
        return []
    x0, x1, y0, y1 = pit.floor
    part = worked.case.preparation.parts[pit.index]
    off = (part.bevel_mm or 0.0) if isinstance(part, GoldPit | ProximalCavity) else 0.0
    middle = np.array([(x0 + x1) / 2, (y0 + y1) / 2])
    half = np.array([(x1 - x0) / 2, (y1 - y0) / 2]) + off
    at = [("x", "y", "z").index(axis) for axis in sheet.axes]
    lines = []
    for i, way in enumerate(np.array([[1.0, 0.0], [0.0, 1.0], [-1.0, 0.0], [0.0, -1.0]])):
        # Toward the contact there is no margin in the face.
        if any(SIGN[side] == way[0] for side in pit.beside):
            continue
        places = _arrow(middle + (half + TURN_MM[0]) * way, middle + (half + TURN_MM[1]) * way, way)
        flat = worked.cavity.access.points_in_tooth(np.column_stack([places, np.zeros(5)]))[:, at]
        lines.append(shape_of(f"turning.{i}", "line", "turning", [flat]))
    return lines


def _round_pit(pit: Tool, worked: Worked, sheet: Sheet) -> list[list[float]]:
    """Return the stretch of a view round a pit, which is small beside its tooth: in half millimeters, so that it stands still
    while a length is dragged."""
    assert pit.spot
    x0, x1, y0, y1 = pit.floor
    x, y, floor = pit.spot
    half = math.ceil(2 * (max(x1 - x0, y1 - y0) / 2 + ROUND_PIT_MM)) / 2
    # A cavity beside the contact is deepest halfway in, a pit at its floor.
    top = math.ceil(2 * (2 * floor - pit.floor_mm if pit.beside else floor + pit.depth_mm)) / 2
    ends = np.array([[x - half, y - half, top - IN_PIT_MM], [x + half, y + half, top + OVER_PIT_MM]])
    at = [("x", "y", "z").index(axis) for axis in sheet.axes]
    corners = worked.cavity.access.points_in_tooth(ends)[:, at]
    return [rounded(corners.min(axis=0).tolist()), rounded(corners.max(axis=0).tolist())]


def _from_behind(worked: Worked, dims: list[Dimension]) -> Sheet:
    """Return a tooth with a notch behind its edge as it is seen from lingual."""
    cavity = worked.cavity

    def seen(solid: Manifold) -> list[Ring]:
        return [ring * [1.0, -1.0] for ring in from_above(solid)]

    return Sheet(
        view="lingual",
        title="from lingual",
        axes=["x", "z"],
        shapes=[
            shape_of("tooth", "tooth", "enamel", seen(cavity.outer.solid)),
            shape_of("cavity", "cavity", "air", seen(cavity.filling)),
            *increment_shapes(worked, lambda solid: seen(cavity.access.turned(solid))),
        ],
        lines=[],
        dimensions=dims,
        marks=[],
    )


def through_mm(tool: Tool) -> float:
    """Return where a part is cut faciolingually, in the middle of its width (x)."""
    return (tool.floor[0] + tool.floor[1]) / 2


def level_mm(worked: Worked, tool: Tool) -> float:
    """Return where a part is cut level, in the middle of its height (z)."""
    ends = worked.cavity.access.points_in_tooth(np.array([[0.0, y, 0.0] for y in tool.floor[2:]]))[:, 2]
    return float(ends.mean())


def _through(worked: Worked, tool: Tool, rules: Rulebook) -> Sheet:
    x = through_mm(tool)

    def cut(solid: Manifold, within: Manifold | None = None) -> list[Ring]:
        return crosswise_section(solid, x, within)

    ends = [float(worked.cavity.crown.outline(0.0)[at, 1]) for at in _facing_columns(worked)]
    cervical = shape_of("cervical", "line", "cervical", [[[y, 0.0] for y in ends]])
    return Sheet(
        view="through",
        title=f"faciolingual section through {_named(tool)}",
        axes=["y", "z"],
        shapes=[
            *tooth_shapes(worked, cut, rules),
            *base_shapes(worked, cut),
            *increment_shapes(worked, cut),
        ],
        lines=[cervical, outline_of(worked, cut)],
        dimensions=_depth(worked, tool) if tool.depth_mm else [],
        marks=[
            *weakest_marks(worked, (1, 2)),
            *tip_marks(worked, 1),
            Mark(id="tooth", text=worked.cavity.tooth.iso, at=[0.0, -1.2]),
            *amiss(worked, lambda p: [p.y, p.z] if abs(p.x - x) < NEAR_MM else None),
        ],
    )


def _level(worked: Worked, tool: Tool, rules: Rulebook) -> Sheet:
    z = level_mm(worked, tool)

    def cut(solid: Manifold, within: Manifold | None = None) -> list[Ring]:
        # Plane figures are cut far faster than the solids.
        section = solid.slice(z)
        return rings_of(section if within is None else section ^ within.slice(z))

    beside = [
        shape_of(f"neighbour.{one.side}", "neighbour", "enamel", level_section(one.solid, z))
        for one in worked.neighbours
    ]
    part = worked.case.preparation.parts[tool.index]
    assert isinstance(part, ProximalCavity)
    assert tool.spot
    spot = worked.cavity.access.points_in_tooth(np.array([tool.spot]))[0]
    surface = worked.cavity.crown.outer_x_mm(part.side, z)
    axial = surface - SIGN[part.side] * part.depth_mm
    top, floor = worked.cavity.access.points_in_tooth(
        np.array([[0.0, 0.0, 2 * tool.spot[2] - tool.floor_mm], [0.0, 0.0, tool.floor_mm]])
    )[:, 1]
    inside = axial - SIGN[part.side] * BELOW_MM
    # Clear of the tooth's outline where that is where it ends.
    off = CLEAR_MM if tool.is_through else BELOW_MM
    beyond = floor + (floor - top) / abs(floor - top) * off
    reach = dimension_of(worked, tool.index, "faciolingual_mm", [inside, top], [inside, floor], "y")
    reaches = [] if tool.is_through else [reach]
    return Sheet(
        view="level",
        title="level section at the contact",
        axes=["x", "y"],
        shapes=[
            *beside,
            *tooth_shapes(worked, cut, rules),
            *base_shapes(worked, cut),
            *increment_shapes(worked, cut),
        ],
        lines=[outline_of(worked, cut)],
        dimensions=[
            *reaches,
            dimension_of(worked, tool.index, "depth_mm", [surface, beyond], [axial, beyond], "x"),
        ],
        marks=[
            *weakest_marks(worked, (0, 1)),
            *tip_marks(worked, 0),
            Mark(id="tooth", text=worked.cavity.tooth.iso, at=rounded([0.0, float(spot[1])])),
            *amiss(worked, lambda p: [p.x, p.y] if abs(p.z - z) < NEAR_MM else None),
        ],
    )


def _named(tool: Tool) -> str:
    if tool.kind in ("pit", "gold_pit"):
        return "the pit"
    return "the lesion" if tool.is_neck else "what was lost"


def _facing_columns(worked: Worked) -> tuple[int, int]:
    """Return the columns of the crown that face lingual and facial."""
    around = worked.cavity.crown.axial.shape[1]
    return 3 * around // 4, around // 4


def _depth(worked: Worked, neck: Tool) -> list[Dimension]:
    """Return the depth, from where the surface stands halfway up to the deepest point, drawn below the lesion; of a pit for
    gold, which follows the junction, how far past that it is."""
    if neck.kind == "gold_pit":
        return _into_dentin(worked, neck)
    surface, deepest = worked.cavity.access.points_in_tooth(
        np.array([[0.0, 0.0, neck.floor_mm + neck.depth_mm], [0.0, 0.0, neck.floor_mm]])
    )[:, 1]
    z = worked.cavity.gingival_margin_mm(neck) - BELOW_MM
    return [dimension_of(worked, neck.index, "depth_mm", [surface, z], [deepest, z], "y")]


def _into_dentin(worked: Worked, pit: Tool) -> list[Dimension]:
    part = worked.case.preparation.parts[pit.index]
    assert isinstance(part, GoldPit)
    assert pit.spot
    x, y, floor = pit.spot
    ends = worked.cavity.access.points_in_tooth(
        np.array([[x, y, floor + part.into_dentin_mm], [x, y, floor]])
    )[:, 1:]
    axis: Literal["y", "z"] = "z" if part.face == "occlusal" else "y"
    return [dimension_of(worked, pit.index, "into_dentin_mm", ends[0].tolist(), ends[1].tolist(), axis)]


def _from_face(worked: Worked, tool: Tool) -> Sheet:
    """Return the tooth as it is seen from the face that it is entered from."""
    cavity = worked.cavity
    side: View = "above" if cavity.access.side == "occlusal" else cavity.access.side
    is_above = side == "above"
    # Where z of the tooth points in the frame of the access, whose third axis looks at the reader.
    up = 1.0 if is_above else cavity.access.axes[1][2]

    def seen(solid: Manifold) -> list[Ring]:
        return [ring * [1.0, up] for ring in from_above(solid)]

    crown = cavity.crown
    cervical = [[crown.outer_x_mm(s, z), z] for s, z in crown.cervical_mm.items()]
    line = [cervical[1], [0.0, 0.0], cervical[0]]
    return Sheet(
        view=side,
        title=f"from {cavity.access.side}",
        axes=["x", "y" if is_above else "z"],
        shapes=[
            shape_of("tooth", "tooth", "enamel", seen(cavity.outer.solid)),
            shape_of("cavity", "cavity", "air", seen(cavity.filling ^ tool.cut.solid)),
            *increment_shapes(worked, lambda solid: seen(cavity.access.turned(solid) ^ tool.cut.solid)),
        ],
        lines=[] if is_above else [shape_of("cervical", "line", "cervical", [line])],
        dimensions=_sizes(worked, tool),
        marks=[
            *weakest_marks(worked, (0, 1 if is_above else 2)),
            *amiss(worked, lambda p: [p.x, p.y if is_above else p.z]),
        ],
    )


def _sizes(worked: Worked, tool: Tool) -> list[Dimension]:
    """Return what is measured of a part as it is seen from its face."""
    x0, x1, y0, y1 = tool.floor
    ends = worked.cavity.access.points_in_tooth(np.array([[0.0, y, 0.0] for y in (y0, y1)]))[:, 2]
    low, high = float(ends.min()), float(ends.max())
    if tool.kind == "incisal_fracture":
        return _lost(worked, tool)
    if tool.kind == "gold_pit":
        return _of_pit(worked, tool)
    if tool.kind == "pit":
        below = low - BELOW_MM
        across = dimension_of(worked, tool.index, "diameter_mm", [x0, below], [x1, below], "x")
        return [across.model_copy(update={"both_ends": True})]
    beside = x1 + OFF_MM if tool.is_neck or tool.beside != ("mesial",) else x0 - OFF_MM / 2
    height = dimension_of(worked, tool.index, "height_mm", [beside, low], [beside, high], "z")
    if not tool.is_neck:
        return [height.model_copy(update={"both_ends": True})]
    below = low - BELOW_MM
    return [dimension_of(worked, tool.index, "width_mm", [x0, below], [x1, below], "x"), height]


def _of_pit(worked: Worked, pit: Tool) -> list[Dimension]:
    """Return width and height of a pit for gold: both grow about its middle."""
    x0, x1, y0, y1 = pit.floor
    up = 2 if worked.cavity.access.side != "occlusal" else 1
    ends = worked.cavity.access.points_in_tooth(np.array([[0.0, y, 0.0] for y in (y0, y1)]))[:, up]
    low, high = float(ends.min()), float(ends.max())
    beside, below = x1 + BESIDE_PIT_MM, low - BESIDE_PIT_MM
    axis: Literal["y", "z"] = "z" if up == 2 else "y"
    width = dimension_of(worked, pit.index, "width_mm", [x0, below], [x1, below], "x")
    height = dimension_of(worked, pit.index, "height_mm", [beside, low], [beside, high], axis)
    return [one.model_copy(update={"both_ends": True}) for one in (width, height)]


def _lost(worked: Worked, tool: Tool) -> list[Dimension]:
    """Return what is lost of the height at either end of the edge."""
    crown, part = worked.cavity.crown, worked.case.preparation.parts[tool.index]
    assert isinstance(part, IncisalFracture)
    dims = []
    for name, sign, by_mm in (("mesial_mm", 1, part.mesial_mm), ("distal_mm", -1, part.distal_mm)):
        if by_mm > 0:
            x, edge = sign * (crown.mesiodistal_mm / 2 + BELOW_MM), crown.height_mm
            dims.append(dimension_of(worked, tool.index, name, [x, edge], [x, edge - by_mm], "z"))
    return dims
