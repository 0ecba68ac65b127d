"""A tunnel from the occlusal surface to a lesion beside the contact, under a marginal ridge that stays."""

from __future__ import annotations

import math

import numpy as np
from manifold3d import Manifold

from mallet.cavity.boxes import SIGN
from mallet.cavity.measures import vertical_at_mm
from mallet.cavity.rods import rod
from mallet.cavity.tool import Tool
from mallet.terms.errors import InputError
from mallet.terms.parts import Tunnel
from mallet.tooth import Crown

OVERRUN_MM = 2.0


def tunnel_tool(index: int, part: Tunnel, crown: Crown, outer: Manifold) -> Tool:
    """Return the cutter of a tunnel; raise InputError where it would not come out under the ridge."""
    path, sign = f"preparation.parts[{index}]", SIGN[part.side]
    ridge, radius = crown.ridge_mm(part.side), part.diameter_mm / 2
    opens_z = ridge - part.below_ridge_mm - radius
    if opens_z - radius < 0:
        allowed = f"up to {ridge - part.diameter_mm:.1f}: it opens above the cementoenamel junction"
        raise InputError.at(f"{path}.below_ridge_mm", part.below_ridge_mm, allowed)
    surface = crown.outer_x_mm(part.side, opens_z)
    widest = crown.outer_x_mm(part.side, crown.contact_mm[part.side])
    enters_x = widest - sign * part.inset_mm
    if sign * enters_x < radius - crown.mesiodistal_mm / 4:
        allowed = f"up to {sign * widest + crown.mesiodistal_mm / 4 - radius:.1f}: its fossa ends there"
        raise InputError.at(f"{path}.inset_mm", part.inset_mm, allowed)
    start = np.array([enters_x, 0.0, vertical_at_mm(outer, enters_x, 0.0)[1]])
    end = np.array([surface, 0.0, opens_z])
    way = end - start
    length = float(np.linalg.norm(way))
    if way[2] >= 0:
        raise InputError.at(f"{path}.below_ridge_mm", part.below_ridge_mm, "more: it falls to the contact")
    along = way / length
    cut = rod(start - OVERRUN_MM * along, end + OVERRUN_MM * along, radius)
    middle = (start + end) / 2
    x0, x1 = sorted((enters_x, surface))
    return Tool(
        index=index,
        kind=part.kind,
        side=None,
        cut=cut,
        nominal_volume_mm3=math.pi * radius**2 * length,
        floor_mm=float(middle[2] - radius),
        floor=(x0, x1, -radius, radius),
        under=part.side,
        opens_mm=opens_z - radius,
        leans_deg=math.degrees(math.acos(-float(along[2]))),
    )
