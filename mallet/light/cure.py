"""What one increment needs of the curing light: where the light is weakest and for how many seconds."""

from __future__ import annotations

import hashlib
import itertools
import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray

from mallet.cavity.rays import Scene
from mallet.cavity.solids import Skin, joined, skin
from mallet.light.aims import Aim, Field
from mallet.light.field import FINE, GLIMMER_MW_CM2, Grain
from mallet.light.working_curve import dose_wanted_j_cm2
from mallet.remembered import Remembered
from mallet.rulebook import Rulebook
from mallet.terms.restoration import Composite
from mallet.terms.stock import ManufacturerCure

Floats = NDArray[np.float64]
# Places lie so far off the faces that they are searched along.
INSET_MM = 0.005
CLEARANCE_MM = 0.002
DAMPING = 0.02
# Where three faces meet and not two along an edge.
SHARP = 0.003
# How far apart places are looked at first, along the skin and in the depth of a body; then, around so many of those
# that are dimmest, how far about and how far apart.
SKIN_MM, DEPTH_MM = 0.5, 0.8
CLOSER_BY = ((4, 0.35, 0.25), (2, 0.2, 0.08))
APART_MM = 0.4
# Of so many points one is looked at first, where there are several aims; and so many of those that one way leaves dim,
# to tell whether another may be worth taking.
PROBE, LOOK_POINTS = 5, 6
ROUGH, CLOSER = Grain(4, 10), Grain(8, 16, 2)
# How many points a grain leaves to the next at most, and up to how many times the dimmest one's light:
# more than the grain may err.
CLOSER_POINTS, CLOSER_WITHIN = 16, 1.6
FINE_POINTS, FINE_WITHIN = 3, 1.12
# Few rays err alike at places close by.
NEAR_WITHIN = 1.25
DECIMALS = 5
# The portions of some ten plans, and the places looked at in those of some fifty.
_bodies: Remembered[Body] = Remembered(64)
_near: Remembered[Floats] = Remembered(2048)


@dataclass(frozen=True)
class Need:
    """Seconds at full output that an increment needs, by dose and by its manufacturer; the longer counts."""

    dose_j_cm2: float
    seconds_by_dose: float
    seconds_by_maker: float | None

    @property
    def seconds(self) -> float:
        return max(self.seconds_by_dose, self.seconds_by_maker or 0.0)


@dataclass(frozen=True)
class Body:
    """What is lit, as it is searched for its dimmest place: the triangles of its skin (T, 3, 3) and their normals
    (T, 3), of which the first `deep` are searched; and places (N, 3) just inside those, from the lowest up."""

    corners: Floats
    normals: Floats
    deep: int
    inside: Scene
    points: Floats
    digest: bytes

    def with_depth(self) -> Body:
        """Return the same with places in its depth: where light comes from several sides, it may be dimmest there."""
        low, high = self.points.min(axis=0), self.points.max(axis=0)
        spans = [np.arange(a + DEPTH_MM / 2, b, DEPTH_MM) for a, b in zip(low, high, strict=True)]
        grid = np.stack(np.meshgrid(*spans, indexing="ij"), axis=-1).reshape(-1, 3)
        points = np.concatenate([self.points, np.round(grid[self.inside.contains(grid)], DECIMALS)])
        return replace(self, points=points[np.lexsort(points.T)])

    def spread_out(self, least: int) -> Floats:
        """Return places (N, 3) just inside the skin, so many at least: cut ever finer, evenly thinned."""
        from mallet.cavity.facets import halved

        edge_mm, found = SKIN_MM, np.empty((0, 3))
        while len(found) < least and edge_mm > INSET_MM:
            corners, of = halved(self.corners, edge_mm)
            found, _ = _inside_of(corners, self.normals[of], int((of < self.deep).sum()), self.inside)
            edge_mm /= 2
        return np.asarray(found[:: max(1, len(found) // (2 * least))])

    def around(self, place: Floats, radius_mm: float, apart_mm: float) -> Floats:
        """Return places (M, 3) no farther from one than a radius, just inside the skin and, where it lies deeper, about
        it."""
        key = self.digest, place.tobytes(), radius_mm, apart_mm
        return _near.get(key, lambda: self._around(place, radius_mm, apart_mm))

    def _around(self, place: Floats, radius_mm: float, apart_mm: float) -> Floats:
        from mallet.cavity.facets import halved_near

        corners, of = halved_near(self.corners, apart_mm, place, radius_mm)
        found, _ = _inside_of(corners, self.normals[of], int((of < self.deep).sum()), self.inside)
        near = found[((found - place) ** 2).sum(axis=1) <= radius_mm**2]
        if len(near):
            return np.asarray(near)
        about = place + radius_mm * STENCIL
        return np.asarray(about[self.inside.contains(about)])


# A place, and 26 around it.
STENCIL = np.array(list(itertools.product((-0.5, 0.0, 0.5), repeat=3)))


def body_of(
    solid: Manifold, inside: Scene, searched: Callable[[Skin], NDArray[np.bool_]] | None = None
) -> Body:
    """Return a solid as it is searched: all of its skin, or just the faces that are told."""
    whole = skin(solid)
    is_deep = searched(whole) if searched else np.ones(len(whole.areas), dtype=np.bool_)
    told = whole.corners.tobytes() + is_deep.tobytes() + inside.digest
    digest = hashlib.blake2b(told, digest_size=16).digest()
    return _bodies.get(digest, lambda: _body_of(whole, inside, is_deep, digest))


def _body_of(whole: Skin, inside: Scene, is_deep: NDArray[np.bool_], digest: bytes) -> Body:
    ordered = joined([in_order(whole.where(is_deep)), in_order(whole.where(~is_deep))])
    deep = int(is_deep.sum())
    from mallet.cavity.facets import halved

    corners, of = halved(ordered.corners, SKIN_MM)
    along, is_sharp = _inside_of(corners, ordered.normals[of], int((of < deep).sum()), inside)
    points = np.concatenate([along[is_sharp], _lowest(along[~is_sharp])])
    return Body(ordered.corners, ordered.normals, deep, inside, points[np.lexsort(points.T)], digest)


# No two corners of a solid lie so that these tell them apart no better than rounding does.
KEY = np.array([1.0, math.pi, math.e])


def in_order(faces: Skin) -> Skin:
    """Return the same triangles in an order of place, each from its least corner on: how they come depends on what was
    cut before."""
    keys = np.round(faces.corners @ KEY, 7)
    first = (keys.argmin(axis=1)[:, None] + np.arange(3)) % 3
    rows = np.arange(len(keys))[:, None]
    keys, corners = keys[rows, first], faces.corners[rows, first]
    order = np.lexsort(keys.T[::-1])
    return Skin(corners[order], faces.normals[order], faces.areas[order], faces.tags[order])


def _lowest(points: Floats) -> Floats:
    """Return the lowest point of each cell of a grid, in a fixed order."""
    ordered = points[np.lexsort(points.T)]
    cells = np.floor(ordered / SKIN_MM).astype(np.int64) @ np.array([1, 1000, 1000000])
    return np.asarray(ordered[np.sort(np.unique(cells, return_index=True)[1])])


def _inside_of(
    corners: Floats, normals: Floats, deep: int, inside: Scene
) -> tuple[Floats, NDArray[np.bool_]]:
    """Return each corner of the first `deep` of triangles (T, 3, 3) once, drawn in off every face that meets there, and
    whether it is sharp."""
    from mallet.cavity.facets import corners_of

    at, step, spread = corners_of(corners, normals, deep, DAMPING)
    points = np.round(at - INSET_MM * step, DECIMALS)
    clear = inside.clear_inside(points, CLEARANCE_MM)
    if not clear.any():
        # What is feather-thin has no place that is clear of its faces.
        clear[:] = True
    return points[clear], spread[clear] > SHARP


@dataclass(frozen=True)
class Lit:
    """Points (N, 3) of an increment, the one with the least dose first, and the irradiance (N, K) that
    counts there from each of K aims; and points (M, 3) that are nearly as dim, as far as few rays tell."""

    points: Floats
    aims: tuple[Aim, ...]
    irradiance_mw_cm2: Floats
    dim: Floats

    @property
    def weakest_mw_cm2(self) -> float:
        """Return what the first point gets from all aims together."""
        return float(self.irradiance_mw_cm2[0].sum())


def each_mw_cm2(points: Floats, aims: Sequence[Aim], field: Field, grain: Grain) -> Floats:
    """Return the irradiance (N, K) at points (N, 3) from each of K aims."""
    return np.column_stack([field(points, aim, grain) for aim in aims])


def dimmest(
    body: Body, aims: Sequence[Aim], field: Field, rules: Rulebook, at_most_mw_cm2: float = math.inf
) -> Lit:
    """Return the dimmest places of a body: searched with few rays all over, then ever closer around those that are
    dimmest, and measured with ever more.

    Irradiance above the cap does not count further; values are quantised. `at_most_mw_cm2` is what one of
    its places is known to get.
    """
    cap = rules.value("light.irradiance_cap_mw_cm2")

    def least(points: Floats, light: Floats, most: int, within: float) -> tuple[Floats, Floats]:
        counted = np.round(np.minimum(light, cap), DECIMALS)
        total = counted.sum(axis=1)
        order = np.argsort(total, kind="stable")[:most]
        order = order[total[order] <= _within(within, float(total[order[0]]))]
        return points[order], counted[order]

    dim, _ = least(*_rough(body.points, aims, field, at_most_mw_cm2), CLOSER_POINTS, CLOSER_WITHIN)
    dimmer, _ = least(dim, each_mw_cm2(dim, aims, field, CLOSER), len(dim), CLOSER_WITHIN)
    for places, radius_mm, apart_mm in CLOSER_BY:
        near = [body.around(place, radius_mm, apart_mm) for place in apart(dimmer, places)]
        found = _once(np.concatenate([dimmer[:FINE_POINTS], *near]))
        grain = replace(ROUGH, within=NEAR_WITHIN) if len(aims) == 1 else ROUGH
        rough, _ = least(found, each_mw_cm2(found, aims, field, grain), CLOSER_POINTS, NEAR_WITHIN)
        looked = _once(np.concatenate([dimmer[:1], rough]))
        dimmer, _ = least(looked, each_mw_cm2(looked, aims, field, CLOSER), CLOSER_POINTS, FINE_WITHIN)
    last = dimmer[:FINE_POINTS]
    dimmest, counted = least(last, each_mw_cm2(last, aims, field, FINE), FINE_POINTS, math.inf)
    return Lit(dimmest, tuple(aims), counted, dim)


def _once(points: Floats) -> Floats:
    """Return points (N, 3) each once, in their order."""
    return np.asarray(points[np.sort(np.unique(points, axis=0, return_index=True)[1])])


def apart(points: Floats, most: int) -> list[Floats]:
    """Return the first of points (N, 3), at most so many, that lie apart from each other."""
    found: list[Floats] = []
    for point in points:
        if len(found) < most and all(np.linalg.norm(point - other) > APART_MM for other in found):
            found.append(point)
    return found


def ways_worth_taking(
    body: Body,
    ways: Sequence[Sequence[Aim]],
    field: Field,
    rules: Rulebook,
    cost: Callable[[float, int], tuple[bool, float]],
    known: Sequence[Lit] = (),
) -> list[Lit]:
    """Return the dimmest points by each way of lighting that may cost less than those before it, the known ones
    first. `cost` tells of the light at the dimmest point and of how many exposures give it what they cost."""
    found = list(known)
    for aims in ways:
        least = min((cost(lit.weakest_mw_cm2, len(lit.aims)) for lit in found), default=(True, math.inf))
        bounds = _bounds_mw_cm2(found[0], aims, field, rules) if found else iter([math.inf])
        at_most = math.inf
        if all(cost(at_most := bound, len(aims)) < least for bound in bounds):
            found.append(dimmest(body, aims, field, rules, at_most))
    return found


def _bounds_mw_cm2(other: Lit, aims: Sequence[Aim], field: Field, rules: Rulebook) -> Iterator[float]:
    """Yield what the dimmest point surely does not exceed by some aims, ever closer and each at more cost: nothing is
    known, then what is dim by another way is looked at."""
    yield math.inf
    yield FINE_WITHIN * float(each_mw_cm2(other.points, aims, field, CLOSER).sum(axis=1).min())
    looked = other.dim[:LOOK_POINTS]
    yield FINE_WITHIN * float(each_mw_cm2(looked, aims, field, CLOSER).sum(axis=1).min())


def _within(times: float, dimmest_mw_cm2: float) -> float:
    return times * (dimmest_mw_cm2 + GLIMMER_MW_CM2)


def _rough(points: Floats, aims: Sequence[Aim], field: Field, at_most_mw_cm2: float) -> tuple[Floats, Floats]:
    """Return points (N, 3), the dimmest among them, and as far as few rays tell the irradiance (N, K) there: of
    several aims the points that get less than enough from each, as what the others add elsewhere is not worth
    knowing. Enough is what some of the points tell."""
    if len(aims) == 1:
        return points, each_mw_cm2(points, aims, field, replace(ROUGH, within=CLOSER_WITHIN))
    if len(points) <= CLOSER_POINTS:
        return points, each_mw_cm2(points, aims, field, ROUGH)
    dimmest = float(each_mw_cm2(points[::PROBE], aims, field, ROUGH).sum(axis=1).min())
    enough = _within(CLOSER_WITHIN, min(at_most_mw_cm2, dimmest))
    grain = replace(ROUGH, enough_mw_cm2=enough)
    darker, light = points, np.empty((len(points), 0))
    for aim in aims:
        added = field(darker, aim, grain)
        is_darker = added <= enough
        darker, light = darker[is_darker], np.column_stack([light, added])[is_darker]
    # Few rays may err by more than was thought: then all are looked at.
    return (darker, light) if len(darker) else (points, each_mw_cm2(points, aims, field, ROUGH))


def need_of(mass: Composite, weakest_mw_cm2: float, contact_mw_cm2: float, rules: Rulebook) -> Need:
    """Return the need of an increment whose weakest point gets an irradiance; inf where it is dark.

    The manufacturer's seconds hold at the manufacturer's curing light; a weaker curing light takes longer in proportion, a
    stronger one never less.
    """
    dose = dose_wanted_j_cm2(mass, rules)
    by_dose = dose * 1000 / weakest_mw_cm2 if weakest_mw_cm2 > 0 else float("inf")
    by_dose = max(by_dose, rules.value("light.least_exposure_s"))
    return Need(
        dose, by_dose, maker_seconds(mass.manufacturer, contact_mw_cm2) if mass.manufacturer else None
    )


def maker_seconds(maker: ManufacturerCure, contact_mw_cm2: float) -> float:
    """Return a manufacturer's seconds with a curing light: at a weaker one longer in proportion, at a stronger one never less."""
    return maker.seconds * max(1.0, maker.at_irradiance_mw_cm2 / contact_mw_cm2)
