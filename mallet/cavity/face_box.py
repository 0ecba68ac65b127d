"""A box in the facial or lingual face as a cut, open to the cavity inward and to occlusal."""

from __future__ import annotations

import math

import numpy as np
from manifold3d import Manifold, OpType
from numpy.typing import NDArray

from mallet.cavity.rods import rod
from mallet.cavity.solids import Tagged, frustum
from mallet.cavity.tool import Tool
from mallet.terms.errors import InputError
from mallet.terms.parts import FaceBox
from mallet.tooth import Crown

Floats = NDArray[np.float64]
TOWARD = {"facial": 1.0, "lingual": -1.0}
OVERRUN_MM = 3.0
HAIR_MM = 1e-3
# A groove as a small round bur leaves it: half of it in the wall.
GROOVE_MM, GROOVE_HIGH_MM = 0.4, 1.8
# Its floor lies at least so far below the pulpal floor.
LEAST_STEP_MM = 0.3
# It opens into the cavity by more than a touch.
OPEN_MM3 = 0.01


def face_box_cutter(
    index: int, part: FaceBox, crown: Crown, outer: Manifold, left: Manifold, occlusal: Tool | None
) -> tuple[Tagged, float, tuple[float, float, float]]:
    """Return the cut, its nominal volume (mm3) and the middle of its gingival floor; `left` is the tooth as cut before. Over
    the pulpal floor it goes on inward, as wide, into the occlusal box.

    Raises InputError where it has no room on its face, or does not open into the cavity.
    """
    path, toward = f"preparation.parts[{index}]", TOWARD[part.face]
    floor, top = part.above_cej_mm, crown.height_mm + 1.0
    lowest = float(crown.axial[0, 0, 2]) + 1.0
    highest = occlusal.floor_mm - LEAST_STEP_MM if occlusal else crown.rim_mm - LEAST_STEP_MM
    if not lowest <= floor <= highest:
        allowed = f"{lowest:.1f} to {highest:.1f}: its floor lies below the pulpal floor"
        raise InputError.at(f"{path}.above_cej_mm", floor, allowed)
    x0, x1 = part.at_mm - part.width_mm / 2, part.at_mm + part.width_mm / 2
    face, *ends = (_face_mm(crown, floor, x, toward) for x in (part.at_mm, x0, x1))
    if any(math.isnan(end) for end in ends):
        raise InputError.at(f"{path}.width_mm", part.width_mm, "less: the face ends before it")
    axial = face - toward * part.axial_depth_mm
    if axial * toward <= 0:
        allowed = f"up to {abs(face):.1f}, the middle of the tooth"
        raise InputError.at(f"{path}.axial_depth_mm", part.axial_depth_mm, allowed)
    slope = math.tan(math.radians(part.wall_divergence_deg))
    walls, beyond = (slope, slope, 0.0, 0.0), face + toward * OVERRUN_MM
    low, high = sorted((axial, beyond))
    solids = [frustum((x0, x1, low, high), floor, top, walls).solid]
    if occlusal:
        low, high = sorted((0.0, beyond))
        solids.append(frustum((x0, x1, low, high), occlusal.floor_mm, top, walls).solid)
    if ((outer - left) ^ Manifold.batch_boolean(solids, OpType.Add)).volume() < OPEN_MM3:
        raise InputError.at(f"{path}.at_mm", part.at_mm, "a place where it opens into the cavity")
    if part.grooves == "both":
        solids += _grooves(part, (x0, x1), axial, toward, floor)
    whole = Manifold.batch_boolean(solids, OpType.Add).as_original()
    height = highest + LEAST_STEP_MM - floor
    nominal = part.axial_depth_mm * height * (part.width_mm + slope * height)
    mouth = (part.at_mm, (axial + face) / 2, floor)
    return Tagged(whole, whole.original_id()), nominal, mouth


def _face_mm(crown: Crown, z_mm: float, x_mm: float, toward: float) -> float:
    """Return where a face lies at a place along the tooth; NaN beyond its ends."""
    ring = np.asarray(crown.outline(z_mm), dtype=np.float64)
    half = ring[ring[:, 1] * toward >= -HAIR_MM]
    order = np.argsort(half[:, 0])
    return float(np.interp(x_mm, half[order, 0], half[order, 1], math.nan, math.nan))


def _grooves(
    part: FaceBox, ends: tuple[float, float], axial: float, toward: float, floor: float
) -> list[Manifold]:
    """Return grooves along the line angles of the axial wall with the mesial and the distal one."""
    slope = math.tan(math.radians(part.wall_divergence_deg))
    y = axial + toward * GROOVE_MM
    rods = []
    for x, way in ((ends[0], -1.0), (ends[1], 1.0)):
        low = np.array([x, y, floor - HAIR_MM])
        high = np.array([x + way * slope * GROOVE_HIGH_MM, y, floor + GROOVE_HIGH_MM])
        rods.append(rod(low, high, GROOVE_MM).solid)
    return rods
