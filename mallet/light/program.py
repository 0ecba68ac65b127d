"""The least time under the light: how long from each side, so that every point reaches its dose."""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from mallet.light.presses import HAIR_S, Button, Rung

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
MJ_PER_J = 1000.0


@dataclass(frozen=True)
class Program:
    """Exposures from each of K aims: the least seconds at full output that suffice, and whole curing cycles,
    never less in all."""

    least_s: tuple[float, ...]
    rungs: tuple[Rung, ...]

    @property
    def seconds(self) -> tuple[float, ...]:
        """Return how long each exposure lasts."""
        return tuple(rung.seconds for rung in self.rungs)

    @property
    def full_s(self) -> tuple[float, ...]:
        """Return what each exposure stands for at full output."""
        return tuple(rung.full_s for rung in self.rungs)


def least_seconds(irradiance_mw_cm2: Floats, dose_j_cm2: float, longest_s: float) -> tuple[float, ...] | None:
    """Return the shortest exposures at full output from K sides that bring a dose to N points (N, K), each
    `longest_s` at most, or None: by a linear program."""
    from scipy.optimize import linprog  # slow to load: not before it is needed

    rate = irradiance_mw_cm2 / MJ_PER_J
    bounds = [(0.0, longest_s)] * rate.shape[1]
    found = linprog(np.ones(len(bounds)), A_ub=-rate, b_ub=np.full(len(rate), -dose_j_cm2), bounds=bounds)
    return tuple(float(t) for t in found.x) if found.success else None


def least_rungs(
    irradiance_mw_cm2: Floats,
    dose_j_cm2: float,
    button: Button,
    least_s: float,
    longest_s: float,
    *,
    from_each: bool = False,
) -> tuple[Rung, ...] | None:
    """Return the whole curing cycles of the shortest exposures from K sides that bring a dose to N points (N, K), or None:
    the least total, then the fewest presses, then the most from the first sides. An exposure that is made stands for
    `least_s` at full output or more, and lasts `longest_s` at most; with `from_each` no side is left out."""
    sides = irradiance_mw_cm2.shape[1]
    rungs, full_s, seconds, presses, others = _choices(button, least_s, longest_s, sides, from_each)
    if not any(rung.presses for rung in rungs):
        return None
    rate = irradiance_mw_cm2 / MJ_PER_J
    # What the last side has to add to each choice of the others; a point it does not reach must be done.
    missing = dose_j_cm2 - full_s[others] @ rate[:, :-1].T
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        wanted = np.where(missing > 0, missing / rate[:, -1], 0.0).max(axis=1)
    at = np.searchsorted(full_s, wanted - HAIR_S)
    fits = at < len(rungs)
    if not fits.any():
        return None
    choices = np.column_stack([others[fits], at[fits]])
    each_s = seconds[choices]
    # The last key sorts first.
    best = np.lexsort((*(-each_s.T)[::-1], presses[choices].sum(axis=1), each_s.sum(axis=1)))[0]
    return tuple(rungs[i] for i in choices[best])


@lru_cache(maxsize=16)
def _choices(
    button: Button, least_s: float, longest_s: float, sides: int, from_each: bool
) -> tuple[tuple[Rung, ...], Floats, Floats, Ints, Ints]:
    """Return the rungs of a button, what each stands for at full output, lasts and takes in presses, and every
    choice of them for all sides but the last (M, K - 1)."""
    rungs = button.rungs(least_s, longest_s)[1 if from_each else 0 :]
    others = np.array(list(itertools.product(range(len(rungs)), repeat=sides - 1)), dtype=np.int64)
    each = np.array([(rung.full_s, rung.seconds) for rung in rungs])
    return rungs, each[:, 0], each[:, 1], np.array([len(rung.presses) for rung in rungs]), others
