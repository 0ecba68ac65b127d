"""Boxes of the preparation as cutters: what depth, height and width of a case mean on the crown."""

from __future__ import annotations

import math

from mallet.cavity.solids import frustum
from mallet.cavity.tool import Tool
from mallet.terms.errors import InputError
from mallet.terms.parts import OcclusalBox, ProximalBox, Side
from mallet.tooth import Crown

SIGN: dict[str, float] = {"mesial": 1.0, "distal": -1.0}
OVERRUN_MM = 3.0
# An occlusal box that may not even be this deep is not what is wrong.
LEAST_ROOM_MM = 0.5


def box_tool(index: int, part: ProximalBox, crown: Crown) -> Tool:
    """Return the cutter of a proximal box; raise InputError where it would leave the tooth."""
    path = f"preparation.parts[{index}]"
    sign = SIGN[part.side]
    k = math.tan(math.radians(part.wall_divergence_deg))
    ridge = crown.ridge_mm(part.side)
    floor = ridge - part.height_mm
    deepest = float(crown.axial[0, 0, 2]) + 1.0
    if floor < deepest:
        raise InputError.at(f"{path}.height_mm", part.height_mm, f"up to {ridge - deepest:.1f}")
    outer = crown.outer_x_mm(part.side, floor)
    axial = outer - sign * part.axial_depth_mm
    if sign * axial <= 0:
        allowed = f"up to {sign * outer:.1f}, the middle of the tooth"
        raise InputError.at(f"{path}.axial_depth_mm", part.axial_depth_mm, allowed)
    _check_width(
        path, part.width_mm, k, crown, [(axial, floor, 0.0), (axial, crown.rim_mm, crown.rim_mm - floor)]
    )
    _check_open(path, part.width_mm, k, part.height_mm)
    beyond = outer + sign * OVERRUN_MM
    x0, x1 = sorted((axial, beyond))
    half = part.width_mm / 2
    slopes = (k, 0.0, k, k) if sign > 0 else (0.0, k, k, k)
    top = crown.height_mm + 1.0
    cut = frustum((x0, x1, -half, half), floor, top, slopes)
    d, w, h = part.axial_depth_mm, part.width_mm, part.height_mm
    nominal = d * w * h + k * h**2 / 2 * (2 * d + w) + 2 * k**2 * h**3 / 3
    bounds = (x0, x1, -half, half)
    return Tool(index, part.kind, part.side, cut, nominal, floor, bounds, k, margin_in=part.margin_in)


def occlusal_tool(
    index: int, part: OcclusalBox, crown: Crown, boxes: list[Tool]
) -> tuple[Tool, tuple[float, float] | None]:
    """Return the cutter of an occlusal box, and its length with the given one where two boxes bound it; raise
    InputError where it would leave the tooth."""
    path = f"preparation.parts[{index}]"
    k = math.tan(math.radians(part.wall_divergence_deg))
    half_length = part.length_mm / 2
    floor = crown.groove_mm(-half_length, half_length) - part.depth_mm
    # The floor's height depends on where the box lies, and that on the floor's height: twice is enough.
    for _ in range(2):
        x0, x1 = _occlusal_ends(part.length_mm, floor, boxes)
        floor = crown.groove_mm(x0, x1) - part.depth_mm
    highest = max(boxes, key=lambda b: b.floor_mm, default=None)
    if highest and floor <= highest.floor_mm + 0.05:
        raise _floors_meet(path, part, floor, highest, crown)
    _check_length(path, part.length_mm, x0, x1, floor, crown, boxes)
    spots = [(x, z, h) for x in (x0, x1) for z, h in ((floor, 0.0), (crown.rim_mm, crown.rim_mm - floor))]
    inside = [s for s in spots if crown.half_breadth_mm(s[0], s[1]) > 0]
    _check_width(path, part.width_mm, k, crown, inside)
    _check_open(path, min(part.width_mm, part.length_mm), k, part.depth_mm)
    a, b, h = part.length_mm, part.width_mm, part.depth_mm
    nominal = a * b * h + k * (a + b) * h**2 + 4 * k**2 * h**3 / 3
    # A hand's breadth into the box keeps the two cutters from merely touching.
    reach0 = x0 - (0.2 if _box_at(boxes, "distal") else 0.0)
    reach1 = x1 + (0.2 if _box_at(boxes, "mesial") else 0.0)
    half = part.width_mm / 2
    cut = frustum((reach0, reach1, -half, half), floor, crown.height_mm + 1.0, (k, k, k, k))
    spans = (x1 - x0, a) if len(boxes) == 2 and abs(x1 - x0 - a) > 0.1 else None
    return Tool(index, part.kind, None, cut, nominal, floor, (x0, x1, -half, half), k), spans


def _box_at(boxes: list[Tool], side: Side) -> Tool | None:
    return next((b for b in boxes if b.side == side), None)


def axial_wall_mm(box: Tool, z_mm: float) -> float:
    """Return the x of a proximal box's axial wall at a height."""
    into = box.slope * (z_mm - box.floor_mm)
    return box.floor[0] - into if box.side == "mesial" else box.floor[1] + into


def _floors_meet(path: str, part: OcclusalBox, floor: float, box: Tool, crown: Crown) -> InputError:
    """Return what is wrong where the pulpal floor does not lie above the gingival floor: the depth or, where
    no depth would do, the height of the box."""
    why = "the pulpal floor lies above the gingival floor"
    room = part.depth_mm + floor - box.floor_mm
    if room >= LEAST_ROOM_MM:
        return InputError.at(f"{path}.depth_mm", part.depth_mm, f"less than {room:.1f}: {why}")
    assert box.side
    height = crown.ridge_mm(box.side) - box.floor_mm
    least = height + box.floor_mm - floor
    return InputError.at(
        f"preparation.parts[{box.index}].height_mm", round(height, 3), f"more than {least:.1f}: {why}"
    )


def _occlusal_ends(length: float, floor: float, boxes: list[Tool]) -> tuple[float, float]:
    mesial, distal = _box_at(boxes, "mesial"), _box_at(boxes, "distal")
    if mesial and distal:
        return axial_wall_mm(distal, floor), axial_wall_mm(mesial, floor)
    if mesial:
        end = axial_wall_mm(mesial, floor)
        return end - length, end
    if distal:
        end = axial_wall_mm(distal, floor)
        return end, end + length
    return -length / 2, length / 2


def _check_length(path: str, length: float, x0: float, x1: float, floor: float, crown: Crown, boxes: list[Tool]) -> None:  # fmt: skip
    room0 = x0 - crown.outer_x_mm("distal", floor)
    room1 = crown.outer_x_mm("mesial", floor) - x1
    free = [room for room, side in ((room0, "distal"), (room1, "mesial")) if not _has(boxes, side)]
    if free and min(free) < 0.5:
        spare = (min(free) - 0.5) * (2 if len(free) == 2 else 1)
        raise InputError.at(f"{path}.length_mm", length, f"up to {length + spare:.1f} within the tooth")


def _has(boxes: list[Tool], side: str) -> bool:
    return any(b.side == side for b in boxes)


def _check_width(path: str, width: float, k: float, crown: Crown, spots: list[tuple[float, float, float]]) -> None:  # fmt: skip
    """Refuse a box whose walls leave the tooth at a spot (x, z, height above the floor)."""
    widest = min(2 * (crown.half_breadth_mm(x, z) - 0.3 - k * h) for x, z, h in spots) if spots else 0
    if width > widest:
        allowed = f"0.5 to {max(widest, 0.5):.1f}, the width of the tooth there"
        raise InputError.at(f"{path}.width_mm", width, allowed)


def _check_open(path: str, least_mm: float, k: float, height: float) -> None:
    if least_mm + 2 * k * height < 0.4:
        steepest = math.degrees(math.atan((0.4 - least_mm) / (2 * height)))
        got = math.degrees(math.atan(k))
        raise InputError.at(f"{path}.wall_divergence_deg", got, f"{steepest:.1f} or more: the walls meet")
