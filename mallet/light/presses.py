"""Whole presses of a lamp's button: the least time that suffices, then the fewest presses."""

from __future__ import annotations

import math
from collections.abc import Sequence


def presses_for(seconds: float, steps_s: Sequence[float]) -> list[float]:
    """Return the presses, longest first, with the least total at or over a time.

    Among equal totals the fewest presses win. A lamp whose steps include a long one still covers
    any time, since steps may be summed. Zero or less needs no press.
    """
    if seconds <= 0:
        return []
    unit = 0.5
    sizes = sorted({max(1, round(s / unit)) for s in steps_s}, reverse=True)
    need = math.ceil(round(seconds / unit, 6))
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
    return [size * unit for size in sorted(found, reverse=True)]
