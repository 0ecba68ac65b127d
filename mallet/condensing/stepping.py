"""Where a nib is set down to pack a ground: along its walls first, then row by row, each step half a nib on."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np
from manifold3d import CrossSection, JoinType
from numpy.typing import NDArray

Floats = NDArray[np.float64]
ROUND = 64
# Farther in than this share of the nib rows begin; steps along the walls reach so far beyond them.
INWARD = 0.4
HAIR_MM = 1e-6


def room_for(outline: CrossSection, nib_mm: float, clearance_mm: float) -> CrossSection:
    """Return where the middle of a nib may be set down, so that no step reaches farther beyond the wall than a clearance."""
    return outline.offset(clearance_mm - nib_mm / 2, JoinType.Round, 2.0, ROUND)


def stepping_path(
    ground: CrossSection, outline: CrossSection, nib_mm: float, clearance_mm: float, up: float
) -> Floats:
    """Return the steps (N, 2) that cover a ground within an outline, in their order.

    First those along its edges, the outer ones before the inner, then rows from its lower end up and back and forth; `up` is
    the way of y in which its upper end lies. Steps of a row, and rows, lie at most half a nib apart, so that each overlaps
    its neighbors by half; none is left where the nib does not fit.
    """
    beside = ground.offset(INWARD * nib_mm, JoinType.Round, 2.0, ROUND)
    within = room_for(outline, nib_mm, clearance_mm) ^ beside
    steps = [
        *_along(within, nib_mm, up),
        *_rows(within.offset(-INWARD * nib_mm, JoinType.Round, 2.0, ROUND), nib_mm / 2, up),
    ]
    return np.concatenate(steps) if steps else np.zeros((0, 2))


def _along(within: CrossSection, nib_mm: float, up: float) -> Iterator[Floats]:
    """Yield steps round each edge from its lower end: evenly, and at most half a nib apart where the nib meets the wall."""
    for ring in sorted(_rings(within), key=lambda ring: -_length_mm(ring)):
        ring = np.roll(ring, -int(np.argmin(ring[:, 1] * up)), axis=0)
        closed = np.vstack([ring, ring[:1]])
        edges = np.diff(closed, axis=0)
        lengths, turns = np.linalg.norm(edges, axis=1), np.arctan2(edges[:, 1], edges[:, 0])
        # Round a curve the nib's edge goes farther than its middle.
        outward = np.maximum((np.diff(turns, prepend=turns[-1]) + np.pi) % (2 * np.pi) - np.pi, 0.0)
        run = np.cumsum(lengths + nib_mm / 2 * outward)
        count = max(math.ceil(run[-1] / (nib_mm / 2) - HAIR_MM), 1)
        at = run[-1] * np.arange(count) / count
        known = np.concatenate([[0.0], run])
        steps = np.column_stack([np.interp(at, known, column) for column in closed.T])
        again = np.linalg.norm(np.diff(steps, axis=0, prepend=np.inf), axis=1) < HAIR_MM
        yield steps[~again]


def _rows(within: CrossSection, apart_mm: float, up: float) -> Iterator[Floats]:
    """Yield rows of steps over an area, from its lower end up, back and forth."""
    rings = _rings(within)
    if not rings:
        return
    heights = np.concatenate(rings)[:, 1]
    low, high = float(heights.min()), float(heights.max())
    count = max(math.ceil((high - low) / apart_mm - HAIR_MM), 1)
    rows = low + (high - low) * (np.arange(count) + 0.5) / count
    for i, y in enumerate(rows if up > 0 else rows[::-1]):
        xs = np.concatenate([_spread(a, b, apart_mm) for a, b in _spans(rings, float(y))] or [np.zeros(0)])
        if len(xs):
            yield np.column_stack([xs if i % 2 == 0 else xs[::-1], np.full(len(xs), y)])


def _spread(a: float, b: float, apart_mm: float) -> Floats:
    """Return places from one end to the other, evenly and at most so far apart."""
    count = math.ceil((b - a) / apart_mm - HAIR_MM) + 1
    return np.linspace(a, b, count) if count > 1 else np.array([(a + b) / 2])


def _spans(rings: Sequence[Floats], y: float) -> list[tuple[float, float]]:
    """Return from where to where a level line lies within rings (even and odd)."""
    xs: list[float] = []
    for ring in rings:
        after = np.roll(ring, -1, axis=0)
        crosses = (ring[:, 1] > y) != (after[:, 1] > y)
        (x0, y0), (x1, y1) = ring[crosses].T, after[crosses].T
        xs += (x0 + (y - y0) / (y1 - y0) * (x1 - x0)).tolist()
    xs.sort()
    return list(zip(xs[::2], xs[1::2], strict=True))


def _rings(area: CrossSection) -> list[Floats]:
    return [np.asarray(ring, dtype=np.float64) for ring in area.to_polygons()]


def _length_mm(ring: Floats) -> float:
    return float(np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1).sum())
