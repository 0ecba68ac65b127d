"""Triangles of a solid's skin, cut and gathered: compiled loops."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from mallet.tracer import MOST_CROSSINGS, turn_at
from mallet.trees import compiled, greater, lesser, row_of

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
SAME_PLACE_MM = 1e-4
# So many halves of one triangle wait at once, at most: each is cut at least every third time to half its size.
MOST_HALVES = 128


def corners_of(corners: Floats, normals: Floats, deep: int, damping: float) -> tuple[Floats, Floats, Floats]:
    """Return each corner of the first `deep` of triangles (T, 3, 3) once, in order of place: where it lies
    (C, 3), a step off every face that meets there (C, 3), damped where they are all but parallel, and how
    far from one plane and from one edge their normals are (C,): nought where two faces meet.

    The step s is the one nearest to n . s = 1 for the unit normals n of all faces there.
    """
    cells = np.rint(corners.reshape(-1, 3) / SAME_PLACE_MM).astype(np.int64)
    places = cells[:, 0] + (cells[:, 1] << 20) + (cells[:, 2] << 40)
    return _gathered(corners, normals, deep, damping, places, np.argsort(places, kind="stable"))


@compiled
def _gathered(
    corners: Floats, normals: Floats, deep: int, damping: float, places: Ints, order: Ints
) -> tuple[Floats, Floats, Floats]:
    """Return what `corners_of` does, with the place of each corner and their order."""
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
def normals_and_areas(corners: Floats) -> tuple[Floats, Floats]:
    """Return the unit normals (T, 3) and the areas (T,) of triangles (T, 3, 3); without area there is no normal."""
    normals, areas = np.zeros((len(corners), 3)), np.empty(len(corners))
    for i in range(len(corners)):
        a, b, c = corners[i]
        bx, by, bz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
        cx, cy, cz = c[0] - a[0], c[1] - a[1], c[2] - a[2]
        x, y, z = by * cz - bz * cy, bz * cx - bx * cz, bx * cy - by * cx
        twice = np.sqrt(x * x + y * y + z * z)
        areas[i] = twice / 2
        if twice > 0:
            normals[i, 0], normals[i, 1], normals[i, 2] = x / twice, y / twice, z / twice
    return normals, areas


@compiled
def _is_off(faces: Floats, row: int, middle: Floats, radius_mm: float) -> bool:
    """Tell whether the box around a triangle stays off a ball."""
    squared = 0.0
    for axis in range(3):
        a, b, c = faces[row, 0, axis], faces[row, 1, axis], faces[row, 2, axis]
        off = greater(lesser(lesser(a, b), c) - middle[axis], middle[axis] - greater(greater(a, b), c))
        if off > 0:
            squared += off * off
    return squared > radius_mm * radius_mm


@compiled
def _write(faces: Floats, row: int, into: Floats, at: int) -> None:
    """Write a triangle into another list: assigning whole rows takes seconds to compile."""
    for k in range(3):
        for axis in range(3):
            into[at, k, axis] = faces[row, k, axis]


@compiled
def halved_near(corners: Floats, edge_mm: float, middle: Floats, radius_mm: float) -> tuple[Floats, Ints]:
    """Return triangles (T, 3, 3) cut in halves, through their longest edge, until no edge is longer than a length, and
    which one each comes of; those that stay off a ball are left out."""
    out, of, made = np.empty((2 * len(corners) + 1, 3, 3)), np.empty(2 * len(corners) + 1, np.int64), 0
    waiting = np.empty((MOST_HALVES, 3, 3))
    for i in range(len(corners) - 1, -1, -1):
        _write(corners, i, waiting, 0)
        count = 1
        while count:
            top = count - 1
            if _is_off(waiting, top, middle, radius_mm):
                count -= 1
                continue
            longest, most = 0, 0.0
            for k in range(3):
                squared = 0.0
                for axis in range(3):
                    squared += (waiting[top, k, axis] - waiting[top, (k + 1) % 3, axis]) ** 2
                if squared > most:
                    longest, most = k, squared
            if most > edge_mm**2:
                after = (longest + 1) % 3
                _write(waiting, top, waiting, count)
                for axis in range(3):
                    between = (waiting[top, longest, axis] + waiting[top, after, axis]) / 2
                    waiting[top, longest, axis], waiting[count, after, axis] = between, between
                count += 1
                continue
            if made == len(out):
                more, more_of = np.empty((2 * made, 3, 3)), np.empty(2 * made, np.int64)
                for k in range(made):
                    _write(out, k, more, k)
                    more_of[k] = of[k]
                out, of = more, more_of
            _write(waiting, top, out, made)
            of[made] = i
            made, count = made + 1, count - 1
    return out[:made], of[:made]


def halved(corners: Floats, edge_mm: float) -> tuple[Floats, Ints]:
    """Return triangles (T, 3, 3) cut in halves as `halved_near` does, all of them."""
    return halved_near(corners, edge_mm, np.zeros(3), np.inf)


def upright_spans(corners: Floats, columns: Floats) -> tuple[Floats, Floats, Ints]:
    """Return where upright lines at places (N, 2) enter the closed solids of triangles (T, 3, 3) and where
    they leave them again, heights (S,), each, and which line that is; by line from the least x on, then
    from below."""
    order = np.argsort(columns[:, 0], kind="stable")
    return _spans(corners, columns[order, 0], columns[order, 1], order)


@compiled
def _spans(corners: Floats, xs: Floats, ys: Floats, order: Ints) -> tuple[Floats, Floats, Ints]:
    """Return what `upright_spans` does, with the lines in their order."""
    found = np.zeros(len(xs), np.int64)
    at, turns = np.empty((len(xs), MOST_CROSSINGS)), np.empty((len(xs), MOST_CROSSINGS))
    if not len(xs):
        return np.empty(0), np.empty(0), order
    # Lines are sorted into squares, so that a triangle is held against those near it.
    squares = int(np.sqrt(len(xs))) + 1
    x0, y0 = xs[0], ys.min()
    per_x, per_y = (
        squares / greater(xs[-1] - x0, SAME_PLACE_MM),
        squares / greater(ys.max() - y0, SAME_PLACE_MM),
    )
    starts, square = np.zeros(squares * squares + 1, np.int64), np.empty(len(xs), np.int64)
    for i in range(len(xs)):
        square[i] = row_of(xs[i], x0, per_x, squares) * squares + row_of(ys[i], y0, per_y, squares)
        starts[square[i] + 1] += 1
    for i in range(squares * squares):
        starts[i + 1] += starts[i]
    listed, filled = np.empty(len(xs), np.int64), starts[:-1].copy()
    for i in range(len(xs)):
        listed[filled[square[i]]] = i
        filled[square[i]] += 1
    for a, b, c in corners:
        west, east = lesser(lesser(a[0], b[0]), c[0]), greater(greater(a[0], b[0]), c[0])
        south, north = lesser(lesser(a[1], b[1]), c[1]), greater(greater(a[1], b[1]), c[1])
        first, last = row_of(south, y0, per_y, squares), row_of(north, y0, per_y, squares)
        for row in range(row_of(west, x0, per_x, squares), row_of(east, x0, per_x, squares) + 1):
            for k in range(starts[row * squares + first], starts[row * squares + last + 1]):
                i = listed[k]
                if west <= xs[i] <= east and south <= ys[i] <= north and found[i] < MOST_CROSSINGS:
                    ax, bx, cx = a[0] - xs[i], b[0] - xs[i], c[0] - xs[i]
                    ay, by, cy = a[1] - ys[i], b[1] - ys[i], c[1] - ys[i]
                    u, v, w = bx * cy - by * cx, cx * ay - cy * ax, ax * by - ay * bx
                    turn = turn_at(u, v, w, ax, ay, bx, by, cx, cy)
                    if turn != 0:
                        at[i, found[i]] = (u * a[2] + v * b[2] + w * c[2]) / (u + v + w)
                        turns[i, found[i]] = turn
                        found[i] += 1
    begins, ends, of, made = np.empty(at.size), np.empty(at.size), np.empty(at.size, np.int64), 0
    for i in range(len(xs)):
        depth = 0.0
        _sort(at[i], turns[i], found[i])
        for k in range(found[i]):
            if depth == 0 and turns[i, k] < 0:
                begins[made] = at[i, k]
            if depth == 1 and turns[i, k] > 0:
                ends[made], of[made] = at[i, k], order[i]
                made += 1
            depth -= turns[i, k]
    return begins[:made], ends[:made], of[:made]


@compiled
def _sort(keys: Floats, others: Floats, count: int) -> None:
    """Put the first few keys in rising order, and what belongs to each with it; equal ones stay in turn."""
    for i in range(1, count):
        key, other, k = keys[i], others[i], i
        while k and keys[k - 1] > key:
            keys[k], others[k], k = keys[k - 1], others[k - 1], k - 1
        keys[k], others[k] = key, other


@compiled
def least_extent(points: Floats, ways: Floats) -> float:
    """Return the least that points (N, 3) reach along any of some unit vectors (M, 3)."""
    least = np.inf
    for way in ways:
        low, high = np.inf, -np.inf
        for point in points:
            at = point[0] * way[0] + point[1] * way[1] + point[2] * way[2]
            low, high = lesser(low, at), greater(high, at)
            if high - low >= least:
                break
        least = lesser(least, high - low)
    return float(least)
