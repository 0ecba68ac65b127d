"""The drawing of a neck lesion: the faciolingual section through it (`neck`; y, z), and the tooth as it is seen
from the face that it lies in (`facial` or `lingual`; x, z)."""

from __future__ import annotations

from typing import Literal

import numpy as np
from manifold3d import Manifold

from mallet.cavity.sections import Ring, crosswise_section, from_above
from mallet.cavity.tool import Tool
from mallet.plan import Worked
from mallet.rulebook import Rulebook
from mallet.sheets import (
    Dimension,
    Mark,
    Sheet,
    amiss,
    base_shapes,
    dimension_of,
    increment_shapes,
    outline_of,
    shape_of,
    tip_marks,
    tooth_shapes,
    weakest_mark,
)

NEAR_MM = 0.8
OFF_MM = 1.4
BELOW_MM = 0.5


def neck_sheets(worked: Worked, rules: Rulebook) -> list[Sheet]:
    """Return the two views of a neck lesion."""
    return [_through(worked, rules), _from_face(worked)]


def _through(worked: Worked, rules: Rulebook) -> Sheet:
    def cut(solid: Manifold, within: Manifold | None = None) -> list[Ring]:
        return crosswise_section(solid, 0.0, within)

    ends = [float(worked.cavity.crown.outline(0.0)[at, 1]) for at in _facing_columns(worked)]
    cervical = shape_of("cervical", "line", "cervical", [[[y, 0.0] for y in ends]])
    return Sheet(
        view="neck",
        title="faciolingual section through the lesion",
        axes=["y", "z"],
        shapes=[
            *tooth_shapes(worked, cut, rules),
            *base_shapes(worked, cut),
            *increment_shapes(worked, cut),
        ],
        lines=[cervical, outline_of(worked, cut)],
        dimensions=[d for neck in worked.cavity.necks for d in _depth(worked, neck)],
        marks=[
            weakest_mark(worked, (1, 2)),
            *tip_marks(worked, 1),
            Mark(id="tooth", text=worked.cavity.tooth.iso, at=[0.0, -1.2]),
            *amiss(worked, lambda p: [p.y, p.z] if abs(p.x) < NEAR_MM else None),
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


def _from_face(worked: Worked) -> Sheet:
    """Return the tooth as it is seen from the face that its lesion lies in."""
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
            shape_of("cavity", "cavity", "air", seen(cavity.filling)),
            *increment_shapes(worked, lambda solid: seen(cavity.access.turned(solid))),
        ],
        lines=[shape_of("cervical", "line", "cervical", [line])],
        dimensions=[d for neck in cavity.necks for d in _sizes(worked, neck)],
        marks=[weakest_mark(worked, (0, 2)), *amiss(worked, lambda p: [p.x, p.z])],
    )


def _sizes(worked: Worked, neck: Tool) -> list[Dimension]:
    x0, x1, y0, y1 = neck.floor
    low = worked.cavity.gingival_margin_mm(neck)
    high = low + (y1 - y0)
    below, beside = low - BELOW_MM, x1 + OFF_MM
    return [
        dimension_of(worked, neck.index, "width_mm", [x0, below], [x1, below], "x"),
        dimension_of(worked, neck.index, "height_mm", [beside, low], [beside, high], "z"),
    ]
