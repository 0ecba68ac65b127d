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

from mallet.light.aims import Aim, Field
from mallet.light.cure import (
    CLOSER,
    CLOSER_BY,
    CLOSER_POINTS,
    CLOSER_WITHIN,
    DECIMALS,
    FINE_POINTS,
    FINE_WITHIN,
    ROUGH,
    Body,
    Lit,
    apart,
    each_mw_cm2,
)
from mallet.light.field import FINE, GLIMMER_MW_CM2
from mallet.light.presses import Button, Rung
from mallet.light.program import Program, least_rungs, least_seconds
from mallet.rulebook import Rulebook

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
T = TypeVar("T")
# A place nearer than that to one that was searched around is known.
KNOWN_MM = 0.1
# Each grain with what it may err by, at most, the glimmer that it may miss, and how many points are looked at together.
FINER = (
    (ROUGH, CLOSER_WITHIN, GLIMMER_MW_CM2, None),
    (CLOSER, FINE_WITHIN, GLIMMER_MW_CM2, CLOSER_POINTS),
    (FINE, 1.0, 0.0, FINE_POINTS),
)


def least_from_sides(
    body: Body,
    aims: Sequence[Aim],
    field: Field,
    dose_j_cm2: float,
    button: Button,
    rules: Rulebook,
    longest_s: float,
    under_s: float = math.inf,
    *,
    from_each: bool = False,
) -> tuple[Lit, Program] | None:
    """Return the least exposures from several aims together, none over a time, and the points that decide it, or None
    where none suffice that take less than a time in all. With `from_each` no aim is left out."""
    seen = _Seen(body, aims, field, rules)
    rungs = _presses(seen, dose_j_cm2, button, rules, longest_s, under_s, from_each=from_each)
    if not rungs:
        return None
    # The least is that of the sides that are pressed: what an unused one would add is not given.
    used = [i for i, rung in enumerate(rungs) if rung.presses]

    def least(light: Floats) -> tuple[float, ...] | None:
        of_used = least_seconds(light[:, used], dose_j_cm2, longest_s)
        if of_used is None:
            return None
        each_s = dict(zip(used, of_used, strict=True))
        return tuple(each_s.get(i, 0.0) for i in range(len(aims)))

    least_s = _settled(seen, dose_j_cm2, least, float)
    assert least_s, "where cycles suffice, seconds do"
    full_s = [rung.full_s for rung in rungs]
    while True:
        first = seen.darkest_first(full_s)[:FINE_POINTS]
        if not seen.look_closer(first):
            break
    found = seen.points[first]
    return Lit(found, tuple(aims), seen.least_mw_cm2[first], found), Program(least_s, rungs)


class _Seen:
    """Places (N, 3) of a body in the light of K aims, each looked at as closely as was asked: the least and the most
    (N, K) that counts there. Places are added where it is searched closer."""

    def __init__(self, body: Body, aims: Sequence[Aim], field: Field, rules: Rulebook) -> None:
        self.body, self.aims, self.field = body.with_depth(), aims, field
        self.cap_mw_cm2 = rules.value("light.irradiance_cap_mw_cm2")
        none = np.empty((0, len(aims)))
        self.points, self.levels = np.empty((0, 3)), np.empty(0, np.int64)
        self.least_mw_cm2, self.most_mw_cm2 = none, none
        self._searched: list[Floats] = []
        self.add(self.body.points)

    def add(self, points: Floats) -> None:
        """Look roughly at more places."""
        begin, more = len(self.points), np.empty((len(points), len(self.aims)))
        self.points = np.concatenate([self.points, points])
        self.levels = np.concatenate([self.levels, np.full(len(points), -1)])
        self.least_mw_cm2 = np.concatenate([self.least_mw_cm2, more])
        self.most_mw_cm2 = np.concatenate([self.most_mw_cm2, more])
        self.look_closer(np.arange(begin, len(self.points)))

    def search(self, full_s: Sequence[float]) -> bool:
        """Add the darkest places around those that such exposures leave darkest; tell whether there were any."""
        order = self.darkest_first(full_s)[:CLOSER_POINTS]
        known = self._searched
        fresh = [
            place
            for place in apart(self.points[order], CLOSER_BY[0][0])
            if all(np.linalg.norm(place - other) > KNOWN_MM for other in known)
        ]
        known += fresh
        near = [np.empty((0, 3)), *(self.body.around(p, *by) for p in fresh for _, *by in CLOSER_BY)]
        found = np.concatenate(near)
        if not len(found):
            return False
        rough = each_mw_cm2(found, self.aims, self.field, ROUGH) @ full_s
        self.add(found[np.argsort(rough, kind="stable")[:CLOSER_POINTS]])
        return True

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
    seen: _Seen,
    dose_j_cm2: float,
    button: Button,
    rules: Rulebook,
    longest_s: float,
    under_s: float,
    *,
    from_each: bool,
) -> tuple[Rung, ...] | None:
    least_s = rules.value("light.least_exposure_s")

    def least(light: Floats) -> tuple[Rung, ...] | None:
        rungs = least_rungs(light, dose_j_cm2, button, least_s, longest_s, from_each=from_each)
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
        if not seen.look_closer(order[doses[order] < dose_j_cm2]) and not seen.search(seconds):
            break
    return found


def hopes_from_sides_s(
    lit: Lit,
    aims: Sequence[Aim],
    field: Field,
    dose_j_cm2: float,
    button: Button,
    rules: Rulebook,
    longest_s: float,
) -> Iterator[float]:
    """Yield how long exposures from several aims together, none over a time, surely take at least, ever closer and
    each at more cost: at points that are dim in another light. Infinite where these do not suffice."""
    cap, least_s = rules.value("light.irradiance_cap_mw_cm2"), rules.value("light.least_exposure_s")
    yield button.least(least_s).seconds
    known = dict(zip(lit.aims, lit.irradiance_mw_cm2.T, strict=True))
    for grain, errs, glimmer, _ in FINER:
        rows = [
            known[aim] if aim in known else (field(lit.points, aim, grain) + glimmer) * errs for aim in aims
        ]
        light = np.round(np.minimum(np.column_stack(rows), cap), DECIMALS)
        rungs = least_rungs(light, dose_j_cm2, button, least_s, longest_s)
        yield sum(rung.seconds for rung in rungs) if rungs else math.inf
