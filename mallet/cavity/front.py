"""What is cut or lost of anterior teeth: a cavity beside the contact, and all above the plane of a fracture."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from manifold3d import Manifold, OpType

from mallet.cavity.access import Access
from mallet.cavity.boxes import OVERRUN_MM, SIGN
from mallet.cavity.gold_beside import held_beside, nominal_beside_mm3
from mallet.cavity.measures import vertical_at_mm
from mallet.cavity.solids import Tagged, frustum, half_space
from mallet.cavity.tool import Slopes, Tool
from mallet.terms.errors import InputError
from mallet.terms.parts import IncisalFracture, ProximalCavity, Side
from mallet.tooth import Crown

LEAST_WALL_MM = 0.3
OFF_PLANE_MM = 0.05
# How wide a flute of a star is where it begins, over the way from one to the next, and how deep.
FLUTE_SHARE, FLUTE_DEEP_MM = 0.8, 0.4


def proximal_tool(
    index: int, part: ProximalCavity, crown: Crown, outer: Manifold, dentin: Manifold, access: Access
) -> Tool:
    """Return the cutter of a cavity beside the contact, in a tooth that stands in the frame of its access.

    Raises InputError where it would pass the middle of the tooth or go right through it unasked, or a point would leave dentin.
    """

    def cutter(one: ProximalCavity) -> Tool:
        return _box_beside(index, one, crown, outer, access)

    tool, held = cutter(part), held_beside(part, cutter, outer, dentin, access)
    if not held:
        return tool
    solid = Manifold.batch_boolean([tool.cut.solid, *(cut.solid for cut in held)], OpType.Add).as_original()
    return replace(
        tool,
        cut=Tagged(solid, solid.original_id()),
        nominal_volume_mm3=tool.nominal_volume_mm3 + nominal_beside_mm3(part),
    )


def _box_beside(index: int, part: ProximalCavity, crown: Crown, outer: Manifold, access: Access) -> Tool:
    path = f"preparation.parts[{index}]"
    sign, k = SIGN[part.side], math.tan(math.radians(part.wall_divergence_deg))
    z = crown.contact_mm[part.side] - (part.below_contact_mm or 0.0)
    _, y, _ = access.toward((0.0, 0.0, z))
    surface_x = crown.outer_x_mm(part.side, z)
    axial = surface_x - sign * part.depth_mm
    if sign * axial <= 0:
        allowed = f"up to {sign * surface_x:.1f}, the middle of the tooth"
        raise InputError.at(f"{path}.depth_mm", part.depth_mm, allowed)
    low, high = vertical_at_mm(outer, axial, y)
    most = high - low - LEAST_WALL_MM
    if part.faciolingual_mm > most and not part.through:
        allowed = f"up to {most:.1f}: a wall stays on the other face, unless it goes through"
        raise InputError.at(f"{path}.faciolingual_mm", part.faciolingual_mm, allowed)
    depth = high - low if part.through else part.faciolingual_mm
    floor, half = high - depth, part.height_mm / 2
    top_z = crown.height_mm - LEAST_WALL_MM
    if z + half > top_z:
        allowed = f"up to {2 * (top_z - z):.1f}: an edge stays over it"
        raise InputError.at(f"{path}.height_mm", part.height_mm, allowed)
    x0, x1 = sorted((axial, surface_x + sign * OVERRUN_MM))
    slopes: Slopes = (k, 0.0, k, k) if sign > 0 else (0.0, k, k, k)
    reach = float(outer.bounding_box()[5]) + 1.0
    d, w, h = part.depth_mm, part.height_mm, depth
    # Walls diverge from where the other face lies, and go on beyond it.
    bottom = float(outer.bounding_box()[2]) - 1.0 if part.through else floor
    return Tool(
        index=index,
        kind=part.kind,
        side=None,
        cut=frustum((x0, x1, y - half, y + half), bottom, reach, slopes),
        nominal_volume_mm3=d * w * h + k * h**2 / 2 * (2 * d + w) + 2 * k**2 * h**3 / 3,
        floor_mm=floor,
        floor=(*sorted((axial, surface_x)), y - half, y + half),  # type: ignore[arg-type]
        slopes=slopes,
        depth_mm=part.depth_mm,
        spot=(axial + sign * OFF_PLANE_MM, y, (floor + high) / 2),
        beside=(part.side,),
        is_through=part.through,
    )


def fracture_tool(index: int, part: IncisalFracture, crown: Crown, outer: Manifold, access: Access) -> Tool:
    """Return what lies above the plane of a fracture, in a tooth that stands in the frame of its access.

    Raises InputError where nothing is lost, or where the plane would leave the crown.
    """
    path = f"preparation.parts[{index}]"
    half, edge = crown.mesiodistal_mm / 2, crown.height_mm
    ends: tuple[tuple[Side, float], ...] = (("mesial", part.mesial_mm), ("distal", part.distal_mm))
    lean = (part.distal_mm - part.mesial_mm) / (2 * half)
    fall = math.tan(math.radians(part.facial_fall_deg))
    _, y_edge, _ = crown.centre
    middle = edge - (part.mesial_mm + part.distal_mm) / 2
    at = np.array(access.toward((0.0, float(y_edge), middle)))
    down = np.array(access.toward((lean, -fall, -1.0)))
    cut = half_space(at, down)
    if part.bevel_mm:
        plain = part.bevel_mm / 2 if part.bevel_points else part.bevel_mm
        cut = _beveled(cut, plain, part.bevel_deg, outer, at, down)
        if part.bevel_points:
            cut = _starred(cut, part.bevel_mm, part.bevel_points, outer, at, down)
    lost = outer ^ cut.solid
    if lost.is_empty():
        raise InputError.at(f"{path}.mesial_mm", part.mesial_mm, "so much that something of the edge is lost")
    if access.in_tooth(lost).bounding_box()[2] < 0:
        allowed = "so little that the crown is left above the cementoenamel junction"
        name = "mesial_mm" if part.mesial_mm >= part.distal_mm else "distal_mm"
        raise InputError.at(f"{path}.{name}", getattr(part, name), allowed)
    x0, y0, low, x1, y1, _ = lost.bounding_box()
    spot = _middle_of(lost, at, down)
    return Tool(
        index=index,
        kind=part.kind,
        side=None,
        cut=cut,
        nominal_volume_mm3=lost.volume(),
        floor_mm=low,
        floor=(x0, x1, y0, y1),
        spot=spot,
        beside=tuple(side for side, by in ends if by > edge - crown.contact_mm[side]),
    )


def _beveled(
    cut: Tagged, bevel_mm: float, bevel_deg: float, outer: Manifold, at: np.ndarray, down: np.ndarray
) -> Tagged:
    """Return what is lost with what a facial bevel takes besides: all above a plane that leaves the face below the
    fracture and slopes into it."""
    x, y, _ = at
    up, face = -down / np.linalg.norm(down), np.array([0.0, 0.0, 1.0])
    # Where the fracture meets the face, in the middle of the tooth, and so far below it.
    margin = np.array([x, y, vertical_at_mm(outer, x, y)[1]]) - bevel_mm * up
    margin[2] = vertical_at_mm(outer, margin[0], margin[1])[1]
    angle = math.radians(bevel_deg)
    normal = math.cos(angle) * face + math.sin(angle) * up
    solid = (cut.solid + half_space(margin, -normal).solid).as_original()
    return Tagged(solid, solid.original_id())


def _starred(
    cut: Tagged, reach_mm: float, points: int, outer: Manifold, at: np.ndarray, down: np.ndarray
) -> Tagged:
    """Return a beveled cut with the points of a star: flutes down the face, deepest where the bevel begins, that
    run out to nothing."""
    n = down / np.linalg.norm(down)
    x0, _, _, x1, _, _ = (outer ^ cut.solid).bounding_box()
    pitch = (x1 - x0) / points
    flutes = []
    for i in range(points):
        xs = x0 + (i + 0.5) * pitch + pitch * FLUTE_SHARE / 2 * np.array([-1.0, 0.0, 1.0])
        # Where the plane of the fracture lies at these places along it: a slanted one slants the flutes.
        on_plane = np.column_stack([xs, at[1] - (xs - at[0]) * n[0] / n[1], np.zeros(3)])
        # They begin behind the plane, so that no cut runs along it.
        ends, tip = on_plane[::2] - OFF_PLANE_MM * n, on_plane[1] + reach_mm * n
        face = [vertical_at_mm(outer, *p[:2])[1] for p in (*ends, tip)]
        # Beside the crown there is no face to flute.
        if any(math.isnan(z) for z in face):
            continue
        low = [[*end[:2], z - FLUTE_DEEP_MM] for end, z in zip(ends, face, strict=False)]
        high = [[*end[:2], z + OVERRUN_MM] for end, z in zip(ends, face, strict=False)]
        out = [[*tip[:2], face[2]], [*tip[:2], face[2] + OVERRUN_MM]]
        flutes.append(Manifold.hull_points(np.array([*low, *high, *out])))
    solid = Manifold.batch_boolean([cut.solid, *flutes], OpType.Add).as_original()
    return Tagged(solid, solid.original_id())


def _middle_of(lost: Manifold, at: np.ndarray, down: np.ndarray) -> tuple[float, float, float]:
    """Return a point just above the middle of a fracture's plane."""
    n = down / np.linalg.norm(down)
    corners = np.asarray(lost.to_mesh64().vert_properties)[:, :3]
    on_plane = corners[np.abs((corners - at) @ n) < 1e-6]
    x, y, z = (on_plane.min(axis=0) + on_plane.max(axis=0)) / 2 - OFF_PLANE_MM * n
    return float(x), float(y), float(z)
