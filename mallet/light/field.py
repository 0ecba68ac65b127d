"""Irradiance inside a cavity by rays to the lamp's tip.

Every target cuts the tip's disc as it sees it, by turn and by projected solid angle, so that a tip
close by is measured as well as one far off. A ray counts by the beam's radiance unless tooth, metal
band or a neighbour stands in its way, and is weakened by `exp(-sum mu l)` along the filling that it
crosses. A corner of a box sees a sliver of the tip: cells at the edge of a shadow are therefore cut
finer, and only those.

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
    """How finely a disc is cut: rings, cells around, and parts (a side) of a cell in half shadow."""

    rings: int
    around: int
    parts: int = 1


FINE = Grain(14, 28, 3)
# A tip that touches a target still has it in front.
LEAST_HEIGHT_MM = 1e-3


@dataclass(frozen=True)
class _View:
    """A tip's disc as N targets see it: height above each and how far beside it the middle lies (N,),
    which way (N, 2), and how far round it reaches to either side of that (N,)."""

    height: Floats
    beside: Floats
    towards: Floats
    half_turn: Floats
    is_outside: Bools
    radius_mm: float

    def cells(self, of: Ints, ring: Floats, turn: Floats) -> tuple[Floats, Floats]:
        """Return where places on the disc lie from a target (..., 2), and the projected solid angle
        (sr) that they stand for a unit of `ring` and of `turn`.

        `ring` (outward) and `turn` run from 0 to 1 over what target `of` sees; all three broadcast.
        """
        half_turn, beside = self.half_turn[of], self.beside[of]
        squared_height = np.maximum(self.height[of], LEAST_HEIGHT_MM) ** 2
        # Seen from outside, the chords shrink towards the ends: places gather there.
        bent = math.pi * (turn - 0.5)
        angle = half_turn * np.where(self.is_outside[of], np.sin(bent), 2 * turn - 1)
        stretch = half_turn * np.where(self.is_outside[of], math.pi * np.cos(bent), 2.0)
        middle = beside * np.cos(angle)
        half = np.sqrt(np.maximum(self.radius_mm**2 - (beside * np.sin(angle)) ** 2, 0.0))
        near, far = np.maximum(middle - half, 0.0) ** 2, (middle + half) ** 2
        low, high = near / (near + squared_height), far / (far + squared_height)
        seen = low + ring * (high - low)
        away = np.sqrt(squared_height * seen / (1 - seen))
        east, north = self.towards[of, 0], self.towards[of, 1]
        cos, sin = np.cos(angle), np.sin(angle)
        places = np.stack([away * (cos * east - sin * north), away * (sin * east + cos * north)], axis=-1)
        return places, np.where(self.height[of] > 0, stretch * (high - low) / 2, 0.0)


def _view(targets: Floats, tip: Tip) -> _View:
    away = np.array(tip.centre) - targets
    beside = np.hypot(away[:, 0], away[:, 1])
    radius = tip.beam.radius_mm
    is_outside = beside > radius
    half_turn = np.where(is_outside, np.arcsin(radius / np.maximum(beside, radius)), math.pi)
    towards = np.where(beside[:, None] > LEAST_HEIGHT_MM, away[:, :2], [1.0, 0.0])
    towards /= np.linalg.norm(towards, axis=1, keepdims=True)
    return _View(away[:, 2], beside, towards, half_turn, is_outside, radius)


@lru_cache(maxsize=32)
def _rings(count: int) -> tuple[Floats, Floats]:
    """Return Gauss-Legendre nodes on 0 to 1 and the share of each."""
    node, weight = np.polynomial.legendre.leggauss(count)
    return np.asarray((node + 1) / 2), np.asarray(weight / 2)


@dataclass(frozen=True)
class _Rays:
    """Rays from targets to the tip: the target's index, origin, direction, length, and the projected
    solid angle (sr) that each stands for."""

    target: Ints
    origins: Floats
    directions: Floats
    lengths: Floats
    spread_sr: Floats

    def where(self, keep: Bools) -> _Rays:
        return _Rays(*(v[keep] for v in vars(self).values()))

    def and_also(self, other: _Rays) -> _Rays:
        pairs = zip(vars(self).values(), vars(other).values(), strict=True)
        return _Rays(*(np.concatenate(pair) for pair in pairs))


def _rays(targets: Floats, view: _View, of: Ints, ring: Floats, turn: Floats, share: Floats) -> _Rays:
    """Return rays to places on the disc, each standing for a share of it; all broadcast."""
    places, spread = view.cells(of, ring, turn)
    index = np.broadcast_to(of, places.shape[:-1]).reshape(-1)
    rise = np.maximum(view.height[index], LEAST_HEIGHT_MM)
    span = np.column_stack([places.reshape(-1, 2), rise])
    lengths = np.sqrt(np.einsum("ij,ij->i", span, span))
    weight = np.broadcast_to(spread * share, places.shape[:-1]).reshape(-1)
    return _Rays(index, targets[index], span / lengths[:, None], lengths, weight)


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
    count, around, parts = len(targets), grain.around, grain.parts
    view = _view(targets, tip)
    node, share = _rings(grain.rings)
    every, turn = np.arange(count)[:, None, None], (np.arange(around)[:, None] + 0.5) / around
    whole = _rays(targets, view, every, node, turn, share / around)
    free = ~blockers.blocked(whole.origins, whole.directions, whole.lengths)
    if parts == 1:
        return _sum(count, whole.where(free), tip, fillings)
    edge = _half_shadow(free.reshape(count, around, grain.rings))
    at, column, row = (index[:, None, None] for index in np.nonzero(edge))
    within = (np.arange(parts) + 0.5) / parts
    ring = (np.cumsum(share) - share)[row] + within * share[row]
    turn = (column + within[:, None]) / around
    pieces = _rays(targets, view, at, ring, turn, share[row] / (around * parts**2))
    lit = pieces.where(~blockers.blocked(pieces.origins, pieces.directions, pieces.lengths))
    return _sum(count, whole.where(free & ~edge.reshape(-1)).and_also(lit), tip, fillings)


def _half_shadow(free: Bools) -> Bools:
    """Tell which cells (N, around, rings) differ from any of the four beside them."""
    edge = np.zeros_like(free)
    for turn in (-1, 1):
        edge |= np.roll(free, turn, axis=1) != free
    across = free[..., 1:] != free[..., :-1]
    edge[..., 1:] |= across
    edge[..., :-1] |= across
    return edge


def _sum(count: int, rays: _Rays, tip: Tip, fillings: Sequence[Filling]) -> Floats:
    """Return what free rays bring to each of so many targets."""
    through = np.zeros(len(rays.target))
    for filling in fillings:
        way = filling.scene.length_inside(rays.origins, rays.directions, rays.lengths)
        through += filling.attenuation_per_mm * way
    cosine = np.clip(rays.directions[:, 2], 1e-9, 1.0)
    gain = tip.beam.radiance(cosine) * rays.spread_sr
    brought = np.bincount(rays.target, gain * np.exp(-through), minlength=count)
    return np.asarray(brought, dtype=np.float64)
