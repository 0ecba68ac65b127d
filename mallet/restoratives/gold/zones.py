"""The zones that direct gold is stepped into, cut from the restoration itself: floor between two points, third point, walls,
middle, contour."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection, Manifold
from numpy.typing import NDArray

from mallet.cavity.gold_pit import Floor, Outline, fan, outline_of
from mallet.cavity.measures import topmost_mm
from mallet.cavity.neck import sunk
from mallet.cavity.preparation import Cavity
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
LINES = {
    "floor": "trisecting the point angles, then bisecting the line angle",
    "point": "trisecting the point angle",
    "walls": "bisecting the angle of wall and floor",
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
class Ends:
    """What the two ends of a pit are called."""

    lower: str
    upper: str


def ends_of(cavity: Cavity, part: GoldPit) -> Ends:
    """Return what the lower and the upper end of a pit are called."""
    if part.face == "occlusal":
        return Ends("lingual", "facial")
    return Ends("cervical", "occlusal" if cavity.tooth.is_posterior else "incisal")


@dataclass(frozen=True)
class Ground:
    """The pit that zones are cut out of: its outline, the solids whose surface and junction it follows."""

    outline: Outline
    outer: Manifold
    floor: Floor

    def surface(self, places: Floats) -> Floats:
        return np.asarray(topmost_mm(self.outer, places)[:, 1])


def ground_of(cavity: Cavity, rules: Rulebook, part: GoldPit) -> Ground:
    """Return the ground of a pit in a cavity."""
    dentin = cavity.shell(rules, "dentin")
    return Ground(outline_of(part, cavity.access), cavity.outer.solid, Floor(dentin, part.into_dentin_mm))


def zones_of(cavity: Cavity, part: GoldPit, nib_mm: float, top_mm: float, rules: Rulebook) -> list[Zone]:
    """Return the zones of a pit in their order; together they are the filling. Walls are told from the middle by the smallest
    nib, and the last zone is so deep."""
    ground, ends = ground_of(cavity, rules, part), ends_of(cavity, part)
    outline = ground.outline
    inner = outline.grown(-WALL_NIBS * nib_mm)
    rest, zones = cavity.filling, []
    for id, name, region, area in _regions(ground, ends, inner, top_mm, rules):
        solid, left = rest.split(region)
        if solid.volume() < LEAST_MM3 or area.is_empty():
            continue
        rest = left
        zones.append(_zone(ground, id, name, solid, area, outline.section))
    face = outline.grown(part.bevel_mm)
    return [*zones, _zone(ground, "contour", "contour and margins", rest, face, face)]


def _regions(
    ground: Ground, ends: Ends, inner: CrossSection, top_mm: float, rules: Rulebook
) -> Iterator[tuple[str, str, Manifold, CrossSection]]:
    """Yield what each zone takes of what those before it left, and its ground."""
    outline = ground.outline
    (_x0, y0), (_x1, y1) = np.array(outline.section.bounds()).reshape(2, 2)
    high, up = y1 - y0, outline.up
    low_y, top_y = (y0, y1) if up > 0 else (y1, y0)
    starting = _under(ground, rules.value("gold.starting_layer_mm"))
    lower = _beside(low_y + up * LOWER_SHARE * high, -up)
    upper = _beside(top_y - up * UPPER_SHARE * high, up)
    name = f"{ends.lower} floor, distal to mesial point"
    yield "floor", name, starting ^ _tall(lower), outline.section ^ lower
    yield "point", f"{ends.upper} point", starting ^ _tall(upper), outline.section ^ upper
    below = _below_surface(ground, top_mm)
    yield "walls", "walls all round", below - _tall(inner), outline.section - inner
    yield "middle", "middle", below, inner


def _beside(y: float, way: float) -> CrossSection:
    """Return the half plane on one side of a level line."""
    half = CrossSection.square((2 * BEYOND_MM, BEYOND_MM)).translate((-BEYOND_MM, 0.0))
    return (half if way > 0 else half.scale((1.0, -1.0))).translate((0.0, y))


def _tall(area: CrossSection) -> Manifold:
    """Return an area as a column that reaches beyond the tooth."""
    return Manifold.extrude(area, 2 * BEYOND_MM).translate((0.0, 0.0, -BEYOND_MM))


def _under(ground: Ground, layer_mm: float) -> Manifold:
    """Return all that lies no higher over the floor than a layer, groove and points too."""
    return _column(ground, ground.floor, layer_mm)


def _below_surface(ground: Ground, deep_mm: float) -> Manifold:
    """Return all that lies deeper under the surface than so much."""
    return _column(ground, ground.surface, -deep_mm)


def _column(ground: Ground, heights: Heights, by_mm: float) -> Manifold:
    """Return all that lies under heights that are moved by so much; beyond the outline as at it."""
    outline, middle = ground.outline, np.array(ground.outline.middle)
    wall = outline.ring()
    inside = [middle + (wall - middle) * share for share in (0.25, 0.5, 0.75, 1.0)]
    beyond = middle + (wall - middle) * (1 + REACH_MM / np.linalg.norm(wall - middle, axis=1))[:, None]
    xy, triangles, rim = fan(outline.middle, [*inside, beyond])
    known = heights(xy[: -len(wall)])
    every = np.concatenate([known, known[-len(wall) :]]) + by_mm
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
    outline = ground.outline
    middle = np.array(outline.middle)
    if id in ("middle", "contour"):
        (top,) = ground.surface(middle[None]) if id == "contour" else ground.floor(middle[None])
        return np.array([*middle, top + REACH_MM]), np.array([*middle, top])
    foot = outline.at(270.0 if id == "floor" else 90.0)
    inward = middle + (foot - middle) * 0.75
    low, near = ground.floor(np.array([foot, inward]))
    along = np.array([*(inward - foot), near - low])
    halved = along / np.linalg.norm(along) + np.array([0.0, 0.0, 1.0])
    end = np.array([*foot, low])
    return end + REACH_MM * halved / np.linalg.norm(halved), end
