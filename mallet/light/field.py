"""Irradiance inside a cavity by rays to the light's tip.

Every target cuts the tip's disc as it sees it, by turn and by projected solid angle, so that a tip
close by is measured as well as one far off. A ray counts by the beam's radiance unless tooth, metal
band or an adjacent tooth stands in its way, and is weakened by `exp(-sum mu l)` along the restoration that it
crosses. A corner of a box sees a sliver of the tip: cells at the edge of a shadow are therefore cut
finer, and only those.

What is reckoned is planar irradiance on a plane parallel to the tip: what a radiometer reads and
what depth-of-cure readings are taken with. A penetration depth is measured under a spread beam, so that a way
counts as refracted where it enters; of the light that walls keep from a point they return a share.
"""

from __future__ import annotations

import hashlib
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray

from mallet.cavity.measures import finely, longest_vertical_mm
from mallet.cavity.rays import Scene, grouped
from mallet.cavity.solids import skin
from mallet.light.beam import Beam
from mallet.remembered import Remembered

if TYPE_CHECKING:
    from mallet.light.arriving import Cells
    from mallet.light.disc import Disc
    from mallet.rulebook import Rulebook

Floats = NDArray[np.float64]
Way = tuple[float, float, float]
UP: Way = (0.0, 0.0, 1.0)
GLIMMER_MW_CM2 = 2.0
# The light of some fifty plans: most changes to a case leave its solids and its lamp as they are.
_arrived: Remembered[Floats] = Remembered(4096)


@dataclass(frozen=True)
class Filling:
    """Mass that weakens light: one closed solid and its attenuation."""

    scene: Scene
    attenuation_per_mm: float


@dataclass(frozen=True)
class Tip:
    """The curing light's tip: its middle (mm), and the unit vector from what it lights toward it.

    Over the tooth and flat, that is straight up.
    """

    centre: Way
    beam: Beam
    towards: Way = UP


@dataclass(frozen=True)
class Passing:
    """How light passes: the refractive index of what it enters, the share of what walls keep from a point that they
    return to it, and up to how many times its light that makes of it."""

    index: float = 1.0
    returned: float = 0.0
    most: float = 1.0

    @property
    def past_no_walls(self) -> Passing:
        return replace(self, returned=0.0)


# Straight on, with walls that return nothing: the bare geometry.
BARE = Passing()


def passing_of(rules: Rulebook) -> Passing:
    """Return how light passes by the rulebook."""
    return Passing(
        rules.value("light.refractive_index"),
        rules.value("light.wall_return_share"),
        rules.value("light.wall_return_most"),
    )


@dataclass(frozen=True)
class Grain:
    """How finely a disc is cut: rings, cells around, and parts (a side) of a cell at an edge: of a
    shadow, and where the light steps by more than a share of the brightest cell's. Seen through the
    restoration alone light changes gently; through a wall of tooth or beside it, in steps.

    Of a grain with few cells a target may be left off early: once it has got enough (mW/cm2), or more than
    `within` times what the dimmest before it gets with a glimmer on top."""

    rings: int
    around: int
    parts: int = 1
    contrast: float = math.inf
    enough_mw_cm2: float = math.inf
    within: float = math.inf


FINE = Grain(14, 28, 3)


@lru_cache(maxsize=32)
def _rings(count: int) -> tuple[Floats, Floats]:
    """Return Gauss-Legendre nodes on 0 to 1 and the share of each."""
    node, weight = np.polynomial.legendre.leggauss(count)
    return np.asarray((node + 1) / 2), np.asarray(weight / 2)


def irradiance_mw_cm2(
    targets: Floats,
    tip: Tip,
    blockers: Scene,
    fillings: Sequence[Filling] = (),
    grain: Grain = FINE,
    passing: Passing = BARE,
) -> Floats:
    """Return planar irradiance (N,) at targets (N, 3), read-only.

    `restorations` are what is placed and what is being cured.
    """
    told = tuple((filling.scene.digest, filling.attenuation_per_mm) for filling in fillings)
    places = hashlib.blake2b(targets.tobytes(), digest_size=16).digest()

    def reckon() -> Floats:
        light = _arriving(targets, tip, blockers, fillings, grain, passing)
        light.setflags(write=False)
        return light

    return _arrived.get((places, tip, blockers.digest, told, grain, passing), reckon)


def _arriving(
    targets: Floats, tip: Tip, blockers: Scene, fillings: Sequence[Filling], grain: Grain, passing: Passing
) -> Floats:
    from mallet.light.arriving import Optics, field

    media = grouped(tuple(filling.scene for filling in fillings))
    weights = np.array([filling.attenuation_per_mm for filling in fillings] or [0.0])
    optics = Optics(float(passing.index), float(passing.returned), float(passing.most))
    light = field(
        np.ascontiguousarray(targets), disc_of(tip), blockers.trees, media, weights, cells_of(grain), optics
    )
    if not tip.beam.bends:
        return light
    distances_mm = (np.asarray(tip.centre) - targets) @ np.asarray(tip.towards)
    return np.asarray(light * tip.beam.measured_over_fit(distances_mm))


@lru_cache(maxsize=256)
def disc_of(tip: Tip) -> Disc:
    """Return a tip as the compiled loops take it."""
    from mallet.light.disc import Disc

    beam, centre = tip.beam, np.array(tip.centre, dtype=np.float64)
    # Loops are compiled anew for whole numbers.
    sizes = float(beam.radius_mm), float(beam.peak_radiance), float(beam.exponent)
    return Disc(centre, axes_of(tip.towards), *sizes)


@lru_cache(maxsize=256)
def cells_of(grain: Grain) -> Cells:
    """Return a grain as the compiled loops take it."""
    from mallet.light.arriving import Cells

    node, share = _rings(grain.rings)
    early = grain.enough_mw_cm2, grain.within, GLIMMER_MW_CM2
    return Cells(node, share, grain.around, grain.parts, grain.contrast, *early)


@lru_cache(maxsize=64)
def axes_of(towards: Way) -> Floats:
    """Return a right-handed frame (3, 3) whose last row is a unit vector; straight up gives x, y, z."""
    w = np.asarray(towards, dtype=np.float64)
    side = np.cross([0.0, 1.0, 0.0], w) if abs(w[1]) < 0.9 else np.cross(w, [1.0, 0.0, 0.0])
    u = side / np.linalg.norm(side)
    return np.array([u, np.cross(w, u), w])


def warm_up() -> None:
    """Load the compiled loops, or compile them where this machine has not yet."""
    from mallet.cavity.facets import corners_of

    cube = Manifold.cube([1.0, 1.0, 1.0])
    faces = finely(skin(cube), 1.0)
    corners_of(faces.corners, faces.normals, len(faces.areas), 1.0)
    block = Scene(cube)
    middle = np.full((1, 3), 0.5)
    block.clear_inside(middle, 0.1)
    longest_vertical_mm(cube)
    irradiance_mw_cm2(middle, Tip((0.5, 0.5, 2.0), Beam(1.0, 1000.0, 1.0)), Scene(), [Filling(block, 1.0)])
