"""The zones that direct gold is stepped into, cut from the restoration itself: floor between two points, third point, walls,
middle, contour."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection, JoinType, Manifold
from numpy.typing import NDArray

from mallet.cavity.gold_beside import axial_mm, outline_beside
from mallet.cavity.gold_pit import Floor, Outline, fan, outline_of, surface_mm
from mallet.cavity.neck import sunk
from mallet.cavity.preparation import Cavity
from mallet.restoratives.gold.shape import Shape
from mallet.rulebook import Rulebook
from mallet.terms.parts import GoldPit

Floats = NDArray[np.float64]
Heights = Callable[[Floats], Floats]
LEAST_MM3 = 0.01
BEYOND_MM = 20.0
# How much of its height the floor between the lower points takes, and the third point.
LOWER_SHARE, UPPER_SHARE = 0.4, 0.3
# The walls' own ground is so many of the smallest nib wide.
WALL_NIBS = 0.7
REACH_MM = 2.0
OVER_FLOOR_MM = 0.05
ROUND = 64
# Where heights are told between the middle and the wall.
SHARES = (0.25, 0.5, 0.75, 1.0)
LINES = {
    "floor": "trisecting the point angles, then bisecting the line angle",
    "point": "trisecting the point angle",
    "walls": "bisecting the angle of wall and floor",
    "axial": "bisecting the angle of wall and floor",
    "middle": "square to the gold",
    "contour": "square to the gold",
}


@dataclass(frozen=True)
class Zone:
    """What is stepped at once: its solid, its ground and the outline that bounds it as areas in the frame of the access,
    how high its ground lies at places (N, 2), and from where to where the line of force runs there."""

    id: str
    name: str
    solid: Manifold
    ground: CrossSection
    within: CrossSection
    heights: Heights
    force: tuple[Floats, Floats]

    @property
    def volume_mm3(self) -> float:
        return float(self.solid.volume())

    @property
    def area_mm2(self) -> float:
        return float(self.ground.area())

    @property
    def line(self) -> str:
        return LINES[self.id]


@dataclass(frozen=True)
class Ground:
    """What zones are cut out of: the outline within its walls, what of its floor a nib reaches, the face that gold ends in,
    what bounds steps there, the tooth whose surface it follows, the floor's heights, and the feet of the lower and the upper
    starting angle."""

    outline: Outline
    floor_area: CrossSection
    face: CrossSection
    brim: CrossSection
    outer: Manifold
    floor: Heights
    feet: tuple[Floats, Floats]

    def surface(self, places: Floats) -> Floats:
        return surface_mm(self.outer, places, self.outline.middle)


def ground_of(cavity: Cavity, shape: Shape, nib_mm: float, rules: Rulebook) -> Ground:
    """Return the ground of a preparation, for steps of a nib."""
    part, access, outer = shape.part, cavity.access, cavity.outer.solid
    if isinstance(part, GoldPit):
        outline = outline_of(part, access)
        floor = Floor(cavity.shell(rules, "dentin"), part.into_dentin_mm)
        feet = (outline.at(270.0), outline.at(90.0))
        face = outline.grown(part.bevel_mm)
        return Ground(outline, outline.section, face, face, outer, floor, feet)
    (tool,) = cavity.tools
    outline = outline_beside(tool, access)
    # A round nib leaves what lies deep in a corner to the points there.
    at_floor = cavity.filling.slice(tool.floor_mm + OVER_FLOOR_MM) ^ outline.section
    reached = outline.section.offset(-nib_mm / 2, JoinType.Round).offset(
        nib_mm / 2, JoinType.Round, 2.0, ROUND
    )
    ys = tool.floor[2:] if outline.up > 0 else tool.floor[:1:-1]
    lower, upper = (np.array([axial_mm(tool), y]) for y in ys)
    face = cavity.filling.project()
    opened = math.tan(math.radians(part.wall_divergence_deg)) * part.faciolingual_mm
    brim = face + outline.grown(opened + (part.bevel_mm or 0.0))
    return Ground(outline, at_floor ^ reached, face, brim, outer, _Level(tool.floor_mm), (lower, upper))


@dataclass(frozen=True)
class _Level:
    """A flat floor."""

    height_mm: float

    def __call__(self, places: Floats) -> Floats:
        return np.full(len(places), self.height_mm)


def zones_of(
    cavity: Cavity, shape: Shape, ground: Ground, nib_mm: float, top_mm: float, rules: Rulebook
) -> list[Zone]:
    """Return the zones of a preparation in their order; together they are the filling. Walls are told from the middle by the
    smallest nib, and the last zone is so deep."""
    outline = ground.outline
    inner = outline.grown(-WALL_NIBS * nib_mm)
    rest, zones = cavity.filling, []
    for id, name, region, area in _regions(ground, shape, inner, top_mm, rules):
        solid, left = rest.split(region)
        if solid.volume() < LEAST_MM3 or area.is_empty():
            continue
        rest = left
        zones.append(_zone(ground, id, name, solid, area, outline.section))
    return [*zones, _zone(ground, "contour", "contour and margins", rest, ground.face, ground.brim)]


def _regions(
    ground: Ground, shape: Shape, inner: CrossSection, top_mm: float, rules: Rulebook
) -> Iterator[tuple[str, str, Manifold, CrossSection]]:
    """Yield what each zone takes of what those before it left, and its ground."""
    outline = ground.outline
    (_x0, y0), (_x1, y1) = np.array(outline.section.bounds()).reshape(2, 2)
    high, up = y1 - y0, outline.up
    low_y, top_y = (y0, y1) if up > 0 else (y1, y0)
    below = _below_surface(ground, top_mm)
    # Beside the contact the points lie along the axial wall: gold goes up it from there.
    starting = below if shape.is_beside else _under(ground, rules.value("gold.starting_layer_mm"))
    lower = _beside(low_y + up * LOWER_SHARE * high, -up)
    upper = _beside(top_y - up * UPPER_SHARE * high, up)
    ends, floor = shape.ends, ground.floor_area
    points = "facial to lingual" if shape.is_beside else "distal to mesial"
    yield "floor", f"{ends.lower} floor, {points} point", starting ^ _tall(lower), floor ^ lower
    yield "point", f"{ends.upper} point", starting ^ _tall(upper), floor ^ upper
    if shape.is_beside:
        yield "axial", "axial wall", below - _tall(inner), floor - inner - lower - upper
    else:
        yield "walls", "walls all round", below - _tall(inner), floor - inner
    yield "middle", "middle", below, floor ^ inner


def _beside(y: float, way: float) -> CrossSection:
    """Return the half plane on one side of a level line."""
    half = CrossSection.square((2 * BEYOND_MM, BEYOND_MM)).translate((-BEYOND_MM, 0.0))
    return (half if way > 0 else half.scale((1.0, -1.0))).translate((0.0, y))


def _tall(area: CrossSection) -> Manifold:
    """Return an area as a column that reaches beyond the tooth."""
    return Manifold.extrude(area, 2 * BEYOND_MM).translate((0.0, 0.0, -BEYOND_MM))


def _below_surface(ground: Ground, deep_mm: float) -> Manifold:
    """Return all of the tooth that lies deeper under its surface than so much."""
    return ground.outer.translate((0.0, 0.0, -deep_mm))


def _under(ground: Ground, layer_mm: float) -> Manifold:
    """Return all that lies no higher over the floor than a layer, groove and points too; beyond the outline as at it."""
    outline, middle = ground.outline, np.array(ground.outline.middle)
    wall = outline.ring()
    inside = [middle + (wall - middle) * share for share in SHARES]
    beyond = middle + (wall - middle) * (1 + REACH_MM / np.linalg.norm(wall - middle, axis=1))[:, None]
    xy, triangles, rim = fan(outline.middle, [*inside, beyond])
    known = ground.floor(xy[: -len(wall)])
    every = np.concatenate([known, known[-len(wall) :]]) + layer_mm
    above = sunk(xy, every, float(every.max()) + BEYOND_MM, triangles, rim).solid
    x0, y0, _, x1, y1, _ = above.bounding_box()
    block = Manifold.cube((x1 - x0, y1 - y0, 2 * BEYOND_MM)).translate(
        (x0, y0, float(every.min()) - BEYOND_MM)
    )
    return block - above


def _zone(
    ground: Ground, id: str, name: str, solid: Manifold, area: CrossSection, within: CrossSection
) -> Zone:
    heights: Heights = ground.surface if id == "contour" else ground.floor
    return Zone(id, name, solid, area, within, heights, _force(ground, id))


def _force(ground: Ground, id: str) -> tuple[Floats, Floats]:
    """Return the line of force of a zone in the frame of the access: into the angle that it starts from, else square to what
    lies under the middle."""
    middle = np.array(ground.outline.middle)
    if id in ("middle", "contour"):
        (top,) = ground.surface(middle[None]) if id == "contour" else ground.floor(middle[None])
        return np.array([*middle, top + REACH_MM]), np.array([*middle, top])
    foot = ground.feet[0 if id == "floor" else 1]
    inward = middle + (foot - middle) * 0.75
    low, near = ground.floor(np.array([foot, inward]))
    along = np.array([*(inward - foot), near - low])
    halved = along / np.linalg.norm(along) + np.array([0.0, 0.0, 1.0])
    end = np.array([*foot, low])
    return end + REACH_MM * halved / np.linalg.norm(halved), end
