"""Trees of triangles, and how loops over them are compiled."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple, TypeVar, cast

import numba
import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]
F = TypeVar("F", bound=Callable[..., Any])
# The compiler looks at the file of a loop, not at those that it calls: what any of them was compiled to before
# a change must not be taken from the cache.
LOOPS = ("trees.py", "tracer.py", "cavity/facets.py", "light/disc.py", "light/sight.py", "light/arriving.py")
FOLDER = Path(__file__).parent
VERSION = hashlib.sha256(b"".join((FOLDER / name).read_bytes() for name in LOOPS)).hexdigest()[:12]
numba.config.CACHE_DIR = str(FOLDER / "__pycache__" / f"tracer-{VERSION}")
LEAF = 4
BINS = 8
FLAT = 1e-9
# Trees are halved by number from a depth on, so that room for so many waiting boxes always suffices.
STEEP, WAITING = 40, 96


def compiled(function: F) -> F:
    """Compile a loop, once for a machine; the order of its sums is kept."""
    make = numba.njit(cache=True, error_model="numpy", nogil=True, forceinline=True)
    return cast("F", make(function))


@compiled
def lesser(a: float, b: float) -> float:
    """Return the lesser of two numbers by one comparison, which is quicker than `min` minding NaN."""
    return a if a < b else b


@compiled
def greater(a: float, b: float) -> float:
    return a if a > b else b


@compiled
def row_of(at: float, least: float, per_unit: float, rows: int) -> int:
    """Return the row of equal squares that something lies in, the first or the last where it lies outside."""
    return int(lesser(greater((at - least) * per_unit, 0.0), rows - 1.0))


class Trees(NamedTuple):
    """Triangles (T, 9: three corners) in trees of boxes (M, 6: lowest and highest corner).

    Box i holds `held[i]` triangles from `first[i]` on or, where that is 0, the boxes `first[i]` and
    the next. `roots` are the boxes to begin at.
    """

    corners: Floats
    boxes: Floats
    first: Ints
    held: Ints
    roots: Ints


@compiled
def grown(corners: Floats) -> Trees:
    """Return the tree of triangles (T, 3, 3), parted until few are left, where rays meet least."""
    total = len(corners)
    most = max(2 * total, 1)
    boxes = np.empty((most, 6))
    first, held = np.zeros(most, np.int64), np.zeros(most, np.int64)
    if not total:
        none = np.empty(0, np.int64)
        return Trees(corners.reshape(0, 9), boxes[:0], none, none, none)
    spans = np.empty((total, 6))
    for i in range(total):
        for axis in range(3):
            a, b, c = corners[i, 0, axis], corners[i, 1, axis], corners[i, 2, axis]
            spans[i, axis], spans[i, 3 + axis] = min(a, b, c), max(a, b, c)
    order = np.arange(total)
    begins, ends, depth = np.zeros(most, np.int64), np.zeros(most, np.int64), np.zeros(most, np.int64)
    ends[0] = total
    made, node = 1, 0
    while node < made:
        begin, end = begins[node], ends[node]
        _clear(boxes, node)
        for i in range(begin, end):
            _widen(boxes, node, spans, order[i])
        if end - begin <= LEAF:
            first[node], held[node] = begin, end - begin
        else:
            steep = depth[node] >= STEEP
            split = (begin + end) // 2 if steep else _parted(order, spans, begin, end)
            first[node] = made
            begins[made], ends[made] = begin, split
            begins[made + 1], ends[made + 1] = split, end
            depth[made] = depth[made + 1] = depth[node] + 1
            made += 2
        node += 1
    faces = corners[order].reshape(total, 9)
    return Trees(faces, boxes[:made], first[:made], held[:made], np.zeros(1, np.int64))


@compiled
def _clear(boxes: Floats, node: int) -> None:
    for axis in range(3):
        boxes[node, axis], boxes[node, 3 + axis] = np.inf, -np.inf


@compiled
def _widen(boxes: Floats, node: int, spans: Floats, i: int) -> None:
    """Widen a box to hold another."""
    for axis in range(3):
        boxes[node, axis] = lesser(boxes[node, axis], spans[i, axis])
        boxes[node, 3 + axis] = greater(boxes[node, 3 + axis], spans[i, 3 + axis])


@compiled
def _surface(boxes: Floats, node: int) -> float:
    x, y = boxes[node, 3] - boxes[node, 0], boxes[node, 4] - boxes[node, 1]
    z = boxes[node, 5] - boxes[node, 2]
    return float(x * y + y * z + z * x)


@compiled
def _parted(order: Ints, spans: Floats, begin: int, end: int) -> int:
    """Order part of a list into two halves of space; return where the second begins.

    Cut across the way along which they spread most, where the halves' surfaces, weighed by what they hold,
    are least: a ray then meets few.
    """
    axis, low, width = 0, 0.0, 0.0
    for way in range(3):
        least, most = np.inf, -np.inf
        for i in range(begin, end):
            middle = spans[order[i], way] + spans[order[i], 3 + way]
            least, most = lesser(least, middle), greater(most, middle)
        if most - least > width:
            axis, low, width = way, least, most - least
    if width < FLAT:
        return (begin + end) // 2
    bins, within = np.empty((BINS, 6)), np.zeros(BINS, np.int64)
    for k in range(BINS):
        _clear(bins, k)
    for i in range(begin, end):
        k = _bin(spans, order[i], axis, low, width)
        within[k] += 1
        _widen(bins, k, spans, order[i])
    upto, grown_low, grown_high = np.empty(BINS), np.empty((1, 6)), np.empty((1, 6))
    _clear(grown_low, 0)
    below = 0
    for k in range(BINS - 1):
        below += within[k]
        if within[k]:
            _widen(grown_low, 0, bins, k)
        upto[k] = below * _surface(grown_low, 0) if below else np.inf
    _clear(grown_high, 0)
    above, best, parting = 0, np.inf, BINS // 2
    for k in range(BINS - 1, 0, -1):
        above += within[k]
        if within[k]:
            _widen(grown_high, 0, bins, k)
        cost = upto[k - 1] + above * _surface(grown_high, 0) if above else np.inf
        if cost < best:
            best, parting = cost, k
    left, right = begin, end - 1
    while left <= right:
        if _bin(spans, order[left], axis, low, width) < parting:
            left += 1
        else:
            order[left], order[right] = order[right], order[left]
            right -= 1
    return left


@compiled
def _bin(spans: Floats, i: int, axis: int, low: float, width: float) -> int:
    """Return which of equal parts along an axis the middle of a span lies in."""
    middle = spans[i, axis] + spans[i, 3 + axis]
    return min(int((middle - low) / width * BINS), BINS - 1)
