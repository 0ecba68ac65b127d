"""Boxes of the preparation as cutters: what depth, height and width of a case mean on the crown."""

from __future__ import annotations

import math

from mallet.cavity.solids import frustum
from mallet.cavity.tool import Slopes, Tool
from mallet.terms.errors import InputError
from mallet.terms.parts import OcclusalBox, ProximalBox, Side, Wall, Walled
from mallet.tooth import Crown

SIGN: dict[str, float] = {"mesial": 1.0, "distal": -1.0}
OVERRUN_MM = 3.0
# An occlusal box that may not even be this deep is not what is wrong.
LEAST_ROOM_MM = 0.5
LEAST_OPENING_MM = 0.4


def box_tool(index: int, part: ProximalBox, crown: Crown) -> Tool:
    """Return the cutter of a proximal box; raise InputError where it would leave the tooth."""
    path = f"preparation.parts[{index}]"
    sign = SIGN[part.side]
    axial_k, facial_k, lingual_k = (_slope(part, wall) for wall in ("axial", "facial", "lingual"))
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
    spots = [(axial, floor, 0.0), (axial, crown.rim_mm, crown.rim_mm - floor)]
    _check_width(path, part.width_mm, max(facial_k, lingual_k), crown, spots)
    _check_open(path, part, part.width_mm, ("facial", "lingual"), part.height_mm)
    beyond = outer + sign * OVERRUN_MM
    x0, x1 = sorted((axial, beyond))
    half = part.width_mm / 2
    ends = (axial_k, 0.0) if sign > 0 else (0.0, axial_k)
    slopes = (*ends, lingual_k, facial_k)
    top = crown.height_mm + 1.0
    cut = frustum((x0, x1, -half, half), floor, top, slopes)
    d, w, h = part.axial_depth_mm, part.width_mm, part.height_mm
    nominal = _opening_mm3(d, axial_k, w, facial_k + lingual_k, h)
    bounds = (x0, x1, -half, half)
    return Tool(index, part.kind, part.side, cut, nominal, floor, bounds, slopes, margin_in=part.margin_in)


def occlusal_tool(
    index: int, part: OcclusalBox, crown: Crown, boxes: list[Tool]
) -> tuple[Tool, tuple[float, float] | None]:
    """Return the cutter of an occlusal box, and its length with the given one where two boxes bound it; raise
    InputError where it would leave the tooth."""
    path = f"preparation.parts[{index}]"
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
    distal_k, mesial_k, lingual_k, facial_k = slopes = _slopes(part)
    _check_width(path, part.width_mm, max(facial_k, lingual_k), crown, inside)
    _check_open(path, part, part.width_mm, ("facial", "lingual"), part.depth_mm)
    _check_open(path, part, part.length_mm, ("mesial", "distal"), part.depth_mm)
    nominal = _opening_mm3(
        part.length_mm, mesial_k + distal_k, part.width_mm, facial_k + lingual_k, part.depth_mm
    )
    # A hand's breadth into the box keeps the two cutters from merely touching.
    reach0 = x0 - (0.2 if _box_at(boxes, "distal") else 0.0)
    reach1 = x1 + (0.2 if _box_at(boxes, "mesial") else 0.0)
    half = part.width_mm / 2
    cut = frustum((reach0, reach1, -half, half), floor, crown.height_mm + 1.0, slopes)
    length = part.length_mm
    spans = (x1 - x0, length) if len(boxes) == 2 and abs(x1 - x0 - length) > 0.1 else None
    return Tool(index, part.kind, None, cut, nominal, floor, (x0, x1, -half, half), slopes), spans


def _slope(part: Walled, wall: Wall) -> float:
    """Return how far a wall moves outward a mm of height."""
    return math.tan(math.radians(part.wall_deg(wall)))


def _slopes(part: OcclusalBox) -> Slopes:
    return (_slope(part, "distal"), _slope(part, "mesial"), _slope(part, "lingual"), _slope(part, "facial"))


def _opening_mm3(a: float, a_slope: float, b: float, b_slope: float, h: float) -> float:
    """Return the volume of a box of length a and width b (mm) at its floor, which grow by so much a mm of its height."""
    return a * b * h + (a * b_slope + b * a_slope) * h**2 / 2 + a_slope * b_slope * h**3 / 3


def _box_at(boxes: list[Tool], side: Side) -> Tool | None:
    return next((b for b in boxes if b.side == side), None)


def axial_wall_mm(box: Tool, z_mm: float) -> float:
    """Return the x of a proximal box's axial wall at a height."""
    at = 0 if box.side == "mesial" else 1
    into = box.slopes[at] * (z_mm - box.floor_mm)
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


def _check_open(path: str, part: Walled, floor_mm: float, walls: tuple[Wall, Wall], height: float) -> None:
    """Refuse two walls that meet below the surface, by the angle of the one that leans in most."""
    in_most, other = sorted(walls, key=part.wall_deg)
    if floor_mm + (_slope(part, in_most) + _slope(part, other)) * height >= LEAST_OPENING_MM:
        return
    field = part.wall_path(in_most)
    same = field == part.wall_path(other)
    slope = (LEAST_OPENING_MM - floor_mm) / height
    least = math.degrees(math.atan(slope / 2 if same else slope - _slope(part, other)))
    raise InputError.at(f"{path}.{field}", part.wall_deg(in_most), f"{least:.1f} or more: the walls meet")
