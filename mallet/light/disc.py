"""A lamp's disc as a target sees it, and what faces send each other: compiled loops.

Where many ways are looked along, what lies between a target and the disc is sorted into squares of the slopes
off the axis first, so that a way meets the few triangles of its square; few ways walk the trees.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from mallet.tracer import (
    TINY,
    WAITING,
    Notes,
    Ray,
    Trees,
    blank_notes,
    compiled,
    greater,
    is_blocked,
    lesser,
    ray_from,
    row_of,
    turn_at,
    weighed_length,
)

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
# A tip that touches a target still has it in front.
LEAST_HEIGHT_MM = 1e-3
# By how much slopes are widened, so that rounding leaves out no face.
HAIR = 1e-9
# Up to so many ways to the disc it is quicker to walk each by itself.
FEW_WAYS = 64


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
    counts as one: the step in light from cell to cell, as a share of the brightest. Where few ways are looked
    along, a target is left off once it has enough, or `within` times what the dimmest before it has with a
    glimmer on top."""

    node: Floats
    share: Floats
    around: int
    parts: int
    contrast: float
    enough: float
    within: float
    glimmer: float


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
    """The triangles before one target that lie towards the disc: corners from the target, in the disc's frame (F, 9),
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
    trees: Trees,
    weights: Floats,
    target: Floats,
    axes: Floats,
    view: _View,
    squares: int,
    room: _Room,
    only_front: bool,
) -> _Sight:
    """Return the triangles that may meet a way from a target to the disc, and on beyond it, each with its
    root's weight: what a way leaves beyond the disc tells that it ends inside. What hides a target that lies
    outside closed solids does so by a front; the backs may then be left out."""
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
                if only_front and not _faces(trees.corners, face, target):
                    continue
                _write_turned(trees.corners, face, target, axes, corners, found)
                if greater(greater(corners[found, 2], corners[found, 5]), corners[found, 8]) > 0:
                    room.weights[found] = weights[i]
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
    return _Sight(corners, slopes, room.weights, squares, least_x, least_y, per_square, starts, listed)


@compiled
def _is_on_the_way(
    boxes: Floats, node: int, target: Floats, axes: Floats, view: _View, x: float, y: float
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
def _no_sight() -> _Sight:
    nothing, none = np.empty((0, 9)), np.zeros(2, np.int64)
    return _Sight(nothing, np.empty((0, 4)), np.empty(0), 1, 0.0, 0.0, 0.0, none, none[:0])


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
def _is_hidden(sight: _Sight, height: float, x: float, y: float) -> bool:
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
def _weighed_height(sight: _Sight, height: float, x: float, y: float) -> float:
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
def _ray_to(target: Floats, axes: Floats, x: float, y: float, cosine: float) -> Ray:
    """Return the ray from a target with slopes off a disc's axis."""
    x, y = x * cosine, y * cosine
    return ray_from(
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
    through closed solids, one a root of the media, each by its weight. Of a target that was left off, it is what
    had arrived till then."""
    rings, around, parts = len(cells.node), cells.around, cells.parts
    begin = np.cumsum(cells.share) - cells.share
    # Where steps in light count as edges, all light has to be known before they are found.
    by_light = cells.contrast < np.inf
    is_walked = parts == 1 and rings * around <= FEW_WAYS
    squares = int(math.sqrt(rings * around))
    notes, no_weights = blank_notes(), np.zeros(len(blockers.roots))
    for_blockers, for_media = _room_for(blockers), _room_for(media)
    out, exponent, least = np.zeros(len(targets)), disc.exponent, np.inf
    free, light = np.empty((around, rings)), np.empty((around, rings))
    for i in range(len(targets)):
        target = targets[i]
        view, brightest = _view(target, disc), 0.0
        if not view.is_before:
            continue
        if is_walked:
            enough = min(cells.enough, cells.within * (least + cells.glimmer)) / disc.peak
            out[i] = disc.peak * _walked(target, view, disc, blockers, media, weights, cells, enough, notes)
            least = min(least, out[i])
            continue
        hiding = _sight(blockers, no_weights, target, disc.axes, view, squares, for_blockers, True)
        weakening = _sight(media, weights, target, disc.axes, view, squares, for_media, False)
        height = view.height
        for column in range(around):
            chord = _chord(view, (column + 0.5) / around)
            for row in range(rings):
                x, y, cosine = _way(chord, cells.node[row])
                free[column, row] = 0.0 if _is_hidden(hiding, height, x, y) else 1.0
        for column in range(around):
            chord = _chord(view, (column + 0.5) / around)
            for row in range(rings):
                light[column, row] = 0.0
                is_late = parts > 1 and not by_light and _is_edge(free, column, row, np.inf, 1.0)
                if free[column, row] > 0 and not is_late:
                    x, y, cosine = _way(chord, cells.node[row])
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
def _walked(
    target: Floats,
    view: _View,
    disc: Disc,
    blockers: Trees,
    media: Trees,
    weights: Floats,
    cells: Cells,
    enough: float,
    notes: Notes,
) -> float:
    """Return the light of the disc's free cells at a target, each way walked by itself; no more than is
    enough."""
    total = 0.0
    for column in range(cells.around):
        chord = _chord(view, (column + 0.5) / cells.around)
        for row in range(len(cells.node)):
            x, y, cosine = _way(chord, cells.node[row])
            ray = _ray_to(target, disc.axes, x, y, cosine)
            if not is_blocked(blockers, ray, view.height / cosine, notes):
                through = weighed_length(media, weights, ray, view.height / cosine, notes)
                light = cosine ** (disc.exponent - 1) * math.exp(-through)
                total += light * chord.spread * cells.share[row] / cells.around
                if total > enough:
                    return float(total)
    return float(total)


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
        hiding = _sight(blockers, no_weights, target, disc.axes, view, squares, room, True)
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
    out, room = np.zeros((len(targets), len(points))), blank_notes()
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
            ray = ray_from(targets[i, 0], targets[i, 1], targets[i, 2], way[0], way[1], way[2])
            if is_blocked(blockers, ray, length, room):
                continue
            through = weighed_length(media, weights, ray, length, room)
            seen = areas[j] * arriving * leaving / (math.pi * square + areas[j])
            out[i, j] = seen * math.exp(-through)
    return out
