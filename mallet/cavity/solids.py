"""Manifold solids from rings and corners, each with a tag that survives every cut."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from manifold3d import Manifold, Mesh64
from numpy.typing import NDArray

from mallet.tooth import Crown
from mallet.tooth.crown import AROUND

Floats = NDArray[np.float64]
SLIVER_MM2 = 5e-13
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Tagged:
    """A solid whose surface can be recognised again after boolean operations."""

    solid: Manifold
    tag: int


@dataclass(frozen=True)
class Skin:
    """The triangles of a solid: corners (T, 3, 3), unit normals (T, 3), areas (T,), tags (T,)."""

    corners: Floats
    normals: Floats
    areas: Floats
    tags: Ints

    @property
    def centres(self) -> Floats:
        # Summed by hand: numpy's mean takes ten times as long over three.
        a, b, c = self.corners.transpose(1, 0, 2)
        return np.asarray((a + b + c) / 3)

    @property
    def area_mm2(self) -> float:
        """Return the area of all triangles, the same in whichever order they come: that depends on what was cut
        before."""
        return math.fsum(self.areas.tolist())

    def where(self, keep: NDArray[np.bool_]) -> Skin:
        return Skin(self.corners[keep], self.normals[keep], self.areas[keep], self.tags[keep])


def joined(skins: Sequence[Skin]) -> Skin:
    """Return the triangles of several skins as one."""
    columns = zip(*(vars(one).values() for one in skins), strict=True)
    return Skin(*(np.concatenate(column) for column in columns))


def tagged_solid(vertices: Floats, triangles: Ints, tag: int | None = None) -> Tagged:
    """Return a closed solid from vertices (N, 3) and outward triangles (T, 3); with a tag of its own unless one
    is given."""
    tag = int(Manifold.reserve_ids(1)) if tag is None else tag
    mesh = Mesh64(
        vert_properties=np.ascontiguousarray(vertices, dtype=np.float64),
        tri_verts=np.ascontiguousarray(triangles, dtype=np.uint64),
        run_index=np.array([0, 3 * len(triangles)], dtype=np.uint64),
        run_original_id=np.array([tag], dtype=np.uint32),
    )
    solid = Manifold(mesh)
    if solid.is_empty():
        raise ValueError(f"not a closed solid: {solid.status()}")
    return Tagged(solid, tag)


def crown_solid(crown: Crown) -> Tagged:
    """Return the solid of a lofted crown: rings joined, root closed flat, center closed to a point."""
    rings = np.concatenate([crown.axial, crown.cap])
    count = len(rings)
    around = np.arange(AROUND)
    after = (around + 1) % AROUND
    triangles = []
    for i in range(count - 1):
        low, high = i * AROUND, (i + 1) * AROUND
        triangles.append(np.column_stack([low + around, low + after, high + after]))
        triangles.append(np.column_stack([low + around, high + after, high + around]))
    top, bottom = count * AROUND, count * AROUND + 1
    last = (count - 1) * AROUND
    triangles.append(np.column_stack([last + around, last + after, np.full(AROUND, top)]))
    triangles.append(np.column_stack([after, around, np.full(AROUND, bottom)]))
    foot = rings[0].mean(axis=0)
    vertices = np.vstack([rings.reshape(-1, 3), crown.centre[None], foot[None]])
    return tagged_solid(vertices, np.concatenate(triangles))


def frustum(floor: tuple[float, float, float, float], z0: float, z1: float,
            slopes: tuple[float, float, float, float]) -> Tagged:  # fmt: skip
    """Return a box from a floor (x0, x1, y0, y1) at z0 up to z1.

    Each wall moves outward by its slope (mm a mm of height), in the same order.
    """
    x0, x1, y0, y1 = floor
    h = z1 - z0
    sx0, sx1, sy0, sy1 = slopes
    low = [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]
    X0, X1, Y0, Y1 = x0 - sx0 * h, x1 + sx1 * h, y0 - sy0 * h, y1 + sy1 * h
    high = [(X0, Y0), (X1, Y0), (X1, Y1), (X0, Y1)]
    vertices = np.array([(*p, z0) for p in low] + [(*p, z1) for p in high])
    triangles = np.array(
        [[0, 2, 1], [0, 3, 2], [4, 5, 6], [4, 6, 7], [0, 1, 5], [0, 5, 4],
         [1, 2, 6], [1, 6, 5], [2, 3, 7], [2, 7, 6], [3, 0, 4], [3, 4, 7]]
    )  # fmt: skip
    return tagged_solid(vertices, triangles)


def half_space(point: Floats, normal: Floats, reach: float = 30.0) -> Tagged:
    """Return a large block that fills the side of a plane from which the normal points away."""
    n = np.asarray(normal, dtype=np.float64) / np.linalg.norm(normal)
    side = np.cross(n, [1.0, 0.0, 0.0] if abs(n[0]) < 0.9 else [0.0, 1.0, 0.0])
    side /= np.linalg.norm(side)
    other = np.cross(n, side)
    ends = [(-1, -1), (1, -1), (1, 1), (-1, 1)]
    top = [point + reach * (a * side + b * other) for a, b in ends]
    bottom = [p - reach * n for p in top]
    triangles = np.array(
        [[0, 2, 1], [0, 3, 2], [4, 5, 6], [4, 6, 7], [0, 1, 5], [0, 5, 4],
         [1, 2, 6], [1, 6, 5], [2, 3, 7], [2, 7, 6], [3, 0, 4], [3, 4, 7]]
    )  # fmt: skip
    return tagged_solid(np.array(bottom + top), triangles)


def below(z_mm: float) -> Tagged:
    """Return the block below a horizontal plane."""
    return half_space(np.array([0.0, 0.0, z_mm]), np.array([0.0, 0.0, 1.0]))


def skin(solid: Manifold) -> Skin:
    """Return the triangles of a solid with their tags; slivers without area are left out."""
    from mallet.cavity.facets import normals_and_areas

    mesh = solid.to_mesh64()
    vertices = np.asarray(mesh.vert_properties)[:, :3]
    corners = vertices[np.asarray(mesh.tri_verts).astype(np.int64)]
    runs = np.asarray(mesh.run_index).astype(np.int64) // 3
    tags = np.repeat(np.asarray(mesh.run_original_id).astype(np.int64), np.diff(runs))
    normals, areas = normals_and_areas(corners)
    keep = areas > SLIVER_MM2
    return Skin(corners[keep], normals[keep], areas[keep], tags[keep])


def triangles_of(solid: Manifold) -> Floats:
    """Return the corners of a solid's triangles (T, 3, 3)."""
    mesh = solid.to_mesh64()
    vertices = np.asarray(mesh.vert_properties)[:, :3]
    return np.asarray(vertices[np.asarray(mesh.tri_verts).astype(np.int64)])
