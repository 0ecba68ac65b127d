"""Walking rays through trees of triangles: compiled loops.

A ray that meets an edge or a corner meets it in exactly one of the faces there (Woop, Benthin, Wald 2013, with
a tie rule), so that ways in and out always pair.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from mallet.trees import WAITING, Trees, compiled, greater, lesser

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]
MOST_CROSSINGS = 64
TINY = 1e-30
UP = (0.0123, 0.0077, 0.99990)


class Ray(NamedTuple):
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
def ray_from(x: float, y: float, z: float, way_x: float, way_y: float, way_z: float) -> Ray:
    """Return the ray from a point along a unit vector."""
    at, way = (x, y, z), (way_x, way_y, way_z)
    long = 0 if abs(way_x) >= abs(way_y) else 1
    if abs(way_z) >= abs(way[long]):
        long = 2
    across, up = (long + 1) % 3, (long + 2) % 3
    if way[long] < 0:
        across, up = up, across
    return Ray(
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
def _meets_box(boxes: Floats, node: int, ray: Ray, reach: float) -> bool:
    a, b = (boxes[node, 0] - ray.x) * ray.per_x, (boxes[node, 3] - ray.x) * ray.per_x
    near, far = greater(lesser(a, b), 0.0), lesser(greater(a, b), reach)
    a, b = (boxes[node, 1] - ray.y) * ray.per_y, (boxes[node, 4] - ray.y) * ray.per_y
    near, far = greater(lesser(a, b), near), lesser(greater(a, b), far)
    a, b = (boxes[node, 2] - ray.z) * ray.per_z, (boxes[node, 5] - ray.z) * ray.per_z
    return greater(lesser(a, b), near) <= lesser(greater(a, b), far)


@compiled
def _owns(ax: float, ay: float, bx: float, by: float) -> bool:
    """Tell which of the two faces along an edge has a ray that meets the edge: as if it were moved
    aside by next to nothing, the same way everywhere."""
    return by > ay or (by == ay and bx > ax)


@compiled
def turn_at(
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
def _meets_face(corners: Floats, face: int, ray: Ray) -> tuple[float, float]:
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
    turn = turn_at(u, v, w, ax, ay, bx, by, cx, cy)
    if turn == 0:
        return 0.0, 0.0
    distance = (u * az + v * bz + w * cz) * ray.per_long / (u + v + w)
    return distance, turn


class Notes(NamedTuple):
    """Room to write while rays are walked: boxes to look at, crossings and their turns."""

    stack: Ints
    at: Floats
    turns: Floats


@compiled
def blank_notes() -> Notes:
    """Return room for one ray at a time."""
    return Notes(np.empty(WAITING, np.int64), np.empty(MOST_CROSSINGS), np.empty(MOST_CROSSINGS))


@compiled
def is_blocked(trees: Trees, ray: Ray, length: float, room: Notes) -> bool:
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
def _crossings(trees: Trees, root: int, ray: Ray, room: Notes) -> int:
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
def weighed_length(trees: Trees, weights: Floats, ray: Ray, length: float, room: Notes) -> float:
    """Return the sum over closed solids, one a root, of their weight times the way inside."""
    total = 0.0
    for i in range(len(trees.roots)):
        # Each way out adds its distance, each way in takes it off: what is left was inside.
        way = 0.0
        for k in range(_crossings(trees, trees.roots[i], ray, room)):
            way += room.turns[k] * lesser(room.at[k], length)
        total += weights[i] * way
    return total


@compiled
def _ray_of(origins: Floats, directions: Floats, i: int) -> Ray:
    o, d = origins[i], directions[i]
    return ray_from(o[0], o[1], o[2], d[0], d[1], d[2])


@compiled
def first_each(trees: Trees, origins: Floats, directions: Floats) -> Floats:
    """Return the distance (N,) to the first face that each ray meets, inf for none."""
    room, out = blank_notes(), np.full(len(origins), np.inf)
    for i in range(len(origins)):
        for root in trees.roots:
            for k in range(_crossings(trees, root, _ray_of(origins, directions, i), room)):
                out[i] = min(out[i], room.at[k])
    return out


@compiled
def clear_each(trees: Trees, points: Floats, ways: Floats, length: float) -> Bools:
    """Tell which points (N, 3) meet no face within a length along any of some ways (W, 3), unit vectors."""
    room, out = blank_notes(), np.ones(len(points), np.bool_)
    for i in range(len(points)):
        x, y, z = points[i, 0], points[i, 1], points[i, 2]
        for root in trees.roots:
            room.stack[0], waiting = root, 1
            while waiting and out[i]:
                waiting -= 1
                node = room.stack[waiting]
                if not _is_by_box(trees.boxes, node, x, y, z, length):
                    continue
                if not trees.held[node]:
                    room.stack[waiting], room.stack[waiting + 1] = trees.first[node], trees.first[node] + 1
                    waiting += 2
                    continue
                for face in range(trees.first[node], trees.first[node] + trees.held[node]):
                    if not _is_by_plane(trees.corners, face, x, y, z, length):
                        continue
                    for way in ways:
                        ray = ray_from(x, y, z, way[0], way[1], way[2])
                        distance, turn = _meets_face(trees.corners, face, ray)
                        if turn != 0 and 0 < distance < length:
                            out[i] = False
    return out


@compiled
def _is_by_plane(corners: Floats, face: int, x: float, y: float, z: float, length: float) -> bool:
    """Tell whether a point lies less than a length off a triangle's plane, or a hair more."""
    px, py, pz = x - corners[face, 0], y - corners[face, 1], z - corners[face, 2]
    bx, by, bz = (
        corners[face, 3] - corners[face, 0],
        corners[face, 4] - corners[face, 1],
        corners[face, 5] - corners[face, 2],
    )
    cx, cy, cz = (
        corners[face, 6] - corners[face, 0],
        corners[face, 7] - corners[face, 1],
        corners[face, 8] - corners[face, 2],
    )
    nx, ny, nz = by * cz - bz * cy, bz * cx - bx * cz, bx * cy - by * cx
    off, reach = px * nx + py * ny + pz * nz, 1.01 * length
    return bool(off * off <= reach * reach * (nx * nx + ny * ny + nz * nz))


@compiled
def _is_by_box(boxes: Floats, node: int, x: float, y: float, z: float, length: float) -> bool:
    """Tell whether a point lies in a box or less than a length beside it, along each axis."""
    return bool(
        boxes[node, 0] - length <= x <= boxes[node, 3] + length
        and boxes[node, 1] - length <= y <= boxes[node, 4] + length
        and boxes[node, 2] - length <= z <= boxes[node, 5] + length
    )


@compiled
def contains_each(trees: Trees, points: Floats) -> Bools:
    """Tell which points (N, 3) lie inside closed solids."""
    room, out = blank_notes(), np.empty(len(points), np.bool_)
    for i in range(len(points)):
        ray = ray_from(points[i, 0], points[i, 1], points[i, 2], UP[0], UP[1], UP[2])
        depth = 0.0
        for root in trees.roots:
            for k in range(_crossings(trees, root, ray, room)):
                depth += room.turns[k]
        out[i] = depth > 0
    return out
