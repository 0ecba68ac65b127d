"""Whole presses of a lamp's button: the least time that suffices, then the fewest presses."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

UNIT_S = 0.5


def presses_for(seconds: float, steps_s: Sequence[float]) -> list[float]:
    """Return the presses, longest first, with the least total at or over a time.

    Among equal totals the fewest presses win. A lamp whose steps include a long one still covers
    any time, since steps may be summed. Zero or less needs no press.
    """
    if seconds <= 0:
        return []
    sizes = sorted({max(1, round(s / UNIT_S)) for s in steps_s}, reverse=True)
    need = math.ceil(round(seconds / UNIT_S, 6))
    reach = need + sizes[-1]
    best: list[list[int] | None] = [[]] + [None] * reach
    for total in range(1, reach + 1):
        options = [best[total - s] for s in sizes if s <= total]
        known = [
            (o, s) for o, s in zip(options, (s for s in sizes if s <= total), strict=True) if o is not None
        ]
        if known:
            shortest, size = min(known, key=lambda pair: len(pair[0]))
            best[total] = [*shortest, size]
    found = next(b for b in best[need:] if b is not None)
    return [size * UNIT_S for size in sorted(found, reverse=True)]


@lru_cache(maxsize=32)
def lengths_of(steps_s: tuple[float, ...], least_s: float, longest_s: float) -> tuple[float, ...]:
    """Return nought and every sum of a lamp's steps that an exposure may last, in order."""
    sizes = {max(1, round(s / UNIT_S)) for s in steps_s}
    sums = {0}
    for total in range(1, int(longest_s / UNIT_S) + 1):
        if any(total - size in sums for size in sizes):
            sums.add(total)
    return tuple(n * UNIT_S for n in sorted(sums) if n == 0 or n * UNIT_S >= least_s)
