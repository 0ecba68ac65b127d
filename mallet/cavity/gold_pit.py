"""A preparation for direct gold as a cutter: an outline in a face, its axial wall just past the junction and following it,
a groove all round its foot, three starting points and a bevel.

It is cut in the frame of its access. Depth is not told: it follows from the crown's enamel, deeper where that is thicker.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection, JoinType, Manifold, OpType
from numpy.typing import NDArray

from mallet.cavity.access import Access
from mallet.cavity.measures import topmost_mm
from mallet.cavity.neck import sunk
from mallet.cavity.rods import rod
from mallet.cavity.solids import Tagged, tagged_solid
from mallet.cavity.tool import Tool
from mallet.terms.errors import InputError
from mallet.terms.parts import GoldPit

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
AROUND = 48
OVERRUN_MM = 2.0
RIM_MM = 0.005
STEP_MM = 0.1
# An edge is looked for until this often halved a way is short.
HALVINGS = 12
PAST_MM = 0.1
LEAST_MM = 0.6
# A teardrop's tip over its round end, and how much narrower a trapezoid is at its gingival end.
TIP_SHARE, NARROWER_SHARE = 0.5, 0.8
CORNER_MM = 0.3
ROUND = 64
FINE_MM = 0.02
# How much of the axial wall's height in dentin the groove takes, how far it reaches in from the wall, and below the floor.
GROOVE_SHARE, GROOVE_IN_MM, GROOVE_UNDER_MM = 0.9, 0.15, 0.02
POINT_RADIUS_MM = 0.25
# The rings of the axial wall, as shares of the outline.
SHARES = (0.25, 0.5, 0.75, 1.0)
# Where the starting points lie: directions from the middle, counterclockwise from mesial, up toward the third one.
POINTS_DEG = {"distal": 230.0, "mesial": 310.0, "upper": 90.0}
FORTY_FIVE = math.sqrt(0.5)


@dataclass(frozen=True)
class Outline:
    """The outline of a preparation in its face, as an area in the frame of its access: its middle (x, y), and which way along
    y its upper end lies: occlusal, or facial on the occlusal surface."""

    section: CrossSection
    middle: tuple[float, float]
    up: float

    def grown(self, by_mm: float) -> CrossSection:
        """Return the outline moved outward by a distance, inward where that is negative."""
        return self.section.offset(by_mm, JoinType.Round, 2.0, ROUND)

    def ring(self, by_mm: float = 0.0) -> Floats:
        """Return places (AROUND, 2) of the moved outline by direction from its middle, counterclockwise from mesial."""
        polygon = max(self.grown(by_mm).to_polygons() if by_mm else self.section.to_polygons(), key=len)
        off = finely(np.asarray(polygon, dtype=np.float64), FINE_MM) - self.middle
        turns, far = np.arctan2(off[:, 1], off[:, 0]), np.hypot(*off.T)
        at = 2 * np.pi * np.arange(AROUND) / AROUND
        order = np.argsort(turns)
        reach = np.interp(at, turns[order], far[order], period=2 * np.pi)
        return np.asarray(self.middle + reach[:, None] * np.column_stack([np.cos(at), np.sin(at)]))

    def at(self, direction_deg: float) -> Floats:
        """Return the place of the outline (2,) in a direction, with up as up."""
        ring, turn = self.ring(), math.radians(direction_deg) * self.up
        at = 2 * np.pi * np.arange(AROUND) / AROUND
        return np.array([np.interp(turn % (2 * np.pi), at, column, period=2 * np.pi) for column in ring.T])


def finely(polygon: Floats, most_mm: float) -> Floats:
    """Return a polygon (N, 2) with places along its edges, none farther from the next than a length."""
    after = np.roll(polygon, -1, axis=0)
    counts = np.maximum(np.ceil(np.linalg.norm(after - polygon, axis=1) / most_mm), 1).astype(np.int64)
    starts, ways = np.repeat(polygon, counts, axis=0), np.repeat(after - polygon, counts, axis=0)
    steps = np.arange(len(starts)) - np.repeat(np.cumsum(counts) - counts, counts)
    return np.asarray(starts + ways * (steps / np.repeat(counts, counts))[:, None])


def outline_of(part: GoldPit, access: Access) -> Outline:
    """Return where a pit's outline lies in the frame of its access."""
    is_occlusal = part.face == "occlusal"
    y = 0.0 if is_occlusal else access.toward((0.0, 0.0, part.above_cej_mm))[1]
    up = 1.0 if is_occlusal else access.toward((0.0, 0.0, 1.0))[1]
    return Outline(_shape(part).scale((1.0, up)).translate((part.at_mm, y)), (part.at_mm, y), up)


def _shape(part: GoldPit) -> CrossSection:
    """Return an outline about its middle, its upper end up."""
    w, h = part.width_mm / 2, part.height_mm / 2
    if part.outline == "oval":
        return CrossSection.circle(1.0, ROUND).scale((w, h))
    if part.outline == "teardrop":
        tip = TIP_SHARE * w
        circles = (
            CrossSection.circle(w, ROUND).translate((0.0, -h + min(w, h))),
            CrossSection.circle(tip, ROUND).translate((0.0, h - tip)),
        )
        return CrossSection.batch_hull(list(circles))
    corner = min(CORNER_MM, w * NARROWER_SHARE, h)
    low, high = NARROWER_SHARE * w - corner, w - corner
    inner = CrossSection([[(-low, corner - h), (low, corner - h), (high, h - corner), (-high, h - corner)]])
    return inner.offset(corner, JoinType.Round, 2.0, ROUND)


def tightest_mm(part: GoldPit) -> float:
    """Return the radius of the tightest curve of an outline: of an oval b squared over a, at its narrow ends."""
    w, h = part.width_mm / 2, part.height_mm / 2
    if part.outline == "oval":
        return min(w, h) ** 2 / max(w, h)
    return TIP_SHARE * w if part.outline == "teardrop" else min(CORNER_MM, w * NARROWER_SHARE, h)


def pit_tool(index: int, part: GoldPit, outer: Manifold, dentin: Manifold, access: Access) -> Tool:
    """Return the cutter of a pit in a tooth, whose dentin stands in the frame of the access too.

    Raises InputError where its margin would leave the face, or where there is no dentin under it.
    """
    outline = outline_of(part, access)
    _check_place(index, part, outer, dentin, access)
    wall, floor = outline.ring(), Floor(dentin, part.into_dentin_mm)
    middle = np.array(outline.middle)
    xy, triangles, rim = fan(outline.middle, [middle + (wall - middle) * share for share in SHARES])
    top = float(topmost_mm(outer, xy)[:, 1].max()) + OVERRUN_MM
    depths = topmost_mm(outer, xy)[:, 1] - floor(xy)
    cuts = [sunk(xy, floor(xy), top, triangles, rim)]
    cuts += _groove(outline, floor, part)
    cuts += [
        _point(outline, floor, towards, part.point_depth_mm)
        for towards in POINTS_DEG.values()
        if part.point_depth_mm
    ]
    cuts += bevel(outline, outer, top, part.bevel_mm, part.bevel_deg)
    solid = Manifold.batch_boolean([cut.solid for cut in cuts], OpType.Add).as_original()
    x, y = outline.middle
    spot = (x, y, float(floor(np.array([[x, y]]))[0]))
    (x0, y0), (x1, y1) = wall.min(axis=0), wall.max(axis=0)
    return Tool(
        index=index,
        kind=part.kind,
        side=None,
        cut=Tagged(solid, solid.original_id()),
        nominal_volume_mm3=_nominal_mm3(
            part, outline, float(np.average(depths[1:], weights=np.repeat(SHARES, AROUND)))
        ),
        floor_mm=float(floor(xy).min()),
        floor=(float(x0), float(x1), float(y0), float(y1)),
        depth_mm=float(depths[0]),
        spot=spot,
    )


@dataclass(frozen=True)
class Floor:
    """The axial wall: so far inside the junction of enamel and dentin, which it follows."""

    dentin: Manifold
    into_mm: float

    def __call__(self, places: Floats) -> Floats:
        """Return its heights (N,) at places (N, 2)."""
        return np.asarray(topmost_mm(self.dentin, places)[:, 1] - self.into_mm)


def depths_mm(part: GoldPit, outer: Manifold, dentin: Manifold, access: Access) -> tuple[float, float]:
    """Return how deep a pit gets at its upper and at its lower end, from the surface straight in."""
    outline, floor = outline_of(part, access), Floor(dentin, part.into_dentin_mm)
    ends = np.array([outline.at(90.0), outline.at(270.0)])
    upper, lower = topmost_mm(outer, ends)[:, 1] - floor(ends)
    return float(upper), float(lower)


def surface_mm(outer: Manifold, places: Floats, middle: tuple[float, float]) -> Floats:
    """Return the heights (N,) of a surface over places (N, 2); beyond its edge as at it, toward a middle that it covers."""
    heights = topmost_mm(outer, places)[:, 1]
    beyond = np.isnan(heights)
    ways = places[beyond] - middle
    inside, outside = np.zeros(len(ways)), np.ones(len(ways))
    for _ in range(HALVINGS if len(ways) else 0):
        halfway = (inside + outside) / 2
        known = ~np.isnan(topmost_mm(outer, middle + halfway[:, None] * ways)[:, 1])
        inside[known], outside[~known] = halfway[known], halfway[~known]
    heights[beyond] = topmost_mm(outer, middle + inside[:, None] * ways)[:, 1]
    return np.asarray(heights)


def fan(middle: tuple[float, float], rings: Sequence[Floats]) -> tuple[Floats, Ints, Ints]:
    """Return places from a middle out over rings (AROUND, 2), with their triangles and rim."""
    index = 1 + np.arange(len(rings) * AROUND).reshape(len(rings), AROUND)
    after = np.roll(index, -1, axis=1)
    inner, outer, inner_after, outer_after = index[:-1], index[1:], after[:-1], after[1:]
    faces = [
        (np.zeros(AROUND, dtype=np.int64), index[0], after[0]),
        (inner, outer, outer_after),
        (inner, outer_after, inner_after),
    ]
    triangles = np.concatenate([np.column_stack([c.ravel() for c in corners]) for corners in faces])
    return np.concatenate([[middle], *rings]), triangles, index[-1]


def _groove(outline: Outline, floor: Floor, part: GoldPit) -> list[Tagged]:
    """Return the groove all round the foot of the wall, as an inverted cone cuts it: widest at the floor, all in dentin."""
    deep, high = part.groove_depth_mm, GROOVE_SHARE * part.into_dentin_mm
    if not deep:
        return []
    inside, wall, outside = outline.ring(-GROOVE_IN_MM), outline.ring(), outline.ring(deep)
    corners = [
        (inside, -GROOVE_UNDER_MM),
        (outside, -GROOVE_UNDER_MM),
        (outside, RIM_MM),
        (wall, high),
        (inside, high),
    ]
    sections = [np.column_stack([places, floor(places) + up]) for places, up in corners]
    return [_swept(sections)]


def _swept(sections: Sequence[Floats]) -> Tagged:
    """Return a closed ring through the corners (AROUND, 3) of its cross-section, counterclockwise as seen along the way."""
    count = len(sections)
    index = np.arange(count * AROUND).reshape(count, AROUND)
    beside, after = np.roll(index, -1, axis=0), np.roll(index, -1, axis=1)
    both = np.roll(beside, -1, axis=1)
    quads = [(index, after, both), (index, both, beside)]
    triangles = np.concatenate([np.column_stack([c.ravel() for c in corners]) for corners in quads])
    return tagged_solid(np.concatenate(sections), triangles)


def _point(outline: Outline, floor: Floor, direction_deg: float, deep_mm: float) -> Tagged:
    """Return a starting point: a short round hole out of the angle at the foot of the wall, outward and down."""
    foot = outline.at(direction_deg)
    out = (foot - outline.middle) / np.linalg.norm(foot - outline.middle)
    low = float(floor(foot[None])[0])
    way = np.array([*(FORTY_FIVE * out), -FORTY_FIVE])
    return point_hole(np.array([*foot, low + POINT_RADIUS_MM]), way, deep_mm)


def point_hole(foot: Floats, way: Floats, deep_mm: float) -> Tagged:
    """Return a round hole that goes so deep past a place (3,), begun its own radius before it."""
    start = foot - POINT_RADIUS_MM * way
    return rod(start, start + (deep_mm + POINT_RADIUS_MM) * way, POINT_RADIUS_MM)


def bevel(
    outline: Outline,
    outer: Manifold,
    top_mm: float,
    wide: float,
    angle_deg: float,
    over_mm: float = -math.inf,
) -> list[Tagged]:
    """Return what is cut off a margin, so far out over the face (mm) and by an angle to it, nothing below a height."""
    slope = math.tan(math.radians(angle_deg))
    if not wide:
        return []
    # Past its edge it rises out of the face, so that it ends where it meets it.
    off = (0.0, wide / 2, wide, wide + PAST_MM)
    rings = [outline.ring(-RIM_MM), *(outline.ring(by) for by in off)]
    xy, triangles, rim = fan(outline.middle, rings)
    runs = np.concatenate([[0.0], np.repeat([0.0, *off], AROUND)])
    bottom = surface_mm(outer, xy, outline.middle) - (wide - runs) * slope
    return [sunk(xy, np.maximum(bottom, over_mm), top_mm, triangles, rim)]


def _nominal_mm3(part: GoldPit, outline: Outline, depth_mm: float) -> float:
    """Return the volume by plain figures: the outline by its mean depth, groove, points and bevel by their cross-section."""
    around = float(np.linalg.norm(np.roll(outline.ring(), -1, axis=0) - outline.ring(), axis=1).sum())

    def wedge(wide: float, high: float) -> float:
        """Return what lies round the outline: so high at it, and running out to nothing (Pappus)."""
        return high * (around * wide / 2 + math.pi * wide**2 / 3)

    groove = wedge(part.groove_depth_mm, GROOVE_SHARE * part.into_dentin_mm)
    groove += (
        GROOVE_UNDER_MM * (GROOVE_IN_MM + part.groove_depth_mm) * around if part.groove_depth_mm else 0.0
    )
    points = len(POINTS_DEG) * math.pi * POINT_RADIUS_MM**2 * part.point_depth_mm
    bevel = wedge(part.bevel_mm, part.bevel_mm * math.tan(math.radians(part.bevel_deg)))
    return float(outline.section.area()) * depth_mm + groove + points + bevel


def _lies_in(outline: Outline, outer: Manifold, part: GoldPit) -> bool:
    """Tell whether a pit's beveled margin lies on its face."""
    return bool((topmost_mm(outer, outline.ring(part.bevel_mm + PAST_MM))[:, 1] > 0).all())


def _is_over(outline: Outline, dentin: Manifold, part: GoldPit) -> bool:
    """Tell whether there is dentin under all of a pit's groove."""
    return bool((topmost_mm(dentin, outline.ring(part.groove_depth_mm))[:, 1] > 0).all())


def _check_place(index: int, part: GoldPit, outer: Manifold, dentin: Manifold, access: Access) -> None:
    """Refuse a pit that leaves its face or has no dentin under it: by its width or, where no width would do, its height."""

    def fails(tried: GoldPit) -> str | None:
        outline = outline_of(tried, access)
        if not _lies_in(outline, outer, tried):
            return "the face ends there"
        return None if _is_over(outline, dentin, tried) else "by the handbook there is no dentin farther out"

    why = fails(part)
    if why is None:
        return
    narrow = part.model_copy(update={"width_mm": LEAST_MM})
    name, tried = ("width_mm", part) if fails(narrow) is None else ("height_mm", narrow)
    given = most = getattr(part, name)
    while most > LEAST_MM and fails(tried.model_copy(update={name: most})):
        most = round(most - STEP_MM, 1)
    raise InputError.at(f"preparation.parts[{index}].{name}", given, f"up to {most:.1f}: {why}")
