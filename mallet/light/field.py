"""Irradiance inside a cavity by rays from the lamp's tip.

For every target point rays run to points spread over the tip's disc. A ray counts by the
beam's radiance and both cosines, unless tooth, metal band or a neighbour stands in its way, and is
weakened by `exp(-sum mu l)` along the filling that it crosses. A corner of a box sees a sliver of the
tip: cells of the disc at the edge of a shadow are therefore cut finer, and only those.

What is reckoned is planar irradiance on a plane parallel to the tip: what a radiometer reads and
what depth-of-cure readings are taken with. Walls reflect nothing here, so it is a lower bound.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from mallet.cavity.rays import Scene
from mallet.light.beam import Beam

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]


@dataclass(frozen=True)
class Filling:
    """Mass that weakens light: one closed solid and its attenuation."""

    scene: Scene
    attenuation_per_mm: float


@dataclass(frozen=True)
class Tip:
    """The lamp's tip over the tooth, facing straight down: centre (x, y, z) in mm."""

    centre: tuple[float, float, float]
    beam: Beam


@dataclass(frozen=True)
class Grain:
    """How finely a disc is cut: rings, cells a ring, and parts (a side) of a cell in half shadow."""

    rings: int
    around: int
    parts: int = 1


FINE = Grain(16, 32, 3)


@dataclass(frozen=True)
class _Cells:
    """Points (N, 2) on a disc, each standing for an area (mm2); with the points (N, K, 2) and the
    area of the parts of each cell."""

    points: Floats
    areas_mm2: Floats
    part_points: Floats


@lru_cache(maxsize=32)
def _cells(radius_mm: float, grain: Grain) -> _Cells:
    """Return the cells of a disc, ring by ring from the middle.

    Gauss-Legendre in the square of the radius, even in angle and symmetric to both axes; parts lie
    evenly in the share of area that a cell stands for.
    """
    node, weight = np.polynomial.legendre.leggauss(grain.rings)
    share = np.asarray(weight / 2, dtype=np.float64)
    begin = np.cumsum(share) - share
    middle = (np.arange(grain.parts) + 0.5) / grain.parts
    within = begin[:, None] + middle * share[:, None]
    turn = (np.arange(grain.around)[:, None] + middle) / grain.around

    def places(squared: Floats, turned: Floats) -> Floats:
        radius, angle = radius_mm * np.sqrt(squared), 2 * math.pi * turned
        return np.stack(np.broadcast_arrays(radius * np.cos(angle), radius * np.sin(angle)), axis=-1)

    centre = (np.arange(grain.around) + 0.5) / grain.around
    points = places(((node + 1) / 2)[:, None], centre[None, :]).reshape(-1, 2)
    parts = places(within[:, None, :, None], turn[None, :, None, :])
    areas = np.repeat(share, grain.around) * math.pi * radius_mm**2 / grain.around
    return _Cells(points, areas, parts.reshape(len(points), -1, 2))


@dataclass(frozen=True)
class _Rays:
    """Rays from targets to the tip: the target's index, origin, direction, length, area at the tip."""

    target: Ints
    origins: Floats
    directions: Floats
    lengths: Floats
    areas_mm2: Floats

    def where(self, keep: Bools) -> _Rays:
        return _Rays(*(v[keep] for v in vars(self).values()))

    def and_also(self, other: _Rays) -> _Rays:
        pairs = zip(vars(self).values(), vars(other).values(), strict=True)
        return _Rays(*(np.concatenate(pair) for pair in pairs))


def _rays(targets: Floats, index: Ints, places: Floats, areas_mm2: Floats, tip: Tip) -> _Rays:
    """Return rays from targets[index] (N,) to places (N, 2) on the tip's disc."""
    origins = targets[index]
    span = np.empty_like(origins)
    span[:, :2] = places + tip.centre[:2] - origins[:, :2]
    span[:, 2] = tip.centre[2] - origins[:, 2]
    lengths = np.sqrt(np.einsum("ij,ij->i", span, span))
    return _Rays(index, origins, span / lengths[:, None], lengths, areas_mm2)


def irradiance_mw_cm2(
    targets: Floats,
    tip: Tip,
    blockers: Scene,
    fillings: Sequence[Filling] = (),
    grain: Grain = FINE,
) -> Floats:
    """Return planar irradiance (N,) at targets (N, 3).

    `fillings` are what is placed and what is being cured.
    """
    cells = _cells(tip.beam.radius_mm, grain)
    count = len(cells.points)
    index = np.repeat(np.arange(len(targets)), count)
    places = np.tile(cells.points, (len(targets), 1))
    whole = _rays(targets, index, places, np.tile(cells.areas_mm2, len(targets)), tip)
    free = ~blockers.blocked(whole.origins, whole.directions, whole.lengths)
    if grain.parts == 1:
        return _sum(len(targets), whole.where(free), tip, fillings)
    edge = _half_shadow(free.reshape(-1, grain.rings, grain.around)).reshape(-1, count)
    at, cell = np.nonzero(edge)
    pieces = grain.parts**2
    areas = np.repeat(cells.areas_mm2[cell] / pieces, pieces)
    parts = _rays(targets, np.repeat(at, pieces), cells.part_points[cell].reshape(-1, 2), areas, tip)
    lit = parts.where(~blockers.blocked(parts.origins, parts.directions, parts.lengths))
    return _sum(len(targets), whole.where(free & ~edge.reshape(-1)).and_also(lit), tip, fillings)


def _half_shadow(free: Bools) -> Bools:
    """Tell which cells (N, rings, around) differ from any of the four beside them."""
    edge = np.zeros_like(free)
    for turn in (-1, 1):
        edge |= np.roll(free, turn, axis=2) != free
    across = free[:, 1:] != free[:, :-1]
    edge[:, 1:] |= across
    edge[:, :-1] |= across
    return edge


def _sum(count: int, rays: _Rays, tip: Tip, fillings: Sequence[Filling]) -> Floats:
    """Return what free rays bring to each of so many targets."""
    through = np.zeros(len(rays.target))
    for filling in fillings:
        way = filling.scene.length_inside(rays.origins, rays.directions, rays.lengths)
        through += filling.attenuation_per_mm * way
    cosine = np.clip(rays.directions[:, 2], 1e-9, 1.0)
    gain = tip.beam.radiance(cosine) * cosine**2 / rays.lengths**2 * rays.areas_mm2
    brought = np.bincount(rays.target, gain * np.exp(-through), minlength=count)
    return np.asarray(brought, dtype=np.float64)
