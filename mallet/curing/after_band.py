"""Once a band is off: light from both sides on the surface that it shaded."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray

from mallet.cavity.band import Band
from mallet.cavity.boxes import SIGN
from mallet.cavity.preparation import Cavity
from mallet.cavity.rays import Scene
from mallet.curing.around import Surroundings
from mallet.curing.cured import Cured
from mallet.light.aims import Field, side_aims
from mallet.light.beam import Beam
from mallet.light.cure import DECIMALS, INSET_MM
from mallet.light.field import Filling, Grain
from mallet.light.presses import Rung, button_of
from mallet.light.program import least_rungs
from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.parts import Side

Floats = NDArray[np.float64]
GRID_MM, GRAIN, NEARER = 1.5, Grain(4, 10), 0.1


@dataclass(frozen=True)
class AfterBand:
    """What one box gets from its sides once its metal band is off: the presses from each, the least that
    they add on the surface that it shaded, and what a rule wants there, both in shares of the need."""

    side: Side
    exposures: tuple[tuple[str, Rung], ...]
    adds: float
    wanted: float

    @property
    def is_enough(self) -> bool:
        return self.adds >= self.wanted - 1e-9


def after_bands(
    case: Case,
    cavity: Cavity,
    cured: Sequence[Cured],
    bands: Sequence[Band],
    neighbours: Sequence[Manifold],
    around: Surroundings,
    beam: Beam,
    rules: Rulebook,
) -> list[AfterBand]:
    """Return what each box gets once the metal band that shaded it is off, if it shaded any; what was laid in bulk behind a
    clear one too."""
    in_bulk = any(one.portion.part == "bulk" for one in cured)
    sides = [band.side for band in bands if band.is_metal or in_bulk]
    shaded = {side: [(c, points) for c in cured if len(points := _shaded(c, side))] for side in sides}
    if not any(shaded.values()):
        return []
    # What is left of the tooth counts as dentin throughout, the darker of its two tissues.
    left = Scene(cavity.remaining_tooth, *(base.solid for base in cavity.bases))
    dentin = Filling(left, rules.value("light.dentin_attenuation_per_mm"))
    # The bands that are still on block nothing of the other box.
    bare = replace(around, beside=Scene(*cavity.pins, *neighbours), tooth=(dentin,))
    placed = [c.filling for c in cured]
    return [
        _of_box(side, case, behind, bare, bare.through(placed), beam, rules)
        for side, behind in shaded.items()
        if behind
    ]


def _of_box(
    side: Side,
    case: Case,
    behind: Sequence[tuple[Cured, Floats]],
    bare: Surroundings,
    field: Field,
    beam: Beam,
    rules: Rulebook,
) -> AfterBand:
    """Return the least from facial and lingual that adds a share of the need everywhere; the habit's time
    where no exposure does."""
    button, wanted = button_of(case.light), rules.value("light.final_share")
    points = _spread_out(np.concatenate([some for _, some in behind]))
    # Where portions of several masses lie behind the band, the one that wants most counts for all.
    dose = max(c.need.dose_j_cm2 for c, _ in behind)
    aims = side_aims(points, bare.skyline, beam, bare.hold)
    light = np.column_stack([field(points, aim, GRAIN) for aim in aims])
    light = np.minimum(light, rules.value("light.irradiance_cap_mw_cm2"))
    least_s, longest_s = rules.value("light.least_exposure_s"), rules.value("light.longest_exposure_s")
    found = least_rungs(light, wanted * dose, button, least_s, longest_s)
    if found:
        rungs = [rung if rung.presses else button.least(least_s) for rung in found]
    else:
        rungs = [button.least(rules.value("light.final_cure_s"))] * len(aims)
    adds = float((light @ [rung.full_s for rung in rungs]).min()) / 1000 / dose
    names = [aim.name for aim in aims]
    return AfterBand(side, tuple(zip(names, rungs, strict=True)), adds, wanted)


def _shaded(cured: Cured, side: Side) -> Floats:
    """Return points (N, 3) just inside what an increment had against a band, close to its margins too."""
    faces = cured.contacts.band
    corners = faces.corners + NEARER * (faces.centres[:, None] - faces.corners)
    points = (corners - INSET_MM * faces.normals[:, None]).reshape(-1, 3)
    return np.round(points[SIGN[side] * points[:, 0] > 0], DECIMALS)


def _spread_out(points: Floats) -> Floats:
    """Return of each cell of a grid over a surface, seen from beside, the point that lies lowest and
    outermost, in a fixed order: margins are darkest."""
    x, y, z = points.T
    ordered = points[np.lexsort((x, y, z - np.abs(y)))]
    cells = np.floor(ordered[:, 1:] / GRID_MM).astype(np.int64) @ np.array([1, 1000])
    return np.asarray(ordered[np.sort(np.unique(cells, return_index=True)[1])])
