"""Shooting rays at solids: what blocks, how far, how much of a way runs inside."""

from __future__ import annotations

from typing import Any

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from manifold3d import Manifold
from numpy.typing import NDArray

from mallet.cavity.solids import triangles_of

Floats = NDArray[np.float64]
LIFT_MM = 1e-4
MOST_CROSSINGS = 8
# The six axes, each leaned a little so that no ray runs within a face that follows an axis.
SIX_WAYS = [sign * np.roll([0.9998, 0.0173, 0.0101], axis) for axis in range(3) for sign in (1.0, -1.0)]


class Scene:
    """Triangles that rays can be shot at. Keeps the arrays alive that the tracer reads."""

    def __init__(self, *solids: Manifold) -> None:
        self._scene: Any = EmbreeScene()
        self._kept = []
        for solid in solids:
            vertices, triangles = triangles_of(solid)
            self._kept.append(TriangleMesh(self._scene, vertices, triangles))
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
        out = self._scene.run(_f32(origins), _f32(directions), output=True)
        missed = out["geomID"] < 0
        distance = np.where(missed, np.inf, out["tfar"].astype(np.float64))
        # The tracer's normals follow the winding: outward for our solids.
        from_behind = (out["Ng"] * directions).sum(axis=1) > 0
        return distance, np.asarray(from_behind & ~missed)

    def contains(self, points: Floats) -> NDArray[np.bool_]:
        """Tell which points (N, 3) lie inside the one closed solid of the scene."""
        up = np.tile([0.0123, 0.0077, 0.99990], (len(points), 1))
        return self.first_hit(points, up)[1]

    def clear_inside(self, points: Floats, clearance_mm: float) -> NDArray[np.bool_]:
        """Tell which points (N, 3) lie inside with no face nearer than that in six directions.

        A point on the very face passes for inside in one direction and for outside in another.
        """
        ways = np.repeat(SIX_WAYS, len(points), axis=0)
        distance, leaving = self.first_hit(np.tile(points, (len(SIX_WAYS), 1)), ways)
        clear = leaving & (distance >= clearance_mm)
        return np.asarray(clear.reshape(len(SIX_WAYS), -1).all(axis=0))

    def length_inside(self, origins: Floats, directions: Floats, lengths: Floats) -> Floats:
        """Return the length (mm) that each ray runs inside the one closed solid before its end."""
        inside = np.zeros(len(origins))
        at = np.zeros(len(origins))
        alive = np.arange(len(origins)) if not self.is_empty else np.empty(0, dtype=int)
        for _ in range(MOST_CROSSINGS):
            if not len(alive):
                break
            start = origins[alive] + at[alive, None] * directions[alive]
            distance, leaving = self.first_hit(start, directions[alive])
            end = np.minimum(at[alive] + distance, lengths[alive])
            inside[alive] += np.where(leaving, end - at[alive], 0.0)
            going = end < lengths[alive]
            at[alive] = end + LIFT_MM
            alive = alive[going]
        return inside


def _f32(values: Floats) -> NDArray[np.float32]:
    return np.ascontiguousarray(values, dtype=np.float32)
