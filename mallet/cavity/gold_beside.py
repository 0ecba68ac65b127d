"""What direct gold asks of a cavity beside the contact that is entered from lingual: three starting points out of its axial
wall's angles, a bevel over the face, and how far that wall lies past the junction.

All stands in the frame of its access, whose z points lingually.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from manifold3d import CrossSection, Manifold
from numpy.typing import NDArray

from mallet.cavity.access import Access
from mallet.cavity.gold_pit import POINT_RADIUS_MM, Outline, bevel, point_hole
from mallet.cavity.measures import topmost_mm
from mallet.cavity.solids import Tagged
from mallet.cavity.tool import Tool
from mallet.terms.errors import InputError
from mallet.terms.parts import ProximalCavity

Floats = NDArray[np.float64]
BEVEL_DEG = 45.0
OPEN_MM = 2.0
STEP_MM = 0.05
# A point that is less deep holds nothing; how far gingivally and farther in a cavity is looked for that has dentin.
LEAST_POINT_MM, FARTHER_MM, MOST_BELOW_MM, MOST_FARTHER_MM = 0.3, 0.1, 3.5, 1.5
LEVELS = 9
# Where the points lie between the faces of the dentin: two gingival, as far apart as it lets them, one incisal.
PLACES = ((0.0, -1.0), (1.0, -1.0), (0.5, 1.0))


def toward_contact(tool: Tool) -> float:
    """Return which way along x the contact lies."""
    return 1.0 if "mesial" in tool.beside else -1.0


def axial_mm(tool: Tool) -> float:
    """Return where the axial wall of a cavity beside the contact lies (x)."""
    return tool.floor[0] if "mesial" in tool.beside else tool.floor[1]


def outline_beside(tool: Tool, access: Access, by_mm: float = 0.0) -> Outline:
    """Return the outline of such a cavity at its floor, its three walls moved outward; toward the contact it is open, past
    all of the tooth."""
    x0, x1, y0, y1 = tool.floor
    way, axial = toward_contact(tool), axial_mm(tool)
    ends = sorted((axial - way * by_mm, (x1 if way > 0 else x0) + way * OPEN_MM))
    low, high = y0 - by_mm, y1 + by_mm
    area = CrossSection([[(ends[0], low), (ends[1], low), (ends[1], high), (ends[0], high)]])
    middle = ((x0 + x1) / 2, (y0 + y1) / 2)
    return Outline(area, middle, access.toward((0.0, 0.0, 1.0))[1])


def held_beside(
    part: ProximalCavity,
    cutter: Callable[[ProximalCavity], Tool],
    outer: Manifold,
    dentin: Manifold,
    access: Access,
) -> list[Tagged]:
    """Return points and bevel of a cavity beside the contact, of which `cutter` gives the rest.

    Raises InputError where a point would leave the dentin: by its depth or, where none would do, by where it would.
    """
    slope, tool = math.tan(math.radians(part.wall_divergence_deg)), cutter(part)
    cuts = []
    if part.point_depth_mm:
        holes = _points(tool, dentin, access, slope, part.point_depth_mm)
        if holes is None:
            raise _no_dentin(part, cutter, dentin, access, slope)
        cuts += [point_hole(foot, way, part.point_depth_mm) for foot, way in holes]
    if wide := part.bevel_mm:
        at_face = outline_beside(tool, access, slope * part.faciolingual_mm)
        top = float(outer.bounding_box()[5]) + 1.0
        cuts += bevel(at_face, outer, top, wide, BEVEL_DEG, over_mm=tool.floor_mm)
    return cuts


def _no_dentin(
    part: ProximalCavity,
    cutter: Callable[[ProximalCavity], Tool],
    dentin: Manifold,
    access: Access,
    slope: float,
) -> InputError:
    """Return what would give the points dentin: less depth, a middle farther gingivally, or a cavity that reaches farther in."""
    tool, deep, below = cutter(part), part.point_depth_mm or 0.0, part.below_contact_mm or 0.0
    path = f"preparation.parts[{tool.index}]"
    for less in np.arange(deep - STEP_MM, LEAST_POINT_MM - STEP_MM / 2, -STEP_MM):
        if _points(tool, dentin, access, slope, float(less)):
            return InputError.at(f"{path}.point_depth_mm", deep, f"up to {less:.2f}: the dentin ends there")
    for name, given, most in (
        ("below_contact_mm", below, MOST_BELOW_MM),
        ("faciolingual_mm", part.faciolingual_mm, part.faciolingual_mm + MOST_FARTHER_MM),
    ):
        for more in np.arange(given + FARTHER_MM, most, FARTHER_MM):
            moved = part.model_copy(update={name: round(float(more), 1)})
            try:
                if _points(cutter(moved), dentin, access, slope, deep):
                    allowed = f"{more:.1f} or more: the points find no dentin here"
                    return InputError.at(f"{path}.{name}", given, allowed)
            except InputError:
                break
    return InputError.at(f"{path}.point_depth_mm", deep, "0: there is no dentin for points at this depth")


def nominal_beside_mm3(part: ProximalCavity) -> float:
    """Return the volume of points and bevel by plain figures."""
    points = len(PLACES) * math.pi * POINT_RADIUS_MM**2 * (part.point_depth_mm or 0.0) / 2
    wide = part.bevel_mm or 0.0
    along = part.height_mm + 2 * part.depth_mm
    return points + along * wide**2 * math.tan(math.radians(BEVEL_DEG)) / 2


def _points(
    tool: Tool, dentin: Manifold, access: Access, slope: float, deep_mm: float
) -> list[tuple[Floats, Floats]] | None:
    """Return the foot (3,) and the way (3,) of each point, None where one would leave the dentin."""
    _, _, y0, y1 = tool.floor
    inward, up = -toward_contact(tool), access.toward((0.0, 0.0, 1.0))[1]
    found = []
    for share, end in PLACES:
        wall, out = (y1, 1.0) if end * up > 0 else (y0, -1.0)
        way = np.array([inward, out, 0.0]) * math.sqrt(0.5)
        foot = np.array([axial_mm(tool), wall, tool.floor_mm])
        tip = foot + deep_mm * way
        low, high = topmost_mm(dentin, tip[None, :2])[0]
        low, high = max(low, tool.floor_mm) + POINT_RADIUS_MM, high - POINT_RADIUS_MM
        if not low <= high:
            return None
        foot[2] = low + share * (high - low)
        foot[1] += out * slope * (foot[2] - tool.floor_mm)
        found.append((foot, way))
    return found


def into_dentin_mm(tool: Tool, dentin: Manifold) -> float:
    """Return how far the axial wall of a cavity beside the contact lies past the junction halfway up, where farthest; less
    than nothing where all of it lies in enamel."""
    assert tool.spot
    _, y, z = tool.spot
    way = toward_contact(tool)
    # The contact turned up.
    turned = np.array([[0.0, way, 0.0], [0.0, 0.0, 1.0], [way, 0.0, 0.0]])
    levels = np.linspace(tool.floor_mm, 2 * z - tool.floor_mm, LEVELS)
    places = np.column_stack([np.full(LEVELS, way * y), levels])
    junction = topmost_mm(dentin.transform(np.column_stack([turned, np.zeros(3)])), places)[:, 1]
    axial = way * axial_mm(tool)
    return float(np.nanmax(np.append(junction, axial - tool.depth_mm)) - axial)
