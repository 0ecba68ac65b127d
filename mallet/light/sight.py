"""What lies between a target and a curing light's disc, sorted into squares of the slopes off the disc's axis, so that a way
meets the few triangles of its square: compiled loops."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from mallet.light.disc import View
from mallet.tracer import turn_at
from mallet.trees import WAITING, Trees, compiled, greater, lesser, row_of

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
# By how much slopes are widened, so that rounding leaves out no face.
HAIR = 1e-9


class Sight(NamedTuple):
    """The triangles before one target that lie toward the disc: corners from the target, in the disc's frame (F, 9),
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


class Room(NamedTuple):
    """Room for what one target sees, enough for all triangles."""

    stack: Ints
    corners: Floats
    slopes: Floats
    weights: Floats
    spans: Ints


@compiled
def room_for(trees: Trees) -> Room:
    most = len(trees.corners) + 1
    return Room(
        np.empty(WAITING, np.int64),
        np.empty((most, 9)),
        np.empty((most, 4)),
        np.empty(most),
        np.empty((most, 4), np.int64),
    )


@compiled
def sight_of(
    trees: Trees,
    weights: Floats,
    target: Floats,
    axes: Floats,
    view: View,
    squares: int,
    room: Room,
) -> Sight:
    """Return the triangles that may meet a way from a target to the disc, and on beyond it, each with its
    root's weight: what a way leaves beyond the disc tells that it ends inside. Without weights they just hide: of a
    target that lies outside closed solids a front does, and the backs are left out."""
    is_weighed = len(weights) > 0
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
                if not is_weighed and not _faces(trees.corners, face, target):
                    continue
                _write_turned(trees.corners, face, target, axes, corners, found)
                if greater(greater(corners[found, 2], corners[found, 5]), corners[found, 8]) > 0:
                    room.weights[found] = weights[i] if is_weighed else 0.0
                    found += 1
    least_x, least_y, per_square = (x - r) / h, (y - r) / h, squares * h / (2 * r)
    starts = np.zeros(squares * squares + 1, np.int64)
    for f in range(found):
        slopes[f, 0], slopes[f, 1], slopes[f, 2], slopes[f, 3] = _slopes(corners, f)
        spans[f, 0] = row_of(slopes[f, 0], least_x, per_square, squares)
        spans[f, 1] = row_of(slopes[f, 1], least_x, per_square, squares)
        spans[f, 2] = row_of(slopes[f, 2], least_y, per_square, squares)
        spans[f, 3] = row_of(slopes[f, 3], least_y, per_square, squares)
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
    return Sight(corners, slopes, room.weights, squares, least_x, least_y, per_square, starts, listed)


@compiled
def _is_on_the_way(
    boxes: Floats, node: int, target: Floats, axes: Floats, view: View, x: float, y: float
) -> bool:
    """Tell whether a box may reach into the ways from a target to the disc, whose middle lies at x and y."""
    middle_x, half_x = _spread(boxes, node, target, axes[0])
    middle_y, half_y = _spread(boxes, node, target, axes[1])
    middle, half = _spread(boxes, node, target, axes[2])
    if middle + half <= 0:
        return False
    # The ways spread evenly, beyond the disc too: between two heights they keep within what they take up at
    # either.
    r = view.radius_mm
    low, high = greater(middle - half, 0.0) / view.height, (middle + half) / view.height
    west, east = lesser(low * (x - r), high * (x - r)), greater(low * (x + r), high * (x + r))
    south, north = lesser(low * (y - r), high * (y - r)), greater(low * (y + r), high * (y + r))
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
def _faces(corners: Floats, face: int, target: Floats) -> bool:
    """Tell whether a triangle turns its outer face to a target."""
    ax, ay, az = corners[face, 0], corners[face, 1], corners[face, 2]
    bx, by, bz = corners[face, 3] - ax, corners[face, 4] - ay, corners[face, 5] - az
    cx, cy, cz = corners[face, 6] - ax, corners[face, 7] - ay, corners[face, 8] - az
    nx, ny, nz = by * cz - bz * cy, bz * cx - bx * cz, bx * cy - by * cx
    return bool((ax - target[0]) * nx + (ay - target[1]) * ny + (az - target[2]) * nz < 0)


@compiled
def _slopes(corners: Floats, f: int) -> tuple[float, float, float, float]:
    """Return the slopes off the axis between which a triangle lies, as seen from the origin, its part
    behind that left out."""
    least_x, most_x, least_y, most_y = np.inf, -np.inf, np.inf, -np.inf
    for i in range(3):
        ax, ay, aw = corners[f, 3 * i], corners[f, 3 * i + 1], corners[f, 3 * i + 2]
        if aw > 0:
            least_x, most_x = lesser(least_x, ax / aw), greater(most_x, ax / aw)
            least_y, most_y = lesser(least_y, ay / aw), greater(most_y, ay / aw)
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
    turn = turn_at(u, v, w, ax, ay, bx, by, cx, cy)
    if turn == 0:
        return 0.0, 0.0
    return (u * az + v * bz + w * cz) / (u + v + w), turn


@compiled
def is_hidden(sight: Sight, height: float, x: float, y: float) -> bool:
    """Tell whether a way with these slopes meets any triangle before the disc."""
    square = row_of(x, sight.least_x, sight.per_square, sight.squares) * sight.squares
    square += row_of(y, sight.least_y, sight.per_square, sight.squares)
    slopes = sight.slopes
    for k in range(sight.starts[square], sight.starts[square + 1]):
        f = sight.listed[k]
        if slopes[f, 0] <= x <= slopes[f, 1] and slopes[f, 2] <= y <= slopes[f, 3]:
            at, turn = _meets(sight.corners, f, x, y)
            if turn != 0 and 0 < at < height:
                return True
    return False


@compiled
def weighed_height(sight: Sight, height: float, x: float, y: float) -> float:
    """Return the sum over closed solids of their weight times how far along the axis a way runs inside."""
    square = row_of(x, sight.least_x, sight.per_square, sight.squares) * sight.squares
    square += row_of(y, sight.least_y, sight.per_square, sight.squares)
    slopes, total = sight.slopes, 0.0
    for k in range(sight.starts[square], sight.starts[square + 1]):
        f = sight.listed[k]
        if slopes[f, 0] <= x <= slopes[f, 1] and slopes[f, 2] <= y <= slopes[f, 3]:
            at, turn = _meets(sight.corners, f, x, y)
            if turn != 0 and at > 0:
                # Each way out adds its height, each way in takes it off: what is left was inside.
                total += sight.weights[f] * turn * lesser(at, height)
    return total
