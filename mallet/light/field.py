"""Irradiance inside a cavity by rays from the lamp's tip.

For every target point rays run to points spread over the tip's disc. A ray counts by the
beam's radiance and both cosines, unless tooth, metal band or a neighbour stands in its way, and is
weakened by `exp(-sum mu l)` along the filling that it crosses.

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
RINGS = 36
AROUND = 64
GOLDEN = 0.6180339887498949


@dataclass(frozen=True)
class Filling:
    """Mass that weakens light: one closed solid, its attenuation, and the height that it ends at."""

    scene: Scene
    attenuation_per_mm: float
    top_mm: float


@dataclass(frozen=True)
class Tip:
    """The lamp's tip over the tooth, facing straight down: centre (x, y, z) in mm."""

    centre: tuple[float, float, float]
    beam: Beam


@lru_cache(maxsize=16)
def tip_disc(radius_mm: float, rings: int = RINGS, around: int = AROUND) -> tuple[Floats, Floats]:
    """Return points (rings * around, 2) on a disc and the area (mm2) that each stands for.

    Gauss-Legendre in the square of the radius, even in angle, each ring turned by the golden section
    so that the edges of a shadow do not fall on a line of points.
    """
    node, weight = np.polynomial.legendre.leggauss(rings)
    radius = radius_mm * np.sqrt((node + 1) / 2)[:, None]
    turn = (np.arange(rings)[:, None] * GOLDEN) % 1
    angle = 2 * math.pi * (np.arange(around)[None, :] + turn) / around
    points = np.stack([radius * np.cos(angle), radius * np.sin(angle)], axis=-1).reshape(-1, 2)
    patch_mm2 = np.repeat(weight / 2, around) * math.pi * radius_mm**2 / around
    return points, patch_mm2


def irradiance_mw_cm2(
    targets: Floats,
    tip: Tip,
    blockers: Scene,
    fillings: Sequence[Filling] = (),
    rings: int = RINGS,
    around: int = AROUND,
) -> Floats:
    """Return planar irradiance (N,) at targets (N, 3).

    `fillings` are what is placed and what is being cured.
    """
    disc, patch_mm2 = tip_disc(tip.beam.radius_mm, rings, around)
    rays = len(disc)
    ends = np.column_stack([disc + tip.centre[:2], np.full(rays, tip.centre[2])])
    span = ends[None, :, :] - targets[:, None, :]
    length = np.linalg.norm(span, axis=2)
    direction = span / length[..., None]
    cosine = np.clip(direction[..., 2], 0.0, 1.0)
    weight = tip.beam.radiance(np.maximum(cosine, 1e-9)) * cosine**2 / length**2 * patch_mm2
    origins = np.repeat(targets, rays, axis=0)
    flat, far = direction.reshape(-1, 3), length.reshape(-1)
    free = ~blockers.blocked(origins, flat, far)
    through = np.zeros(len(origins))
    for filling in fillings:
        # Every ray rises, so what ends below a target cannot weaken its light.
        met = free & (origins[:, 2] < filling.top_mm)
        if met.any():
            way = filling.scene.length_inside(origins[met], flat[met], far[met])
            through[met] += filling.attenuation_per_mm * way
    passed = np.where(free, np.exp(-through), 0.0).reshape(weight.shape)
    return np.asarray((weight * passed).sum(axis=1))
