"""Shooting rays at solids: what blocks, how far, how much of a way runs inside."""

from __future__ import annotations

from typing import Any

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from manifold3d import Manifold
from numpy.typing import ArrayLike, NDArray

from mallet.cavity.solids import triangles_of

Floats = NDArray[np.float64]
LIFT_MM = 1e-4
MOST_CROSSINGS = 8
# The six axes, each leaned a little so that no ray runs within a face that follows an axis.
SIX_WAYS = [sign * np.roll([0.9998, 0.0173, 0.0101], axis) for axis in range(3) for sign in (1.0, -1.0)]


class Scene:
    """Triangles that rays can be shot at. Keeps the arrays alive that the tracer reads."""

    def __init__(self, *solids: Manifold, reach: tuple[ArrayLike, ArrayLike] | None = None) -> None:
        """Take the triangles of solids; where all rays keep within a box, given by its lowest and
        highest corner, those outside it are left out."""
        self._scene: Any = EmbreeScene()
        self._kept = []
        self.low_mm, self.high_mm = np.full(3, np.inf), np.full(3, -np.inf)
        for solid in solids:
            vertices, triangles = triangles_of(solid)
            if reach:
                corners = vertices[triangles]
                meets = (corners.max(axis=1) > reach[0]) & (corners.min(axis=1) < reach[1])
                triangles = triangles[meets.all(axis=1)]
            self._kept.append(TriangleMesh(self._scene, vertices, triangles))
            self.low_mm = np.minimum(self.low_mm, vertices.min(axis=0, initial=np.inf))
            self.high_mm = np.maximum(self.high_mm, vertices.max(axis=0, initial=-np.inf))
        self.is_empty = not solids

    def blocked(self, origins: Floats, directions: Floats, lengths: Floats) -> NDArray[np.bool_]:
        """Tell which rays (N, 3) meet a triangle within their length."""
        if self.is_empty:
            return np.zeros(len(origins), dtype=np.bool_)
        hit = self._scene.run(_f32(origins), _f32(directions), dists=_f32(lengths), query="OCCLUDED")
        return np.asarray(hit != -1)

    def first_hit(self, origins: Floats, directions: Floats) -> tuple[Floats, NDArray[np.bool_]]:
        """Return distances (inf for a miss) and whether the triangle hit is seen from behind."""
        if self.is_empty:
            return np.full(len(origins), np.inf), np.zeros(len(origins), dtype=np.bool_)
        ways = _f32(directions)
        out = self._scene.run(_f32(origins), ways, output=True)
        hit = out["geomID"] >= 0
        distance = out["tfar"].astype(np.float64)
        distance[~hit] = np.inf
        # The tracer's normals follow the winding: outward for our solids.
        from_behind = np.einsum("ij,ij->i", out["Ng"], ways) > 0
        return distance, from_behind & hit

    def contains(self, points: Floats) -> NDArray[np.bool_]:
        """Tell which points (N, 3) lie inside the one closed solid of the scene."""
        inside = np.zeros(len(points), dtype=np.bool_)
        near = np.flatnonzero(((points > self.low_mm) & (points < self.high_mm)).all(axis=1))
        up = np.tile([0.0123, 0.0077, 0.99990], (len(near), 1))
        inside[near] = self.first_hit(points[near], up)[1]
        return inside

    def clear_inside(self, points: Floats, clearance_mm: float) -> NDArray[np.bool_]:
        """Tell which points (N, 3) lie inside with no face nearer than that in six directions.

        A point on the very face passes for inside in one direction and for outside in another.
        """
        ways = np.repeat(SIX_WAYS, len(points), axis=0)
        distance, leaving = self.first_hit(np.tile(points, (len(SIX_WAYS), 1)), ways)
        clear = leaving & (distance >= clearance_mm)
        return np.asarray(clear.reshape(len(SIX_WAYS), -1).all(axis=0))

    def length_inside(self, origins: Floats, directions: Floats, lengths: Floats) -> Floats:
        """Return the length (mm) that each rising ray runs inside the one closed solid before its end."""
        inside = np.zeros(len(origins))
        # Above its top a solid is not met again: most rays leave there, and need no further look.
        last = np.minimum(lengths, (self.high_mm[2] - origins[:, 2]) / directions[:, 2])
        ray = np.flatnonzero(last > LIFT_MM)
        at, last, start, way = np.zeros(len(ray)), last[ray], origins[ray], directions[ray]
        for _ in range(MOST_CROSSINGS):
            if not len(ray):
                break
            distance, leaving = self.first_hit(start + at[:, None] * way, way)
            end = np.minimum(at + distance, lengths[ray])
            inside[ray] += np.where(leaving, end - at, 0.0)
            going = end + LIFT_MM < last
            ray, last, start, way = ray[going], last[going], start[going], way[going]
            at = end[going] + LIFT_MM
        return inside


def _f32(values: Floats) -> NDArray[np.float32]:
    return np.ascontiguousarray(values, dtype=np.float32)
