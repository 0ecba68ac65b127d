"""The drawing of what is entered from a face: a section through it, and the tooth as it is seen from that face
(`facial` or `lingual`; x, z).

The section is faciolingual (`through`; y, z), and of a cavity beside the contact level (`level`; x, y).
"""

from __future__ import annotations

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
    Sheet,
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
from mallet.terms.parts import IncisalFracture, ProximalCavity

NEAR_MM = 0.8
OFF_MM = 1.4
BELOW_MM = 0.5


def face_sheets(worked: Worked, tool: Tool, rules: Rulebook) -> list[Sheet]:
    """Return the two views of a part that is entered from a face."""
    section = _level if tool.kind == "proximal_cavity" else _through
    sheets = [section(worked, tool, rules), _from_face(worked, tool)]
    if notch := notch_dimensions(worked):
        sheets.append(_from_behind(worked, notch))
    return sheets


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
        title=f"faciolingual section through {'the lesion' if tool.is_neck else 'what was lost'}",
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
    spot = worked.cavity.access.points_in_tooth(np.array([tool.spot]))[0]
    surface = worked.cavity.crown.outer_x_mm(part.side, z)
    axial = surface - SIGN[part.side] * part.depth_mm
    top, floor = worked.cavity.access.points_in_tooth(
        np.array([[0.0, 0.0, tool.floor_mm + part.faciolingual_mm], [0.0, 0.0, tool.floor_mm]])
    )[:, 1]
    inside = axial - SIGN[part.side] * BELOW_MM
    beyond = floor + (floor - top) / abs(floor - top) * BELOW_MM
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
            dimension_of(worked, tool.index, "faciolingual_mm", [inside, top], [inside, floor], "y"),
            dimension_of(worked, tool.index, "depth_mm", [surface, beyond], [axial, beyond], "x"),
        ],
        marks=[
            *weakest_marks(worked, (0, 1)),
            *tip_marks(worked, 0),
            Mark(id="tooth", text=worked.cavity.tooth.iso, at=rounded([0.0, float(spot[1])])),
            *amiss(worked, lambda p: [p.x, p.y] if abs(p.z - z) < NEAR_MM else None),
        ],
    )


def _facing_columns(worked: Worked) -> tuple[int, int]:
    """Return the columns of the crown that face lingual and facial."""
    around = worked.cavity.crown.axial.shape[1]
    return 3 * around // 4, around // 4


def _depth(worked: Worked, neck: Tool) -> list[Dimension]:
    """Return the depth, from where the surface stands halfway up to the deepest point, drawn below the lesion."""
    surface, deepest = worked.cavity.access.points_in_tooth(
        np.array([[0.0, 0.0, neck.floor_mm + neck.depth_mm], [0.0, 0.0, neck.floor_mm]])
    )[:, 1]
    z = worked.cavity.gingival_margin_mm(neck) - BELOW_MM
    return [dimension_of(worked, neck.index, "depth_mm", [surface, z], [deepest, z], "y")]


def _from_face(worked: Worked, tool: Tool) -> Sheet:
    """Return the tooth as it is seen from the face that it is entered from."""
    cavity = worked.cavity
    side: Literal["facial", "lingual"] = "lingual" if cavity.access.side == "lingual" else "facial"
    # Where z of the tooth points in the frame of the access, whose third axis looks at the reader.
    up = cavity.access.axes[1][2]

    def seen(solid: Manifold) -> list[Ring]:
        return [ring * [1.0, up] for ring in from_above(solid)]

    crown = cavity.crown
    cervical = [[crown.outer_x_mm(s, z), z] for s, z in crown.cervical_mm.items()]
    line = [cervical[1], [0.0, 0.0], cervical[0]]
    return Sheet(
        view=side,
        title=f"from {side}",
        axes=["x", "z"],
        shapes=[
            shape_of("tooth", "tooth", "enamel", seen(cavity.outer.solid)),
            shape_of("cavity", "cavity", "air", seen(cavity.filling ^ tool.cut.solid)),
            *increment_shapes(worked, lambda solid: seen(cavity.access.turned(solid) ^ tool.cut.solid)),
        ],
        lines=[shape_of("cervical", "line", "cervical", [line])],
        dimensions=_sizes(worked, tool),
        marks=[*weakest_marks(worked, (0, 2)), *amiss(worked, lambda p: [p.x, p.z])],
    )


def _sizes(worked: Worked, tool: Tool) -> list[Dimension]:
    """Return what is measured of a part as it is seen from its face."""
    x0, x1, y0, y1 = tool.floor
    ends = worked.cavity.access.points_in_tooth(np.array([[0.0, y, 0.0] for y in (y0, y1)]))[:, 2]
    low, high = float(ends.min()), float(ends.max())
    if tool.kind == "incisal_fracture":
        return _lost(worked, tool)
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
