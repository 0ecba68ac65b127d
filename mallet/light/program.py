"""The least time under the light: how long from each side, so that every point reaches its dose."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from mallet.light.presses import lengths_of, presses_for

Floats = NDArray[np.float64]
MJ_PER_J = 1000.0
HAIR_S = 1e-9


@dataclass(frozen=True)
class Program:
    """Exposures from each of K aims: the least seconds that suffice, and whole presses, never less."""

    least_s: tuple[float, ...]
    presses: tuple[tuple[float, ...], ...]

    @property
    def seconds(self) -> tuple[float, ...]:
        return tuple(sum(one) for one in self.presses)


def least_program(
    irradiance_mw_cm2: Floats, dose_j_cm2: float, steps_s: Sequence[float], least_s: float, longest_s: float
) -> Program | None:
    """Return the shortest exposures from K sides that bring a dose to N points (N, K), or None.

    By a linear program; then in whole presses the least total, then the fewest presses, then the most
    from the first sides. An exposure that is made lasts from `least_s` to `longest_s`.
    """
    presses = least_presses(irradiance_mw_cm2, dose_j_cm2, steps_s, least_s, longest_s)
    if presses is None:
        return None
    from scipy.optimize import linprog  # slow to load: not before it is needed

    rate = irradiance_mw_cm2 / MJ_PER_J
    bounds = [(0.0, longest_s)] * rate.shape[1]
    found = linprog(np.ones(len(bounds)), A_ub=-rate, b_ub=np.full(len(rate), -dose_j_cm2), bounds=bounds)
    return Program(tuple(float(t) for t in found.x), presses)


def least_presses(
    irradiance_mw_cm2: Floats, dose_j_cm2: float, steps_s: Sequence[float], least_s: float, longest_s: float
) -> tuple[tuple[float, ...], ...] | None:
    """Return the whole presses of the shortest exposures, as `least_program` does."""
    rate = irradiance_mw_cm2 / MJ_PER_J
    lengths = lengths_of(tuple(steps_s), least_s, longest_s)
    if len(lengths) < 2:
        return None
    others = np.array(list(itertools.product(lengths, repeat=rate.shape[1] - 1)), dtype=np.float64)
    # What the last side has to add to each choice of the others; a point it does not reach must be done.
    missing = dose_j_cm2 - others @ rate[:, :-1].T
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        wanted = np.where(missing > 0, missing / rate[:, -1], 0.0).max(axis=1)
    at = np.searchsorted(lengths, wanted - HAIR_S)
    fits = at < len(lengths)
    if not fits.any():
        return None
    choices = np.column_stack([others[fits], np.array(lengths)[at[fits]]])
    counts = {length: len(presses_for(length, steps_s)) for length in lengths}
    best = min(
        map(tuple, choices.tolist()),
        key=lambda c: (sum(c), sum(counts[s] for s in c), [-s for s in c]),
    )
    return tuple(tuple(presses_for(s, steps_s)) for s in best)
