"""Smaller cuts in a cavity: grooves, slots and holes that hold a restoration, a notch behind an edge, and a shoulder for a
later crown."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection, Manifold
from numpy.typing import NDArray

from mallet.cavity.boxes import SIGN, axial_wall_mm
from mallet.cavity.chamber import chamber_cutter
from mallet.cavity.face_box import face_box_cutter
from mallet.cavity.measures import gap_mm, topmost_mm, vertical_at_mm
from mallet.cavity.neck import OVERRUN_MM, grid_of, sunk
from mallet.cavity.rims import shoulder_cutter
from mallet.cavity.rods import rod
from mallet.cavity.solids import Tagged
from mallet.cavity.tool import Tool
from mallet.terms.errors import InputError
from mallet.terms.parts import (
    FaceBox,
    FeaturePart,
    LingualDovetail,
    PinHole,
    PulpChamber,
    RetentionGroove,
    Shoulder,
    Slot,
)
from mallet.tooth import Crown

Floats = NDArray[np.float64]
# How far a cutter reaches out of what it is sunk into.
OVER_MM = 0.4
# A floor so little below the surface of the whole tooth is none.
UNCUT_MM = 0.3
# How wide a dovetail is where it begins, over its end.
WAIST_SHARE = 0.65
GRID_MM, STEP_MM = 0.15, 0.1
# Between a core and a drill beside it.
CLEAR_OF_CORE_MM = 0.1
GAP_SEARCHES_MM = (0.3, 0.6, 1.0, 1.4, 2.0)
# How much wider than its pin a hole may be scanned, as a share of the radius.
SLEEVE_SHARE = 0.2
HAIR_MM = 1e-3


@dataclass(frozen=True)
class Feature:
    """A smaller cut as a cutter, what it takes of the tooth (`taken`), what fills it instead of the restoration
    (`pin`), the narrow ends of it that are filled first (`canals`), and the middle of its opening; `index` is its part's place in the case."""

    index: int
    kind: str
    where: str
    cut: Tagged
    taken: Manifold
    nominal_volume_mm3: float
    mouth: tuple[float, float, float]
    pin: Tagged | None = None
    canals: Manifold | None = None

    @property
    def sleeve(self) -> Manifold:
        """Return the room of a pin below its mouth and a little around: what a scan leaves open there is filled with
        what the pin is set in."""
        x, y, z = self.mouth
        assert self.pin
        wider = 1 + SLEEVE_SHARE
        set_in = self.pin.solid.trim_by_plane((0.0, 0.0, -1.0), -z).translate((-x, -y, -z))
        return set_in.scale((wider, wider, 1.0)).translate((x, y, z - HAIR_MM))


@dataclass(frozen=True)
class Ground:
    """What features are cut into: the crown, the whole tooth and its dentin as they stand in the frame of the access,
    what is left of it, the parts that were cut before, and the shoulder, if there is one."""

    crown: Crown
    outer: Manifold
    dentin: Manifold
    left: Manifold
    tools: Sequence[Tool]
    shoulder: Shoulder | None = None

    @property
    def occlusal(self) -> Tool | None:
        return next((tool for tool in self.tools if tool.kind == "occlusal_box"), None)


def feature(index: int, part: FeaturePart, ground: Ground) -> Feature:
    """Return a feature in the tooth; raise InputError where that has no room for it."""
    match part:
        case RetentionGroove():
            return _groove(index, part, ground)
        case Slot():
            return _slot(index, part, ground)
        case PinHole():
            return _pin_hole(index, part, ground)
        case LingualDovetail():
            return _dovetail(index, part, ground)
        case FaceBox():
            cut, nominal, mouth = face_box_cutter(
                index, part, ground.crown, ground.outer, ground.left, ground.occlusal
            )
            return Feature(
                index, part.kind, f"{part.face} face", cut, ground.left ^ cut.solid, nominal, mouth
            )
        case PulpChamber():
            cut, canals, nominal, mouth = chamber_cutter(
                index, part, ground.crown, ground.outer, ground.occlusal
            )
            taken = ground.left ^ cut.solid
            return Feature(index, part.kind, "pulpal floor", cut, taken, nominal, mouth, canals=canals)
        case Shoulder():
            cut, nominal = shoulder_cutter(index, part, ground.crown)
            taken = ground.left ^ cut.solid
            x = ground.crown.outer_x_mm("mesial", part.above_cej_mm) - part.width_mm / 2
            mouth = (x, 0.0, part.above_cej_mm)
            return Feature(index, part.kind, "all round", cut, taken, nominal, mouth)


def _groove(index: int, part: RetentionGroove, ground: Ground) -> Feature:
    """Return grooves as round rods that lean with the walls that they are cut into."""
    path = f"preparation.parts[{index}]"
    box = next((tool for tool in ground.tools if tool.side == part.side), None)
    if box is None:
        raise InputError.at(f"{path}.side", part.side, "the side of a proximal box")
    radius = part.width_mm / 2
    if part.depth_mm > part.width_mm:
        raise InputError.at(f"{path}.depth_mm", part.depth_mm, f"up to its width, {part.width_mm:g}")
    heights = box.floor_mm - HAIR_MM, box.floor_mm + part.height_mm
    rods = []
    for wall, way in (("facial", 1.0), ("lingual", -1.0)):
        if part.walls not in ("both", wall):
            continue
        ends = [_beside_walls(box, z, radius, way, part.depth_mm - radius) for z in heights]
        rods.append(rod(ends[0], ends[1], radius))
        x, y, z = ends[1]
        room = ground.crown.half_breadth_mm(x, z) - (abs(y) + radius)
        if room < 0:
            allowed = f"up to {max(part.depth_mm + room, 0.0):.1f}: a wall of the box stays"
            raise InputError.at(f"{path}.depth_mm", part.depth_mm, allowed)
    solid = rods[0].solid if len(rods) == 1 else (rods[0].solid + rods[1].solid).as_original()
    cut = rods[0] if len(rods) == 1 else Tagged(solid, solid.original_id())
    x, y, z = (ends[0] + ends[1]) / 2
    mouth = (float(x), float(y), float(z))
    nominal = len(rods) * part.height_mm * _segment_mm2(radius, part.depth_mm)
    where = f"{part.side} box, {'both walls' if part.walls == 'both' else f'{part.walls} wall'}"
    return Feature(index, part.kind, where, cut, ground.left ^ cut.solid, nominal, mouth)


def _beside_walls(box: Tool, z_mm: float, off_axial_mm: float, way: float, past_mm: float) -> Floats:
    """Return a point at a height of a box, so far off its axial wall and past its facial wall (way 1) or the lingual
    one (way -1)."""
    wall = box.floor[3] + box.slopes[3 if way > 0 else 2] * (z_mm - box.floor_mm)
    x = axial_wall_mm(box, z_mm) + SIGN[box.side or "mesial"] * off_axial_mm
    return np.array([x, way * (wall + past_mm), z_mm])


def _segment_mm2(radius: float, depth: float) -> float:
    """Return the area of the segment of a circle that reaches a depth past a line."""
    off = radius - depth
    return radius**2 * math.acos(off / radius) - off * math.sqrt(max(radius**2 - off**2, 0.0))


def _slot(index: int, part: Slot, ground: Ground) -> Feature:
    half, across = part.length_mm / 2, part.width_mm / 2
    floor, along, inward = _site(index, part, ground, across, half)
    corners = [
        floor + s * half * along + t * across * inward for s, t in ((-1, -1), (1, -1), (1, 1), (-1, 1))
    ]

    def cut_to(depth_mm: float) -> Manifold:
        ends = floor[2] - depth_mm, floor[2] + OVER_MM
        return Manifold.hull_points(np.array([[x, y, z] for z in ends for x, y, _ in corners])).as_original()

    nominal = part.length_mm * part.width_mm * part.depth_mm
    return _sunk_in(index, part, cut_to, nominal, floor, ground)


def _pin_hole(index: int, part: PinHole, ground: Ground) -> Feature:
    radius = part.diameter_mm / 2
    floor, _, _ = _site(index, part, ground, radius, 0.0)
    up = np.array([0.0, 0.0, 1.0])

    def cut_to(depth_mm: float) -> Manifold:
        return rod(floor - depth_mm * up, floor + OVER_MM * up, radius).solid

    bottom = floor - (part.depth_mm + HAIR_MM) * up
    pin = rod(bottom, floor + part.above_floor_mm * up, radius + HAIR_MM)
    nominal = math.pi * radius**2 * part.depth_mm
    return _sunk_in(index, part, cut_to, nominal, floor, ground, pin)


def _sunk_in(
    index: int,
    part: Slot | PinHole,
    cut_to: Callable[[float], Manifold],
    nominal: float,
    floor: Floats,
    ground: Ground,
    pin: Tagged | None = None,
) -> Feature:
    """Return what is sunk into a floor; raise InputError where it would come out of the tooth, which narrows."""

    def leaves(depth_mm: float) -> bool:
        under = cut_to(depth_mm).trim_by_plane((0.0, 0.0, -1.0), -float(floor[2]) + HAIR_MM)
        return bool((under - ground.outer).volume() > HAIR_MM)

    if leaves(part.depth_mm):
        most = part.depth_mm
        while most > STEP_MM and leaves(most):
            most = round(most - STEP_MM, 1)
        path = f"preparation.parts[{index}].depth_mm"
        raise InputError.at(path, part.depth_mm, f"up to {most:.1f}: it comes out of the tooth below")
    solid = cut_to(part.depth_mm)
    cut = Tagged(solid, solid.original_id())
    where = f"{part.at} {'box' if part.at in {tool.side for tool in ground.tools} else 'cusp'}"
    mouth = (float(floor[0]), float(floor[1]), float(floor[2]))
    return Feature(index, part.kind, where, cut, ground.left ^ cut.solid, nominal, mouth, pin)


def _site(
    index: int, part: Slot | PinHole, ground: Ground, deep_mm: float, long_mm: float
) -> tuple[Floats, Floats, Floats]:
    """Return the middle of an opening on the floor at a site, half as deep and half as long as told, its edge and the
    ends of that `inset_mm` inside the junction, and the unit vectors along the outline and inwards."""
    path, tips = f"preparation.parts[{index}].at", ground.crown.cusps
    if isinstance(part, PinHole) and ground.shoulder and part.on != "floor":
        return _on_shoulder(index, part, ground, ground.shoulder)
    if part.at in {tool.side for tool in ground.tools}:
        outward = np.array([SIGN[part.at], 0.0, 0.0])
        start = ground.crown.mesiodistal_mm / 2 * outward
    elif part.at in tips:
        start = np.array(tips[part.at])
        outward = np.array([*start[:2], 0.0]) / math.hypot(*start[:2])
    else:
        raise InputError.at(path, part.at, f"{', '.join(tips)}, or the side of a proximal box")
    along = np.array([-outward[1], outward[0], 0.0])
    at = 0.7 * start + part.along_mm * along
    # The junction's place depends on the floor's height, and that on the place: a few times are enough.
    for _ in range(4):
        z = _floor_mm(ground, at)
        if math.isnan(z):
            break
        section = ground.dentin.slice(z - HAIR_MM)
        # The outline curves, and what is cut along it does not.
        reach = min(_reach_mm(section, outward, aside) for aside in _asides(part, long_mm))
        at = outward * max(reach - part.inset_mm - deep_mm, 0.0) + part.along_mm * along
    z = _floor_mm(ground, at)
    whole = vertical_at_mm(ground.outer, at[0], at[1])[1]
    if math.isnan(z) or reach <= 0 or whole - z < UNCUT_MM:
        raise InputError.at(path, part.at, "a floor in dentin: take that cusp down, or farther")
    return np.array([at[0], at[1], z]), along, -outward


def _asides(part: Slot | PinHole, long_mm: float) -> tuple[float, float, float]:
    """Return where along an outline the middle and the ends of an opening lie."""
    return part.along_mm - long_mm, part.along_mm, part.along_mm + long_mm


def _on_shoulder(
    index: int, part: PinHole, ground: Ground, shoulder: Shoulder
) -> tuple[Floats, Floats, Floats]:
    """Return where a pin stands on a shoulder below a cusp: beside the core, as far inside as a drill gets."""
    tips = ground.crown.cusps
    if part.at not in tips:
        raise InputError.at(f"preparation.parts[{index}].at", part.at, ", ".join(tips))
    tip = np.array([*tips[part.at][:2], 0.0])
    outward = tip / np.linalg.norm(tip)
    z = shoulder.above_cej_mm
    along = np.array([-outward[1], outward[0], 0.0])
    outside = _reach_mm(ground.outer.slice(z), outward, part.along_mm)
    reach = outside - shoulder.width_mm + part.diameter_mm / 2 + CLEAR_OF_CORE_MM
    at = reach * outward + part.along_mm * along
    return np.array([at[0], at[1], z]), along, -outward


def _floor_mm(ground: Ground, at: Floats) -> float:
    return vertical_at_mm(ground.left, float(at[0]), float(at[1]))[1]


def _reach_mm(section: CrossSection, way: Floats, aside_mm: float) -> float:
    """Return how far a plane figure reaches along a way, from so far aside of the middle."""
    far = 0.0
    for ring in section.to_polygons():
        a = np.asarray(ring, dtype=np.float64)
        b = np.roll(a, -1, axis=0)
        side_a, side_b = (ends @ [-way[1], way[0]] - aside_mm for ends in (a, b))
        crosses = (side_a > 0) != (side_b > 0)
        share = side_a[crosses] / (side_a[crosses] - side_b[crosses])
        met = a[crosses] + share[:, None] * (b[crosses] - a[crosses])
        far = max([far, *(met @ way[:2])])
    return far


def _dovetail(index: int, part: LingualDovetail, ground: Ground) -> Feature:
    """Return a notch sunk into the lingual face from the fracture on, in the frame of an edge, whose facial side is
    up: it is cut from below."""
    path = f"preparation.parts[{index}]"
    edge = next((tool for tool in ground.tools if tool.kind == "incisal_fracture"), None)
    if edge is None:
        raise InputError.at(f"{path}.kind", part.kind, "a notch beside an incisal fracture")
    x = (edge.floor[0] + edge.floor[1]) / 2
    # In this frame y runs down the tooth.
    start = _margin_y(ground, x)
    turned = _lingual_up(ground.outer)
    xy, rows, cols = _trapezoid(x, start, part.width_mm, part.height_mm)
    face = topmost_mm(turned, xy)[:, 1]
    if np.isnan(face).any():
        most = part.height_mm
        while (
            most > STEP_MM
            and np.isnan(topmost_mm(turned, _trapezoid(x, start, part.width_mm, most)[0])).any()
        ):
            most = round(most - STEP_MM, 1)
        raise InputError.at(f"{path}.height_mm", part.height_mm, f"up to {most:.1f}: the face ends there")
    notch = sunk(xy, face - part.depth_mm, float(face.max()) + OVERRUN_MM, *grid_of(rows, cols))
    solid = _lingual_up(notch.solid).as_original()
    cut = Tagged(solid, solid.original_id())
    nominal = part.depth_mm * part.height_mm * part.width_mm * (1 + WAIST_SHARE) / 2
    middle = int(rows // 2 * cols + cols // 2)
    mouth = (float(xy[middle, 0]), -float(xy[middle, 1]), -float(face[middle]))
    return Feature(index, part.kind, "lingual face", cut, ground.left ^ cut.solid, nominal, mouth)


def _trapezoid(x: float, start: float, width_mm: float, height_mm: float) -> tuple[Floats, int, int]:
    """Return places (N, 2) over a notch with the lingual side up, row by row, and how many rows and columns."""
    rows, cols = (math.ceil(size / GRID_MM) + 1 for size in (height_mm + OVER_MM, width_mm))
    # y runs towards the edge.
    up = np.linspace(-height_mm, OVER_MM, rows)
    half = width_mm / 2 * (WAIST_SHARE + (1 - WAIST_SHARE) * np.clip(-up / height_mm, 0, 1))
    xs = x + np.linspace(-1, 1, cols)[None, :] * half[:, None]
    xy = np.stack([xs, np.broadcast_to((up - start)[:, None], xs.shape)], axis=-1)
    return xy.reshape(-1, 2), rows, cols


def _lingual_up(solid: Manifold) -> Manifold:
    """Return a solid of an edge's frame with its lingual side up, and back."""
    return solid.rotate((180.0, 0.0, 0.0))


def _margin_y(ground: Ground, x: float) -> float:
    """Return where the fracture leaves the lingual face, in the middle of what was lost."""
    section = ground.left.rotate((0.0, -90.0, 0.0)).slice(x)
    rings = [np.asarray(ring, dtype=np.float64) for ring in section.to_polygons()]
    points = np.concatenate(rings)
    # x of the turned figure runs with z, its y stays: the incisal end is the least y, lingual the least z.
    incisal = points[points[:, 1] < points[:, 1].min() + UNCUT_MM]
    return float(incisal[incisal[:, 0].argmin(), 1])


def distances_mm(
    one: Feature, others: Sequence[Manifold], solids: Mapping[str, Manifold]
) -> dict[str, float]:
    """Return how far a feature's hollow stays off solids of the tooth by name, and off other cuts; at
    most as far as is looked."""
    gaps = {name: gap_mm(one.taken, solid, GAP_SEARCHES_MM) for name, solid in solids.items()}
    if others:
        gaps["cut"] = min(gap_mm(one.taken, other, GAP_SEARCHES_MM) for other in others)
    return gaps
