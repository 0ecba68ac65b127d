"""Walking rays through trees of triangles, and a lamp's disc as a target sees it: compiled loops.

They keep to one file, and the compiler's cache goes by what is in it. A ray that meets an edge or a
corner meets it in exactly one of the faces there (Woop, Benthin, Wald 2013, with a tie rule), so that
ways in and out always pair.
"""

from __future__ import annotations

import hashlib
import math
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
# What another version of this file has left in the cache must not be taken for this one's.
VERSION = hashlib.sha256(Path(__file__).read_bytes()).hexdigest()[:12]
numba.config.CACHE_DIR = str(Path(__file__).with_name("__pycache__") / f"tracer-{VERSION}")  # type: ignore[attr-defined]
LEAF = 4
BINS = 8
FLAT = 1e-9
# Trees are halved by number from a depth on, so that room for so many waiting boxes always suffices.
STEEP, WAITING = 40, 96
MOST_CROSSINGS = 64
TINY = 1e-30
UP = (0.0123, 0.0077, 0.99990)
SAME_PLACE_MM = 1e-4
# A tip that touches a target still has it in front.
LEAST_HEIGHT_MM = 1e-3
# By how much slopes are widened, so that rounding leaves out no face.
HAIR = 1e-9
# Up to so many ways to the disc it is quicker to walk each by itself.
FEW_WAYS = 64


def compiled(function: F) -> F:
    """Compile a loop, once for a machine; the order of its sums is kept."""
    make = numba.njit(cache=True, error_model="numpy", nogil=True, forceinline=True)
    return cast("F", make(function))


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
    boxes[node, :3], boxes[node, 3:] = np.inf, -np.inf


@compiled
def _widen(boxes: Floats, node: int, spans: Floats, i: int) -> None:
    """Widen a box to hold another."""
    for axis in range(3):
        boxes[node, axis] = min(boxes[node, axis], spans[i, axis])
        boxes[node, 3 + axis] = max(boxes[node, 3 + axis], spans[i, 3 + axis])


@compiled
def _surface(boxes: Floats, node: int) -> float:
    x, y = boxes[node, 3] - boxes[node, 0], boxes[node, 4] - boxes[node, 1]
    z = boxes[node, 5] - boxes[node, 2]
    return float(x * y + y * z + z * x)


@compiled
def _parted(order: Ints, spans: Floats, begin: int, end: int) -> int:
    """Order part of a list into two halves of space; return where the second begins.

    Cut where the halves' surfaces, weighed by what they hold, are least: a ray then meets fewest.
    """
    best, best_axis, best_bin, best_low, best_width = np.inf, -1, 0, 0.0, 1.0
    bins, within = np.empty((BINS, 6)), np.zeros(BINS, np.int64)
    upto, grown_low, grown_high = np.empty(BINS), np.empty((1, 6)), np.empty((1, 6))
    for axis in range(3):
        low, high = np.inf, -np.inf
        for i in range(begin, end):
            middle = spans[order[i], axis] + spans[order[i], 3 + axis]
            low, high = min(low, middle), max(high, middle)
        if high - low < FLAT:
            continue
        within[:] = 0
        for k in range(BINS):
            _clear(bins, k)
        for i in range(begin, end):
            middle = spans[order[i], axis] + spans[order[i], 3 + axis]
            k = min(int((middle - low) / (high - low) * BINS), BINS - 1)
            within[k] += 1
            _widen(bins, k, spans, order[i])
        _clear(grown_low, 0)
        below = 0
        for k in range(BINS - 1):
            below += within[k]
            if within[k]:
                _widen(grown_low, 0, bins, k)
            upto[k] = below * _surface(grown_low, 0) if below else np.inf
        _clear(grown_high, 0)
        above = 0
        for k in range(BINS - 1, 0, -1):
            above += within[k]
            if within[k]:
                _widen(grown_high, 0, bins, k)
            cost = upto[k - 1] + above * _surface(grown_high, 0) if above else np.inf
            if cost < best:
                best, best_axis, best_bin = cost, axis, k
        if best_axis == axis:
            best_low, best_width = low, high - low
    if best_axis < 0:
        return (begin + end) // 2
    left, right = begin, end - 1
    while left <= right:
        middle = spans[order[left], best_axis] + spans[order[left], 3 + best_axis]
        if min(int((middle - best_low) / best_width * BINS), BINS - 1) < best_bin:
            left += 1
        else:
            order[left], order[right] = order[right], order[left]
            right -= 1
    return left


class _Ray(NamedTuple):
    """A ray made ready: origin, what divides by its direction, the two axes across its longest one
    and that one, and how it shears onto it."""

    x: float
    y: float
    z: float
    per_x: float
    per_y: float
    per_z: float
    across: int
    up: int
    long: int
    at_across: float
    at_up: float
    at_long: float
    shear_across: float
    shear_up: float
    per_long: float


@compiled
def _ray_from(x: float, y: float, z: float, way_x: float, way_y: float, way_z: float) -> _Ray:
    """Return the ray from a point along a unit vector."""
    at, way = (x, y, z), (way_x, way_y, way_z)
    long = 0 if abs(way_x) >= abs(way_y) else 1
    if abs(way_z) >= abs(way[long]):
        long = 2
    across, up = (long + 1) % 3, (long + 2) % 3
    if way[long] < 0:
        across, up = up, across
    return _Ray(
        x,
        y,
        z,
        1 / (way_x if way_x != 0 else TINY),
        1 / (way_y if way_y != 0 else TINY),
        1 / (way_z if way_z != 0 else TINY),
        across,
        up,
        long,
        at[across],
        at[up],
        at[long],
        way[across] / way[long],
        way[up] / way[long],
        1 / way[long],
    )


@compiled
def _lesser(a: float, b: float) -> float:
    """Return the lesser of two numbers by one comparison, which is quicker than `min` minding NaN."""
    return a if a < b else b


@compiled
def _greater(a: float, b: float) -> float:
    return a if a > b else b


@compiled
def _meets_box(boxes: Floats, node: int, ray: _Ray, reach: float) -> bool:
    a, b = (boxes[node, 0] - ray.x) * ray.per_x, (boxes[node, 3] - ray.x) * ray.per_x
    near, far = _greater(_lesser(a, b), 0.0), _lesser(_greater(a, b), reach)
    a, b = (boxes[node, 1] - ray.y) * ray.per_y, (boxes[node, 4] - ray.y) * ray.per_y
    near, far = _greater(_lesser(a, b), near), _lesser(_greater(a, b), far)
    a, b = (boxes[node, 2] - ray.z) * ray.per_z, (boxes[node, 5] - ray.z) * ray.per_z
    return _greater(_lesser(a, b), near) <= _lesser(_greater(a, b), far)


@compiled
def _owns(ax: float, ay: float, bx: float, by: float) -> bool:
    """Tell which of the two faces along an edge has a ray that meets the edge: as if it were moved
    aside by next to nothing, the same way everywhere."""
    return by > ay or (by == ay and bx > ax)


@compiled
def _turn(
    u: float, v: float, w: float, ax: float, ay: float, bx: float, by: float, cx: float, cy: float
) -> float:
    """Tell by the three edges of a triangle, sheared so that a ray runs through the origin, whether the ray
    leaves there (1), enters (-1) or misses it (0)."""
    if (u < 0 or v < 0 or w < 0) and (u > 0 or v > 0 or w > 0):
        return 0.0
    total = u + v + w
    if total == 0:
        return 0.0
    leaves = total > 0
    if u == 0 and not (_owns(bx, by, cx, cy) if leaves else _owns(cx, cy, bx, by)):
        return 0.0
    if v == 0 and not (_owns(cx, cy, ax, ay) if leaves else _owns(ax, ay, cx, cy)):
        return 0.0
    if w == 0 and not (_owns(ax, ay, bx, by) if leaves else _owns(bx, by, ax, ay)):
        return 0.0
    return 1.0 if leaves else -1.0


@compiled
def _meets_face(corners: Floats, face: int, ray: _Ray) -> tuple[float, float]:
    """Return the distance to a triangle, and 1 where the ray leaves there, -1 where it enters, 0 for
    a miss."""
    across, up, long = ray.across, ray.up, ray.long
    az, bz = corners[face, long] - ray.at_long, corners[face, 3 + long] - ray.at_long
    cz = corners[face, 6 + long] - ray.at_long
    ax = corners[face, across] - ray.at_across - ray.shear_across * az
    bx = corners[face, 3 + across] - ray.at_across - ray.shear_across * bz
    cx = corners[face, 6 + across] - ray.at_across - ray.shear_across * cz
    ay = corners[face, up] - ray.at_up - ray.shear_up * az
    by = corners[face, 3 + up] - ray.at_up - ray.shear_up * bz
    cy = corners[face, 6 + up] - ray.at_up - ray.shear_up * cz
    u, v, w = bx * cy - by * cx, cx * ay - cy * ax, ax * by - ay * bx
    turn = _turn(u, v, w, ax, ay, bx, by, cx, cy)
    if turn == 0:
        return 0.0, 0.0
    distance = (u * az + v * bz + w * cz) * ray.per_long / (u + v + w)
    return distance, turn


class _Notes(NamedTuple):
    """Room to write while rays are walked: boxes to look at, crossings and their turns."""

    stack: Ints
    at: Floats
    turns: Floats


@compiled
def _notes() -> _Notes:
    """Return room for one ray at a time."""
    return _Notes(np.empty(WAITING, np.int64), np.empty(MOST_CROSSINGS), np.empty(MOST_CROSSINGS))


@compiled
def _is_blocked(trees: Trees, ray: _Ray, length: float, room: _Notes) -> bool:
    """Tell whether a ray meets any triangle within a length."""
    for root in trees.roots:
        room.stack[0], waiting = root, 1
        while waiting:
            waiting -= 1
            node = room.stack[waiting]
            if not _meets_box(trees.boxes, node, ray, length):
                continue
            if trees.held[node]:
                for face in range(trees.first[node], trees.first[node] + trees.held[node]):
                    distance, turn = _meets_face(trees.corners, face, ray)
                    if turn != 0 and 0 < distance < length:
                        return True
            else:
                room.stack[waiting], room.stack[waiting + 1] = trees.first[node], trees.first[node] + 1
                waiting += 2
    return False


@compiled
def _crossings(trees: Trees, root: int, ray: _Ray, room: _Notes) -> int:
    """Write down where a ray crosses faces below a root and which way; return how many."""
    found = 0
    room.stack[0], waiting = root, 1
    while waiting:
        waiting -= 1
        node = room.stack[waiting]
        if not _meets_box(trees.boxes, node, ray, np.inf):
            continue
        if trees.held[node]:
            for face in range(trees.first[node], trees.first[node] + trees.held[node]):
                distance, turn = _meets_face(trees.corners, face, ray)
                if turn != 0 and distance > 0 and found < MOST_CROSSINGS:
                    room.at[found], room.turns[found] = distance, turn
                    found += 1
        else:
            room.stack[waiting], room.stack[waiting + 1] = trees.first[node], trees.first[node] + 1
            waiting += 2
    return found


@compiled
def _weighed_length(trees: Trees, weights: Floats, ray: _Ray, length: float, room: _Notes) -> float:
    """Return the sum over closed solids, one a root, of their weight times the way inside."""
    total = 0.0
    for i in range(len(trees.roots)):
        # Each way out adds its distance, each way in takes it off: what is left was inside.
        way = 0.0
        for k in range(_crossings(trees, trees.roots[i], ray, room)):
            way += room.turns[k] * _lesser(room.at[k], length)
        total += weights[i] * way
    return total


@compiled
def _ray_of(origins: Floats, directions: Floats, i: int) -> _Ray:
    o, d = origins[i], directions[i]
    return _ray_from(o[0], o[1], o[2], d[0], d[1], d[2])


@compiled
def first_each(trees: Trees, origins: Floats, directions: Floats) -> Floats:
    """Return the distance (N,) to the first face that each ray meets, inf for none."""
    room, out = _notes(), np.full(len(origins), np.inf)
    for i in range(len(origins)):
        for root in trees.roots:
            for k in range(_crossings(trees, root, _ray_of(origins, directions, i), room)):
                out[i] = min(out[i], room.at[k])
    return out


@compiled
def contains_each(trees: Trees, points: Floats) -> Bools:
    """Tell which points (N, 3) lie inside closed solids."""
    room, out = _notes(), np.empty(len(points), np.bool_)
    for i in range(len(points)):
        ray = _ray_from(points[i, 0], points[i, 1], points[i, 2], UP[0], UP[1], UP[2])
        depth = 0.0
        for root in trees.roots:
            for k in range(_crossings(trees, root, ray, room)):
                depth += room.turns[k]
        out[i] = depth > 0
    return out


@compiled
def stretches(trees: Trees, origins: Floats, direction: Floats) -> tuple[Floats, Floats]:
    """Return where rays from outside enter solids and where they leave them (S,), in mm."""
    room, made = _notes(), 0
    begins, ends = np.empty(len(origins) * MOST_CROSSINGS), np.empty(len(origins) * MOST_CROSSINGS)
    for root in trees.roots:
        for o in origins:
            ray = _ray_from(o[0], o[1], o[2], direction[0], direction[1], direction[2])
            found, depth = _crossings(trees, root, ray, room), 0.0
            for k in np.argsort(room.at[:found], kind="mergesort"):
                if depth == 0 and room.turns[k] < 0:
                    begins[made] = room.at[k]
                if depth == 1 and room.turns[k] > 0:
                    ends[made] = room.at[k]
                    made += 1
                depth -= room.turns[k]
    return begins[:made], ends[:made]


class Disc(NamedTuple):
    """A lamp's disc: its middle (3,), two unit vectors in its plane and the one from what it lights
    towards it (3, 3), its radius, and its radiance as `peak * cosine^(exponent - 1)`."""

    centre: Floats
    axes: Floats
    radius_mm: float
    peak: float
    exponent: float


class Cells(NamedTuple):
    """Rings by Gauss nodes and shares, cells around, parts (a side) of a cell at an edge, and what
    counts as one: the step in light from cell to cell, as a share of the brightest."""

    node: Floats
    share: Floats
    around: int
    parts: int
    contrast: float


class _View(NamedTuple):
    """The disc as one target sees it: whether it lies before the target, how far off its plane and how far
    beside it the middle lies, which way in the plane, and how far round it reaches to either side of that."""

    is_before: bool
    height: float
    beside: float
    east: float
    north: float
    half_turn: float
    is_outside: bool
    radius_mm: float


class _Sight(NamedTuple):
    """The triangles between one target and the disc: corners from the target, in the disc's frame (F, 9),
    the slopes off the axis between which each lies (F, 4: least, most, least, most) and their weights
    (F,); and, square by square of the slopes that the disc takes up, which lie there: those of square i
    are `listed[starts[i]:starts[i + 1]]`."""

    corners: Floats
    slopes: Floats
    weights: Floats
    squares: int
    least_x: float
    least_y: float
    per_square: float
    starts: Ints
    listed: Ints


class _Room(NamedTuple):
    """Room for what one target sees, enough for all triangles."""

    stack: Ints
    corners: Floats
    slopes: Floats
    weights: Floats
    spans: Ints


@compiled
def _room_for(trees: Trees) -> _Room:
    most = len(trees.corners) + 1
    return _Room(
        np.empty(WAITING, np.int64),
        np.empty((most, 9)),
        np.empty((most, 4)),
        np.empty(most),
        np.empty((most, 4), np.int64),
    )


@compiled
def _sight(
    trees: Trees, weights: Floats, target: Floats, axes: Floats, view: _View, squares: int, room: _Room
) -> _Sight:
    """Return the triangles that may meet a way from a target to the disc, each with its root's weight."""
    x, y, r, h = view.beside * view.east, view.beside * view.north, view.radius_mm, view.height
    corners, slopes, spans, found = room.corners, room.slopes, room.spans, 0
    for i in range(len(trees.roots)):
        room.stack[0], waiting = trees.roots[i], 1
        while waiting:
            waiting -= 1
            node = room.stack[waiting]
            if not _is_on_the_way(trees.boxes, node, target, axes, view, x, y):
                continue
            if not trees.held[node]:
                room.stack[waiting], room.stack[waiting + 1] = trees.first[node], trees.first[node] + 1
                waiting += 2
                continue
            for face in range(trees.first[node], trees.first[node] + trees.held[node]):
                _write_turned(trees.corners, face, target, axes, corners, found)
                low = _lesser(_lesser(corners[found, 2], corners[found, 5]), corners[found, 8])
                high = _greater(_greater(corners[found, 2], corners[found, 5]), corners[found, 8])
                if high > 0 and low < h:
                    room.weights[found] = weights[i]
                    found += 1
    least_x, least_y, per_square = (x - r) / h, (y - r) / h, squares * h / (2 * r)
    starts = np.zeros(squares * squares + 1, np.int64)
    for f in range(found):
        slopes[f, 0], slopes[f, 1], slopes[f, 2], slopes[f, 3] = _slopes(corners, f)
        spans[f, 0] = _square(slopes[f, 0], least_x, per_square, squares)
        spans[f, 1] = _square(slopes[f, 1], least_x, per_square, squares)
        spans[f, 2] = _square(slopes[f, 2], least_y, per_square, squares)
        spans[f, 3] = _square(slopes[f, 3], least_y, per_square, squares)
        for i in range(spans[f, 0], spans[f, 1] + 1):
            for j in range(spans[f, 2], spans[f, 3] + 1):
                starts[i * squares + j + 1] += 1
    for i in range(squares * squares):
        starts[i + 1] += starts[i]
    listed, filled = np.empty(starts[-1], np.int64), starts[:-1].copy()
    for f in range(found):
        for i in range(spans[f, 0], spans[f, 1] + 1):
            for j in range(spans[f, 2], spans[f, 3] + 1):
                listed[filled[i * squares + j]] = f
                filled[i * squares + j] += 1
    return _Sight(corners, slopes, room.weights, squares, least_x, least_y, per_square, starts, listed)


@compiled
def _is_on_the_way(
    boxes: Floats, node: int, target: Floats, axes: Floats, view: _View, x: float, y: float
) -> bool:
    """Tell whether a box may reach into the ways from a target to the disc, whose middle lies at x and y."""
    middle_x, half_x = _spread(boxes, node, target, axes[0])
    middle_y, half_y = _spread(boxes, node, target, axes[1])
    middle, half = _spread(boxes, node, target, axes[2])
    low, high = middle - half, middle + half
    if high <= 0 or low >= view.height:
        return False
    # The ways spread evenly: between two heights they keep within what they take up at either.
    low, high, r = _greater(low, 0.0) / view.height, _lesser(high / view.height, 1.0), view.radius_mm
    west, east = _lesser(low * (x - r), high * (x - r)), _greater(low * (x + r), high * (x + r))
    south, north = _lesser(low * (y - r), high * (y - r)), _greater(low * (y + r), high * (y + r))
    return bool(
        middle_x - half_x <= _more(east)
        and middle_x + half_x >= _less(west)
        and middle_y - half_y <= _more(north)
        and middle_y + half_y >= _less(south)
    )


@compiled
def _spread(boxes: Floats, node: int, target: Floats, way: Floats) -> tuple[float, float]:
    """Return how far the middle of a box lies from a target along a way, and half of what it takes up."""
    middle, half = 0.0, 0.0
    for i in range(3):
        middle += ((boxes[node, i] + boxes[node, 3 + i]) / 2 - target[i]) * way[i]
        half += (boxes[node, 3 + i] - boxes[node, i]) / 2 * abs(way[i])
    return middle, half


@compiled
def _write_turned(corners: Floats, face: int, target: Floats, axes: Floats, turned: Floats, row: int) -> None:
    """Write a triangle as seen from a target; corners that are shared stay the same to the last digit."""
    for corner in range(0, 9, 3):
        a, b = corners[face, corner] - target[0], corners[face, corner + 1] - target[1]
        c = corners[face, corner + 2] - target[2]
        for axis in range(3):
            turned[row, corner + axis] = a * axes[axis, 0] + b * axes[axis, 1] + c * axes[axis, 2]


@compiled
def _no_sight() -> _Sight:
    nothing, none = np.empty((0, 9)), np.zeros(2, np.int64)
    return _Sight(nothing, np.empty((0, 4)), np.empty(0), 1, 0.0, 0.0, 0.0, none, none[:0])


@compiled
def _square(slope: float, least: float, per_square: float, squares: int) -> int:
    """Return the row of squares that a slope lies in, the first or the last where it lies outside."""
    return int(_lesser(_greater((slope - least) * per_square, 0.0), squares - 1.0))


@compiled
def _slopes(corners: Floats, f: int) -> tuple[float, float, float, float]:
    """Return the slopes off the axis between which a triangle lies, as seen from the origin, its part
    behind that left out."""
    least_x, most_x, least_y, most_y = np.inf, -np.inf, np.inf, -np.inf
    for i in range(3):
        ax, ay, aw = corners[f, 3 * i], corners[f, 3 * i + 1], corners[f, 3 * i + 2]
        if aw > 0:
            least_x, most_x = _lesser(least_x, ax / aw), _greater(most_x, ax / aw)
            least_y, most_y = _lesser(least_y, ay / aw), _greater(most_y, ay / aw)
        j = 3 * ((i + 1) % 3)
        bx, by, bw = corners[f, j], corners[f, j + 1], corners[f, j + 2]
        if (aw > 0) != (bw > 0):
            # Where the edge passes beside the origin its slope grows without bound.
            x, y = (bx * aw - ax * bw) * (aw - bw), (by * aw - ay * bw) * (aw - bw)
            if x >= 0:
                most_x = np.inf
            if x <= 0:
                least_x = -np.inf
            if y >= 0:
                most_y = np.inf
            if y <= 0:
                least_y = -np.inf
    return _less(least_x), _more(most_x), _less(least_y), _more(most_y)


@compiled
def _less(slope: float) -> float:
    return slope - HAIR * (1 + abs(slope))


@compiled
def _more(slope: float) -> float:
    return slope + HAIR * (1 + abs(slope))


@compiled
def _meets(corners: Floats, f: int, x: float, y: float) -> tuple[float, float]:
    """Return how high a way with these slopes meets a triangle, and 1 where it leaves there, -1 where it
    enters, 0 for a miss: `_meets_face` with the axis as the longest way."""
    az, bz, cz = corners[f, 2], corners[f, 5], corners[f, 8]
    ax, bx, cx = corners[f, 0] - x * az, corners[f, 3] - x * bz, corners[f, 6] - x * cz
    ay, by, cy = corners[f, 1] - y * az, corners[f, 4] - y * bz, corners[f, 7] - y * cz
    u, v, w = bx * cy - by * cx, cx * ay - cy * ax, ax * by - ay * bx
    turn = _turn(u, v, w, ax, ay, bx, by, cx, cy)
    if turn == 0:
        return 0.0, 0.0
    return (u * az + v * bz + w * cz) / (u + v + w), turn


@compiled
def _is_hidden(sight: _Sight, height: float, x: float, y: float) -> bool:
    """Tell whether a way with these slopes meets any triangle before the disc."""
    square = _square(x, sight.least_x, sight.per_square, sight.squares) * sight.squares
    square += _square(y, sight.least_y, sight.per_square, sight.squares)
    slopes = sight.slopes
    for k in range(sight.starts[square], sight.starts[square + 1]):
        f = sight.listed[k]
        if slopes[f, 0] <= x <= slopes[f, 1] and slopes[f, 2] <= y <= slopes[f, 3]:
            at, turn = _meets(sight.corners, f, x, y)
            if turn != 0 and 0 < at < height:
                return True
    return False


@compiled
def _weighed_height(sight: _Sight, height: float, x: float, y: float) -> float:
    """Return the sum over closed solids of their weight times how far along the axis a way runs inside."""
    square = _square(x, sight.least_x, sight.per_square, sight.squares) * sight.squares
    square += _square(y, sight.least_y, sight.per_square, sight.squares)
    slopes, total = sight.slopes, 0.0
    for k in range(sight.starts[square], sight.starts[square + 1]):
        f = sight.listed[k]
        if slopes[f, 0] <= x <= slopes[f, 1] and slopes[f, 2] <= y <= slopes[f, 3]:
            at, turn = _meets(sight.corners, f, x, y)
            if turn != 0 and at > 0:
                # Each way out adds its height, each way in takes it off: what is left was inside.
                total += sight.weights[f] * turn * _lesser(at, height)
    return total


@compiled
def _view(target: Floats, disc: Disc) -> _View:
    x, y, z = 0.0, 0.0, 0.0
    for i in range(3):
        off = disc.centre[i] - target[i]
        x, y, z = x + off * disc.axes[0, i], y + off * disc.axes[1, i], z + off * disc.axes[2, i]
    beside = math.sqrt(x * x + y * y)
    east, north = (x / beside, y / beside) if beside > LEAST_HEIGHT_MM else (1.0, 0.0)
    is_outside = beside > disc.radius_mm
    half_turn = math.asin(disc.radius_mm / beside) if is_outside else math.pi
    height = max(z, LEAST_HEIGHT_MM)
    return _View(z > 0, height, beside, east, north, half_turn, is_outside, disc.radius_mm)


class _Chord(NamedTuple):
    """A way across the disc as a target sees it: its direction in the disc's frame, the shares of the half
    sphere before its near and its far end, and the projected solid angle (sr) that it stands for a unit
    of turn."""

    x: float
    y: float
    low: float
    high: float
    spread: float


@compiled
def _chord(view: _View, turn: float) -> _Chord:
    """Return the chord at a turn, from 0 to 1 over what the target sees."""
    if view.is_outside:
        # The chords shrink towards the ends: they gather there.
        bent = math.pi * (turn - 0.5)
        angle, stretch = view.half_turn * math.sin(bent), view.half_turn * math.pi * math.cos(bent)
    else:
        angle, stretch = view.half_turn * (2 * turn - 1), 2 * view.half_turn
    cos, sin = math.cos(angle), math.sin(angle)
    middle = view.beside * cos
    half = math.sqrt(max(view.radius_mm**2 - (view.beside * sin) ** 2, 0.0))
    near, far = max(middle - half, 0.0) ** 2, (middle + half) ** 2
    low, high = near / (near + view.height**2), far / (far + view.height**2)
    x, y = cos * view.east - sin * view.north, sin * view.east + cos * view.north
    return _Chord(x, y, low, high, stretch * (high - low) / 2)


@compiled
def _way(chord: _Chord, ring: float) -> tuple[float, float, float]:
    """Return the slopes of the way to a place on a chord, from 0 to 1, and its cosine to the axis."""
    share = chord.low + ring * (chord.high - chord.low)
    cosine = math.sqrt(1 - share)
    slope = math.sqrt(share) / cosine
    return slope * chord.x, slope * chord.y, cosine


@compiled
def _ray_to(target: Floats, axes: Floats, x: float, y: float, cosine: float) -> _Ray:
    """Return the ray from a target with slopes off a disc's axis."""
    x, y = x * cosine, y * cosine
    return _ray_from(
        target[0],
        target[1],
        target[2],
        x * axes[0, 0] + y * axes[1, 0] + cosine * axes[2, 0],
        x * axes[0, 1] + y * axes[1, 1] + cosine * axes[2, 1],
        x * axes[0, 2] + y * axes[1, 2] + cosine * axes[2, 2],
    )


@compiled
def field(
    targets: Floats, disc: Disc, blockers: Trees, media: Trees, weights: Floats, cells: Cells
) -> Floats:
    """Return planar irradiance (N,) at targets (N, 3): the disc's free cells, weakened on their way
    through closed solids, one a root of the media, each by its weight."""
    rings, around, parts = len(cells.node), cells.around, cells.parts
    begin = np.cumsum(cells.share) - cells.share
    # Where steps in light count as edges, all light has to be known before they are found.
    by_light = cells.contrast < np.inf
    is_walked = parts == 1 and rings * around <= FEW_WAYS
    squares = int(math.sqrt(rings * around))
    notes, no_weights = _notes(), np.zeros(len(blockers.roots))
    for_blockers, for_media = _room_for(blockers), _room_for(media)
    out, none, exponent = np.zeros(len(targets)), _no_sight(), disc.exponent
    free, light = np.empty((around, rings)), np.empty((around, rings))
    for i in range(len(targets)):
        target = targets[i]
        view, brightest = _view(target, disc), 0.0
        if not view.is_before:
            continue
        hiding, weakening = none, none
        if not is_walked:
            hiding = _sight(blockers, no_weights, target, disc.axes, view, squares, for_blockers)
            weakening = _sight(media, weights, target, disc.axes, view, squares, for_media)
        height = view.height
        for column in range(around):
            chord = _chord(view, (column + 0.5) / around)
            for row in range(rings):
                x, y, cosine = _way(chord, cells.node[row])
                if is_walked:
                    ray = _ray_to(target, disc.axes, x, y, cosine)
                    is_hidden = _is_blocked(blockers, ray, height / cosine, notes)
                else:
                    is_hidden = _is_hidden(hiding, height, x, y)
                free[column, row] = 0.0 if is_hidden else 1.0
        for column in range(around):
            chord = _chord(view, (column + 0.5) / around)
            for row in range(rings):
                light[column, row] = 0.0
                is_late = parts > 1 and not by_light and _is_edge(free, column, row, np.inf, 1.0)
                if free[column, row] > 0 and not is_late:
                    x, y, cosine = _way(chord, cells.node[row])
                    if is_walked:
                        ray = _ray_to(target, disc.axes, x, y, cosine)
                        through = _weighed_length(media, weights, ray, height / cosine, notes)
                    else:
                        through = _weighed_height(weakening, height, x, y) / cosine
                    light[column, row] = cosine ** (exponent - 1) * math.exp(-through)
                    brightest = max(brightest, light[column, row])
        known = light if by_light else free
        total = 0.0
        for column in range(around):
            whole = _chord(view, (column + 0.5) / around)
            for row in range(rings):
                if parts == 1 or not _is_edge(known, column, row, cells.contrast, brightest):
                    total += light[column, row] * whole.spread * cells.share[row] / around
            for part in range(parts if parts > 1 else 0):
                chord = _chord(view, (column + (part + 0.5) / parts) / around)
                for row in range(rings):
                    if not _is_edge(known, column, row, cells.contrast, brightest):
                        continue
                    share = cells.share[row] / (around * parts**2) * chord.spread
                    for piece in range(parts):
                        x, y, cosine = _way(chord, begin[row] + (piece + 0.5) / parts * cells.share[row])
                        if not _is_hidden(hiding, height, x, y):
                            through = _weighed_height(weakening, height, x, y) / cosine
                            total += share * cosine ** (exponent - 1) * math.exp(-through)
        out[i] = disc.peak * total
    return out


@compiled
def _is_edge(sent: Floats, column: int, row: int, contrast: float, brightest: float) -> bool:
    """Tell whether a cell lies at the edge of a shadow, or of something that weakens light strongly:
    whether it is hidden and one of the four beside it is not, or much brighter or darker than it."""
    around, rings = sent.shape
    own = sent[column, row]
    for turn in (-1, 1):
        beside = sent[(column + turn) % around, row]
        if (beside == 0) != (own == 0) or abs(beside - own) > contrast * brightest:
            return True
        if 0 <= row + turn < rings:
            beside = sent[column, row + turn]
            if (beside == 0) != (own == 0) or abs(beside - own) > contrast * brightest:
                return True
    return False


@compiled
def onto_faces(points: Floats, normals: Floats, disc: Disc, blockers: Trees, cells: Cells) -> Floats:
    """Return irradiance (N,) on small faces in the open at points (N, 3), each by its own unit normal."""
    no_weights, room = np.zeros(len(blockers.roots)), _room_for(blockers)
    out, around = np.zeros(len(points)), cells.around
    squares = int(math.sqrt(len(cells.node) * around))
    for i in range(len(points)):
        target, normal = points[i], disc.axes @ normals[i]
        view = _view(target, disc)
        if not view.is_before:
            continue
        hiding = _sight(blockers, no_weights, target, disc.axes, view, squares, room)
        for column in range(around):
            chord = _chord(view, (column + 0.5) / around)
            for row in range(len(cells.node)):
                x, y, cosine = _way(chord, cells.node[row])
                # Over the cosine to the axis: the spread is that of a face parallel to the disc.
                facing = normal[0] * x + normal[1] * y + normal[2]
                if facing > 0 and not _is_hidden(hiding, view.height, x, y):
                    sent = cosine ** (disc.exponent - 1) * facing
                    out[i] += disc.peak * sent * chord.spread * cells.share[row] / around
    return out


@compiled
def exchange(
    targets: Floats,
    facing: Floats,
    points: Floats,
    normals: Floats,
    areas: Floats,
    blockers: Trees,
    media: Trees,
    weights: Floats,
) -> Floats:
    """Return what share of the radiosity of each of M faces arrives at N targets (N, M), both with unit
    normals: blocked, and weakened in closed solids. A face is taken as a disc of its area."""
    out, room = np.zeros((len(targets), len(points))), _notes()
    way = np.empty(3)
    for i in range(len(targets)):
        for j in range(len(points)):
            square = 0.0
            for k in range(3):
                way[k] = points[j, k] - targets[i, k]
                square += way[k] * way[k]
            if square <= TINY:
                continue
            length = math.sqrt(square)
            arriving, leaving = 0.0, 0.0
            for k in range(3):
                way[k] /= length
                arriving += facing[i, k] * way[k]
                leaving -= normals[j, k] * way[k]
            if arriving <= 0 or leaving <= 0:
                continue
            ray = _ray_from(targets[i, 0], targets[i, 1], targets[i, 2], way[0], way[1], way[2])
            if _is_blocked(blockers, ray, length, room):
                continue
            through = _weighed_length(media, weights, ray, length, room)
            seen = areas[j] * arriving * leaving / (math.pi * square + areas[j])
            out[i, j] = seen * math.exp(-through)
    return out


@compiled
def corners_of(corners: Floats, normals: Floats, deep: int, damping: float) -> tuple[Floats, Floats, Floats]:
    """Return each corner of the first `deep` of triangles (T, 3, 3) once, in order of place: where it lies
    (C, 3), a step off every face that meets there (C, 3), damped where they are all but parallel, and how
    far from one plane and from one edge their normals are (C,): nought where two faces meet.

    The step s is the one nearest to n . s = 1 for the unit normals n of all faces there.
    """
    places = np.empty(3 * len(corners), np.int64)
    for i in range(len(places)):
        x, y, z = corners[i // 3, i % 3, 0], corners[i // 3, i % 3, 1], corners[i // 3, i % 3, 2]
        places[i] = (
            round(x / SAME_PLACE_MM) + (round(y / SAME_PLACE_MM) << 20) + (round(z / SAME_PLACE_MM) << 40)
        )
    order = np.argsort(places, kind="mergesort")
    at, steps, spread = np.empty((len(places), 3)), np.empty((len(places), 3)), np.empty(len(places))
    made, begin = 0, 0
    while begin < len(order):
        end = begin
        while end < len(order) and places[order[end]] == places[order[begin]]:
            end += 1
        # The order is stable: the first of a place is deep if any is.
        if order[begin] < 3 * deep:
            xx, xy, xz, yy, yz, zz, x, y, z = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
            share = 1 / (end - begin)
            for k in range(begin, end):
                n = normals[order[k] // 3]
                xx, xy, xz = xx + share * n[0] * n[0], xy + share * n[0] * n[1], xz + share * n[0] * n[2]
                yy, yz, zz = yy + share * n[1] * n[1], yz + share * n[1] * n[2], zz + share * n[2] * n[2]
                x, y, z = x + share * n[0], y + share * n[1], z + share * n[2]
            spread[made] = _det(xx, xy, xz, yy, yz, zz)
            xx, yy, zz = xx + damping, yy + damping, zz + damping
            whole = _det(xx, xy, xz, yy, yz, zz)
            first = order[begin]
            for k in range(3):
                at[made, k] = corners[first // 3, first % 3, k]
            # Cramer's rule on a symmetric matrix.
            a, b, c = yy * zz - yz * yz, xz * yz - xy * zz, xy * yz - xz * yy
            d, e, f = xx * zz - xz * xz, xy * xz - xx * yz, xx * yy - xy * xy
            steps[made, 0] = (a * x + b * y + c * z) / whole
            steps[made, 1] = (b * x + d * y + e * z) / whole
            steps[made, 2] = (c * x + e * y + f * z) / whole
            made += 1
        begin = end
    return at[:made], steps[:made], spread[:made]


@compiled
def _det(xx: float, xy: float, xz: float, yy: float, yz: float, zz: float) -> float:
    return float(xx * (yy * zz - yz * yz) - xy * (xy * zz - yz * xz) + xz * (xy * yz - yy * xz))


@compiled
def halved(corners: Floats, edge_mm: float) -> tuple[Floats, Ints]:
    """Return triangles (T, 3, 3) cut in halves, through their longest edge, until no edge is longer than a
    length, and which one each comes of."""
    waiting = [(i, corners[i]) for i in range(len(corners))]
    out, of = [corners[0] for _ in range(0)], [0 for _ in range(0)]
    while waiting:
        i, face = waiting.pop()
        longest, most = 0, 0.0
        for k in range(3):
            a, b = face[k], face[(k + 1) % 3]
            squared = (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2
            if squared > most:
                longest, most = k, squared
        if most <= edge_mm**2:
            out.append(face)
            of.append(i)
            continue
        middle = (face[longest] + face[(longest + 1) % 3]) / 2
        for k in (longest, (longest + 1) % 3):
            half = face.copy()
            half[k] = middle
            waiting.append((i, half))
    faces = np.empty((len(out), 3, 3))
    for i in range(len(out)):
        faces[i] = out[i]
    return faces, np.array(of)
