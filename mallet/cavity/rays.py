"""Solids that rays can be shot at: what blocks, how far, how much of a way runs inside."""

from __future__ import annotations

import hashlib
from functools import cached_property, lru_cache
from typing import TYPE_CHECKING

import numpy as np
from manifold3d import Manifold
from numpy.typing import ArrayLike, NDArray

from mallet.cavity.solids import triangles_of

if TYPE_CHECKING:
    from mallet.trees import Trees

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
# The lowest and the highest corner.
Box = tuple[ArrayLike, ArrayLike]
# The six axes, each leaned a little so that no ray runs within a face that follows an axis.
SIX_WAYS = np.array(
    [sign * np.roll([0.9998, 0.0173, 0.0101], axis) for axis in range(3) for sign in (1.0, -1.0)]
)


class Scene:
    """Triangles of solids that rays can be shot at."""

    def __init__(self, *solids: Manifold, reach: Box | None = None, seen_from: Box | None = None) -> None:
        """Take the triangles of solids. Where all rays keep within a box, those outside it are left out;
        where all begin within one, those that turn their back to all of it: a ray from outside enters a
        closed solid by another."""
        # Loading a compiler takes a second that only tracing is worth.
        from mallet import tracer

        self._loops = tracer
        corners = np.concatenate([np.empty((0, 3, 3)), *(triangles_of(solid) for solid in solids)])
        if reach:
            # By hand: numpy's own least and most take ten times as long over three.
            a, b, c = corners.transpose(1, 0, 2)
            most, least = np.maximum(np.maximum(a, b), c), np.minimum(np.minimum(a, b), c)
            meets = (most > reach[0]) & (least < reach[1])
            corners = corners[meets.all(axis=1)]
        if seen_from:
            corners = corners[_fronts(corners, seen_from)]
        self._corners = corners

    @cached_property
    def trees(self) -> Trees:
        """Return the triangles in a tree, grown when first asked for."""
        from mallet.trees import grown

        return grown(self._corners)

    @cached_property
    def digest(self) -> bytes:
        """Return what tells the triangles from others."""
        return hashlib.blake2b(self._corners.tobytes(), digest_size=16).digest()

    def first_hit(self, origins: Floats, directions: Floats) -> Floats:
        """Return the distance (N,) to the first face that each ray meets, inf where it meets none."""
        return self._loops.first_each(self.trees, origins, directions)

    def contains(self, points: Floats) -> Bools:
        """Tell which points (N, 3) lie inside the closed solids of the scene."""
        return self._loops.contains_each(self.trees, points)

    def clear_inside(self, points: Floats, clearance_mm: float) -> Bools:
        """Tell which points (N, 3) lie inside with no face nearer than that in six directions."""
        clear = self._loops.clear_each(self.trees, points, SIX_WAYS, clearance_mm)
        clear[clear] = self.contains(points[clear])
        return clear


def _fronts(corners: Floats, seen_from: Box) -> Bools:
    """Tell which triangles (T, 3, 3) turn their outer face to some point of a box."""
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    normals = np.cross(b - a, c - a)
    low, high = np.asarray(seen_from)
    foremost = np.maximum(normals * low, normals * high).sum(axis=1)
    return np.asarray(foremost > (a * normals).sum(axis=1))


@lru_cache(maxsize=8)
def grouped(scenes: tuple[Scene, ...]) -> Trees:
    """Return the trees of several scenes side by side; root i is that of scene i. One increment is looked
    at several times in a row, with the same ones."""
    trees = [scene.trees for scene in scenes] or [Scene().trees]
    boxes = np.cumsum([0, *(len(tree.boxes) for tree in trees[:-1])])
    faces = np.cumsum([0, *(len(tree.corners) for tree in trees[:-1])])
    starts = zip(trees, boxes, faces, strict=True)
    moved = [np.where(t.held > 0, t.first + face, t.first + box) for t, box, face in starts]
    return trees[0]._replace(
        corners=np.concatenate([tree.corners for tree in trees]),
        boxes=np.concatenate([tree.boxes for tree in trees]),
        first=np.concatenate(moved),
        held=np.concatenate([tree.held for tree in trees]),
        roots=np.concatenate([tree.roots + box for tree, box in zip(trees, boxes, strict=True)]),
    )


def contains_any(scenes: tuple[Scene, ...], points: Floats) -> Bools:
    """Tell which points (N, 3) lie inside any of several scenes."""
    from mallet.tracer import contains_each

    return contains_each(grouped(scenes), points)
