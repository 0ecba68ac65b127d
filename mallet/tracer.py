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
# A tip that touches a target still has it in front.
LEAST_HEIGHT_MM = 1e-3


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
def _meets_box(boxes: Floats, node: int, ray: _Ray, reach: float) -> bool:
    a, b = (boxes[node, 0] - ray.x) * ray.per_x, (boxes[node, 3] - ray.x) * ray.per_x
    near, far = max(0.0, min(a, b)), min(reach, max(a, b))
    a, b = (boxes[node, 1] - ray.y) * ray.per_y, (boxes[node, 4] - ray.y) * ray.per_y
    near, far = max(near, min(a, b)), min(far, max(a, b))
    a, b = (boxes[node, 2] - ray.z) * ray.per_z, (boxes[node, 5] - ray.z) * ray.per_z
    return bool(max(near, min(a, b)) <= min(far, max(a, b)))


@compiled
def _owns(ax: float, ay: float, bx: float, by: float) -> bool:
    """Tell which of the two faces along an edge has a ray that meets the edge: as if it were moved
    aside by next to nothing, the same way everywhere."""
    return by > ay or (by == ay and bx > ax)


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
    if (u < 0 or v < 0 or w < 0) and (u > 0 or v > 0 or w > 0):
        return 0.0, 0.0
    total = u + v + w
    if total == 0:
        return 0.0, 0.0
    leaves = total > 0
    if u == 0 and not (_owns(bx, by, cx, cy) if leaves else _owns(cx, cy, bx, by)):
        return 0.0, 0.0
    if v == 0 and not (_owns(cx, cy, ax, ay) if leaves else _owns(ax, ay, cx, cy)):
        return 0.0, 0.0
    if w == 0 and not (_owns(ax, ay, bx, by) if leaves else _owns(bx, by, ax, ay)):
        return 0.0, 0.0
    distance = (u * az + v * bz + w * cz) * ray.per_long / total
    return distance, 1.0 if leaves else -1.0


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
            way += room.turns[k] * min(room.at[k], length)
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
    """The disc as one target sees it: how far off its plane and how far beside it the middle lies,
    which way in the plane, and how far round it reaches to either side of that."""

    height: float
    beside: float
    east: float
    north: float
    half_turn: float
    is_outside: bool
    radius_mm: float


@compiled
def _along(disc: Disc, target: Floats, axis: int) -> float:
    """Return how far the disc's middle lies from a target along one of its axes."""
    way = disc.axes[axis]
    total = 0.0
    for i in range(3):
        total += (disc.centre[i] - target[i]) * way[i]
    return total


@compiled
def _view(target: Floats, disc: Disc) -> _View:
    x, y, z = _along(disc, target, 0), _along(disc, target, 1), _along(disc, target, 2)
    beside = math.sqrt(x * x + y * y)
    east, north = (x / beside, y / beside) if beside > LEAST_HEIGHT_MM else (1.0, 0.0)
    is_outside = beside > disc.radius_mm
    half_turn = math.asin(disc.radius_mm / beside) if is_outside else math.pi
    height = max(z, LEAST_HEIGHT_MM)
    return _View(height, beside, east, north, half_turn, is_outside, disc.radius_mm)


class _Chord(NamedTuple):
    """A way across the disc as a target sees it: its direction, and that towards the disc (unit vectors
    in space), the shares of the half sphere before its near and its far end, the height of the disc,
    and the projected solid angle (sr) that it stands for a unit of turn."""

    along_x: float
    along_y: float
    along_z: float
    up_x: float
    up_y: float
    up_z: float
    low: float
    high: float
    height: float
    spread: float


@compiled
def _chord(view: _View, disc: Disc, turn: float) -> _Chord:
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
    u, v, w = disc.axes[0], disc.axes[1], disc.axes[2]
    return _Chord(
        x * u[0] + y * v[0],
        x * u[1] + y * v[1],
        x * u[2] + y * v[2],
        w[0],
        w[1],
        w[2],
        low,
        high,
        view.height,
        stretch * (high - low) / 2,
    )


@compiled
def _ray_along(target: Floats, chord: _Chord, ring: float) -> tuple[_Ray, float, float]:
    """Return the ray to a place on a chord, from 0 to 1, its length, and its cosine to the axis."""
    seen = chord.low + ring * (chord.high - chord.low)
    cosine, sine = math.sqrt(1 - seen), math.sqrt(seen)
    ray = _ray_from(
        target[0],
        target[1],
        target[2],
        sine * chord.along_x + cosine * chord.up_x,
        sine * chord.along_y + cosine * chord.up_y,
        sine * chord.along_z + cosine * chord.up_z,
    )
    return ray, chord.height / cosine, cosine


@compiled
def _sent(
    target: Floats, chord: _Chord, ring: float, exponent: float, media: Trees, weights: Floats, room: _Notes
) -> float:
    """Return the share of the radiance straight ahead that a free place on a chord sends to a target."""
    ray, length, cosine = _ray_along(target, chord, ring)
    through = _weighed_length(media, weights, ray, length, room)
    return float(cosine ** (exponent - 1) * math.exp(-through))


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
    out, room = np.zeros(len(targets)), _notes()
    free, light = np.empty((around, rings)), np.empty((around, rings))
    for i in range(len(targets)):
        target = targets[i]
        if _along(disc, target, 2) <= 0:
            continue
        view, brightest = _view(target, disc), 0.0
        for column in range(around):
            chord = _chord(view, disc, (column + 0.5) / around)
            for row in range(rings):
                ray, length, _ = _ray_along(target, chord, cells.node[row])
                free[column, row] = 0.0 if _is_blocked(blockers, ray, length, room) else 1.0
        for column in range(around):
            chord = _chord(view, disc, (column + 0.5) / around)
            for row in range(rings):
                light[column, row] = 0.0
                is_late = parts > 1 and not by_light and _is_edge(free, column, row, np.inf, 1.0)
                if free[column, row] > 0 and not is_late:
                    sent = _sent(target, chord, cells.node[row], disc.exponent, media, weights, room)
                    light[column, row] = sent
                    brightest = max(brightest, sent)
        known = light if by_light else free
        total = 0.0
        for column in range(around):
            whole = _chord(view, disc, (column + 0.5) / around)
            for row in range(rings):
                if parts == 1 or not _is_edge(known, column, row, cells.contrast, brightest):
                    total += light[column, row] * whole.spread * cells.share[row] / around
            for part in range(parts if parts > 1 else 0):
                chord = _chord(view, disc, (column + (part + 0.5) / parts) / around)
                for row in range(rings):
                    if not _is_edge(known, column, row, cells.contrast, brightest):
                        continue
                    share = cells.share[row] / (around * parts**2) * chord.spread
                    for piece in range(parts):
                        ring = begin[row] + (piece + 0.5) / parts * cells.share[row]
                        ray, length, _ = _ray_along(target, chord, ring)
                        if not _is_blocked(blockers, ray, length, room):
                            sent = _sent(target, chord, ring, disc.exponent, media, weights, room)
                            total += share * sent
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
