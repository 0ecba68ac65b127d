"""Light from several sides together: the least exposures that bring every point its dose.

Points are looked at roughly first, as far as that may err; only those that tell against exposures which may suffice
are looked at closer.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from mallet.light.cure import (
    CLOSER,
    CLOSER_POINTS,
    CLOSER_WITHIN,
    DECIMALS,
    FINE_POINTS,
    FINE_WITHIN,
    ROUGH,
    Aim,
    Field,
    Lit,
    each_mw_cm2,
)
from mallet.light.field import FINE, GLIMMER_MW_CM2
from mallet.light.presses import Button, Rung
from mallet.light.program import Program, least_rungs, least_seconds
from mallet.rulebook import Rulebook

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
T = TypeVar("T")
# Each grain with what it may err by, at most, the glimmer that it may miss, and how many points are looked at together.
FINER = (
    (ROUGH, CLOSER_WITHIN, GLIMMER_MW_CM2, None),
    (CLOSER, FINE_WITHIN, GLIMMER_MW_CM2, CLOSER_POINTS),
    (FINE, 1.0, 0.0, FINE_POINTS),
)


def least_from_sides(
    points: Floats,
    aims: Sequence[Aim],
    field: Field,
    dose_j_cm2: float,
    button: Button,
    rules: Rulebook,
    under_s: float = math.inf,
) -> tuple[Lit, Program] | None:
    """Return the least exposures from several aims together and the points that decide it, or None
    where none suffice that take less than a time in all."""
    seen, longest_s = _Seen(points, aims, field, rules), rules.value("light.longest_exposure_s")
    rungs = _presses(seen, dose_j_cm2, button, rules, under_s)
    if not rungs:
        return None
    least_s = _settled(seen, dose_j_cm2, lambda light: least_seconds(light, dose_j_cm2, longest_s), float)
    assert least_s, "where presses suffice, seconds do"
    while True:
        first = seen.darkest_first([rung.full_s for rung in rungs])[:FINE_POINTS]
        if not seen.look_closer(first):
            break
    lit = Lit(points[first], tuple(aims), seen.least_mw_cm2[first], points[first])
    return lit, Program(least_s, rungs)


def presses_from_sides(
    points: Floats,
    aims: Sequence[Aim],
    field: Field,
    dose_j_cm2: float,
    button: Button,
    rules: Rulebook,
    under_s: float = math.inf,
) -> tuple[Rung, ...] | None:
    """Return the whole presses alone of the least exposures from several aims together, or None where none suffice
    that take less than a time in all."""
    return _presses(_Seen(points, aims, field, rules), dose_j_cm2, button, rules, under_s)


class _Seen:
    """Points (N, 3) in the light of K aims, each looked at as closely as was asked: the least and the most (N, K)
    that counts there."""

    def __init__(self, points: Floats, aims: Sequence[Aim], field: Field, rules: Rulebook) -> None:
        self.points, self.aims, self.field = points, aims, field
        self.cap_mw_cm2 = rules.value("light.irradiance_cap_mw_cm2")
        self.levels = np.full(len(points), -1)
        self.least_mw_cm2, self.most_mw_cm2 = np.empty((2, len(points), len(aims)))
        self.look_closer(np.arange(len(points)))

    def look_closer(self, which: Ints) -> bool:
        """Look by more rays at those of some points that are known least, the first of them where they are many; tell
        whether there was more to be seen."""
        level = int(self.levels[which].min(initial=len(FINER) - 1)) + 1
        if level == len(FINER):
            return False
        grain, errs, glimmer, most = FINER[level]
        which = which[self.levels[which] < level][:most]
        light = each_mw_cm2(self.points[which], self.aims, self.field, grain)
        self.levels[which] = level
        self.least_mw_cm2[which] = np.round(np.minimum(light, self.cap_mw_cm2) / errs, DECIMALS)
        self.most_mw_cm2[which] = np.round(np.minimum((light + glimmer) * errs, self.cap_mw_cm2), DECIMALS)
        return True

    def doses_j_cm2(self, full_s: Sequence[float]) -> Floats:
        """Return the least dose (N,) that seconds at full output from each aim surely bring."""
        return np.asarray(self.least_mw_cm2 @ full_s / 1000)

    def darkest_first(self, full_s: Sequence[float]) -> Ints:
        return np.argsort(self.doses_j_cm2(full_s), kind="stable")


def _presses(
    seen: _Seen, dose_j_cm2: float, button: Button, rules: Rulebook, under_s: float
) -> tuple[Rung, ...] | None:
    least_s, longest_s = rules.value("light.least_exposure_s"), rules.value("light.longest_exposure_s")

    def least(light: Floats) -> tuple[Rung, ...] | None:
        rungs = least_rungs(light, dose_j_cm2, button, least_s, longest_s)
        return rungs if rungs and sum(rung.seconds for rung in rungs) < under_s else None

    return _settled(seen, dose_j_cm2, least, lambda rung: rung.full_s)


def _settled(
    seen: _Seen,
    dose_j_cm2: float,
    least: Callable[[Floats], tuple[T, ...] | None],
    full_s: Callable[[T], float],
) -> tuple[T, ...] | None:
    """Return the least exposures that suffice: those that may, until they surely do. What tells against them is looked
    at closer."""
    while found := least(seen.most_mw_cm2):
        seconds = [full_s(one) for one in found]
        doses, order = seen.doses_j_cm2(seconds), seen.darkest_first(seconds)
        if not seen.look_closer(order[doses[order] < dose_j_cm2]):
            break
    return found


def hopes_from_sides_s(
    lit: Lit, aims: Sequence[Aim], field: Field, dose_j_cm2: float, button: Button, rules: Rulebook
) -> Iterator[float]:
    """Yield how long exposures from several aims together surely take at least, ever closer and each at more cost:
    at points that are dim in another light. Infinite where these do not suffice."""
    cap = rules.value("light.irradiance_cap_mw_cm2")
    least_s, longest_s = rules.value("light.least_exposure_s"), rules.value("light.longest_exposure_s")
    yield button.least(least_s).seconds
    known = dict(zip(lit.aims, lit.irradiance_mw_cm2.T, strict=True))
    for grain, errs, glimmer, _ in FINER:
        rows = [
            known[aim] if aim in known else (field(lit.points, aim, grain) + glimmer) * errs for aim in aims
        ]
        light = np.round(np.minimum(np.column_stack(rows), cap), DECIMALS)
        rungs = least_rungs(light, dose_j_cm2, button, least_s, longest_s)
        yield sum(rung.seconds for rung in rungs) if rungs else math.inf
