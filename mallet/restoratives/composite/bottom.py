"""Whether flat layers are surely too thick: told by a few places at the bottom, before anything is cut."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from mallet.cavity.preparation import Cavity
from mallet.cavity.rays import Scene
from mallet.cavity.solids import Skin, skin
from mallet.curing.around import Surroundings
from mallet.light.aims import LESS_WIDE_SHARE, aims_over
from mallet.light.beam import Beam
from mallet.light.cure import CLOSER, DAMPING, FINE_WITHIN, INSET_MM, ROUGH, each_mw_cm2, need_of
from mallet.light.field import Filling
from mallet.light.working_curve import curve_of
from mallet.restoratives.composite.layering import is_flat, lowest_lift
from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.restoration import Composite

Floats = NDArray[np.float64]
FLOOR_MM = 0.05
# In so many parts of the way round a floor is looked at; where it is darkest, more closely.
PARTS, FEW = 16, 2


def bottom_of(
    case: Case, cavity: Cavity, mass: Composite, around: Surroundings, beam: Beam, rules: Rulebook
) -> Callable[[float, float], bool]:
    """Return what tells of a limit in mm whether the lowest of flat layers so thick surely gets too little light for
    exposures so long (s) from any place: at one of some places at its bottom, whichever way it is lit from where the
    cavity opens to.

    With other techniques, or light from the sides too, that is not known beforehand.
    """
    if not is_flat(case.composite, cavity, rules) or around.tooth:
        return lambda limit_mm, longest_s: False
    mu = curve_of(mass).attenuation_per_mm
    a_second_s = need_of(mass, 1.0, beam.contact_mw_cm2, rules).seconds_by_dose
    _, _, low, _, _, high = cavity.filling.bounding_box()
    height_mm = high - low
    floor = _floor(skin(cavity.filling))
    places = _round_about(floor)
    ways = aims_over(floor, around.skyline, beam, around.hold, LESS_WIDE_SHARE)

    # How thick a layer each way was looked through last, and what the darkest place got: the first one through none.
    seen = {0: (0.0, float(each_mw_cm2(places, ways[0], around.through(()), ROUGH).sum(axis=1).min()))}

    def is_surely_too_dark(limit_mm: float, longest_s: float) -> bool:
        least_mw_cm2 = a_second_s / longest_s
        thick_mm, lowest = lowest_lift(cavity, limit_mm)
        # What is filled in one layer is of another mass, perhaps, and nothing is cut of it.
        if thick_mm >= height_mm:
            return False
        # What was seen tells roughly of other layers, and of most that there is no need to look.
        if any(light * math.exp(mu * (mm - thick_mm)) >= least_mw_cm2 for mm, light in seen.values()):
            return False
        lift = Scene(lowest)
        field, inside = around.through([Filling(lift, mu)]), places[lift.contains(places)]
        for way, aims in enumerate(ways):
            rough = each_mw_cm2(inside, aims, field, ROUGH).sum(axis=1)
            darkest = inside[np.argsort(rough, kind="stable")[:FEW]]
            light = FINE_WITHIN * each_mw_cm2(darkest, aims, field, CLOSER).sum(axis=1)
            seen[way] = thick_mm, float(light.min(initial=math.inf))
            if not seen[way][1] < least_mw_cm2:
                return False
        return True

    return is_surely_too_dark


def _floor(whole: Skin) -> Floats:
    """Return places (N, 3) just inside the corners of the lowest floor of a solid's skin."""
    from mallet.cavity.facets import corners_of

    low = whole.corners[:, :, 2].min() + FLOOR_MM
    near = whole.where((whole.corners[:, :, 2] <= low).any(axis=1))
    at, step, _ = corners_of(near.corners, near.normals, len(near.areas), DAMPING)
    return np.asarray((at - INSET_MM * step)[at[:, 2] <= low])


def _round_about(floor: Floats) -> Floats:
    """Return of each part of the way round a floor the places nearest to and farthest from its middle."""
    out = floor[:, :2] - (floor[:, :2].min(axis=0) + floor[:, :2].max(axis=0)) / 2
    part = np.floor(np.arctan2(out[:, 1], out[:, 0]) / (2 * np.pi) * PARTS + 0.5) % PARTS
    order = np.lexsort((np.hypot(*out.T), part))
    begins = np.flatnonzero(np.diff(part[order], prepend=-1))
    ends = np.append(begins[1:], len(order)) - 1
    return np.asarray(floor[order[np.union1d(begins, ends)]])
