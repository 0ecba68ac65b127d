"""What can be measured on a solid: faces by what they touch, straight lengths, least width."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray

from mallet.cavity.rays import LIFT_MM, MOST_CROSSINGS, Scene
from mallet.cavity.solids import Skin, skin

Floats = NDArray[np.float64]
EDGE_MM = 0.8
PROBE_MM = 0.02
COLUMN_MM = 0.4


@dataclass(frozen=True)
class Contacts:
    """The faces of a portion by what they touch: each a skin of small triangles."""

    tooth: Skin
    band: Skin
    increment: Skin
    air: Skin

    def areas_mm2(self) -> dict[str, float]:
        return {
            "tooth": float(self.tooth.areas.sum()),
            "band": float(self.band.areas.sum()),
            "increment": float(self.increment.areas.sum()),
            "air": float(self.air.areas.sum()),
        }

    def c_factor(self) -> float:
        """Return bonded over free area (Feilzer, de Gee, Davidson 1987); a band is not bonded."""
        areas = self.areas_mm2()
        return (areas["tooth"] + areas["increment"]) / max(areas["air"] + areas["band"], 1e-9)


def contacts_of(
    solid: Manifold,
    tooth_tags: set[int],
    outer_tag: int,
    banded: Sequence[tuple[float, float]],
    placed: Sequence[Scene],
) -> Contacts:
    """Return what each face of a portion touches.

    `banded` are (sign of x, top height) of each band; `placed` are scenes of earlier portions.
    """
    faces = finely(skin(solid), EDGE_MM)
    on_tooth = np.isin(faces.tags, list(tooth_tags))
    on_outside = faces.tags == outer_tag
    on_band = np.zeros(len(faces.areas), dtype=np.bool_)
    for sign, top in banded:
        facing = (faces.normals[:, 0] * sign > 0.35) & (faces.centres[:, 0] * sign > 0)
        on_band |= on_outside & facing & (faces.centres[:, 2] < top)
    cut = ~on_tooth & ~on_outside
    on_earlier = np.zeros_like(cut)
    beyond = faces.centres[cut] + PROBE_MM * faces.normals[cut]
    for scene in placed:
        on_earlier[cut] |= scene.contains(beyond)
    air = ~on_tooth & ~on_band & ~on_earlier
    return Contacts(*(faces.where(k) for k in (on_tooth, on_band, on_earlier, air)))


def finely(faces: Skin, edge_mm: float) -> Skin:
    """Return the same faces cut until no edge is longer than a length."""
    corners, tags, normals = faces.corners, faces.tags, faces.normals
    done_c, done_t, done_n = [], [], []
    while len(corners):
        edges = np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2)
        longest = edges.argmax(axis=1)
        small = edges.max(axis=1) <= edge_mm
        done_c.append(corners[small])
        done_t.append(tags[small])
        done_n.append(normals[small])
        corners, tags, normals, longest = (v[~small] for v in (corners, tags, normals, longest))
        rows = np.arange(len(corners))
        a, b, c = (corners[rows, (longest + i) % 3] for i in range(3))
        middle = (a + b) / 2
        corners = np.concatenate([np.stack([a, middle, c], 1), np.stack([middle, b, c], 1)])
        tags, normals = np.concatenate([tags, tags]), np.concatenate([normals, normals])
    if not done_c:
        return faces
    out, t, n = np.concatenate(done_c), np.concatenate(done_t), np.concatenate(done_n)
    areas = np.linalg.norm(np.cross(out[:, 1] - out[:, 0], out[:, 2] - out[:, 0]), axis=1) / 2
    return Skin(out, n, areas, t)


def longest_vertical_mm(solid: Manifold, scene: Scene | None = None) -> float:
    """Return the longest straight vertical way inside a solid, in mm; its scene saves making one."""
    scene = scene or Scene(solid)
    x0, y0, z0, x1, y1, _ = solid.bounding_box()
    xs = np.arange(x0 + COLUMN_MM / 2, x1, COLUMN_MM)
    ys = np.arange(y0 + COLUMN_MM / 2, y1, COLUMN_MM)
    grid = np.array([(x, y) for x in xs for y in ys]).reshape(-1, 2)
    corners = np.asarray(solid.to_mesh64().vert_properties)[:, :2]
    middle = np.array([(x0 + x1) / 2, (y0 + y1) / 2])
    columns = np.concatenate([grid, corners + 1e-3 * (middle - corners)])
    start = np.column_stack([columns, np.full(len(columns), z0 - 0.5)])
    up = np.tile([0.0, 0.0, 1.0], (len(start), 1))
    entered = np.zeros(len(start), dtype=np.bool_)
    longest = 0.0
    for _ in range(MOST_CROSSINGS):
        distance, leaving = scene.first_hit(start, up)
        hit = np.isfinite(distance)
        ended = hit & leaving & entered
        if ended.any():
            longest = max(longest, float(distance[ended].max()) + LIFT_MM)
        if not hit.any():
            break
        start = start[hit] + (distance[hit, None] + LIFT_MM) * up[hit]
        up, entered = up[hit], ~leaving[hit]
    return longest


def least_width_mm(solid: Manifold) -> float:
    """Return the least distance of two parallel planes between which a solid fits.

    Over the face normals of its convex hull; the exact least may be slightly smaller where two
    edges, not a face, bear the planes.
    """
    hull = skin(solid.hull())
    points = hull.corners.reshape(-1, 3)
    normals = np.unique(np.round(hull.normals, 4), axis=0)
    along = points @ normals.T
    return float((along.max(axis=0) - along.min(axis=0)).min())
