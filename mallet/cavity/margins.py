"""The margin of a cavity: where its walls meet the outside of the tooth, and at which angle."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray

from mallet.cavity.solids import skin

Floats = NDArray[np.float64]
SAME_PLACE_MM = 2e-5


@dataclass(frozen=True)
class Margin:
    """Pieces of a margin: their middles (N, 3), lengths in mm (N,) and the angle in degrees (N,) that the tooth has
    there between its outside and the wall: under 90 what is left of it overhangs. `outside` and `wall` are the unit normals
    (N, 3) of the restoration's faces that meet there."""

    middles: Floats
    lengths_mm: Floats
    tooth_deg: Floats
    outside: Floats
    wall: Floats

    def where(self, keep: NDArray[np.bool_]) -> Margin:
        columns = (self.middles, self.lengths_mm, self.tooth_deg, self.outside, self.wall)
        return Margin(*(column[keep] for column in columns))

    def least(self, share: float) -> int:
        """Return the piece up to whose angle lies a share of the margin's length, from the sharpest on."""
        order = np.argsort(self.tooth_deg, kind="stable")
        so_far = np.cumsum(self.lengths_mm[order])
        return int(order[int(np.searchsorted(so_far, share * so_far[-1]))])


def margin_of(filling: Manifold, outer_tag: int, cut_tags: set[int]) -> Margin:
    """Return the margin of a restoration, in order of place."""
    faces = skin(filling)
    outside, wall = faces.tags == outer_tag, np.isin(faces.tags, list(cut_tags))
    x, y, z = np.round(faces.corners.reshape(-1, 3) / SAME_PLACE_MM).astype(np.int64).T
    places, names = np.unique((x << 42) + (y << 21) + z, return_inverse=True)
    starts = names.reshape(-1, 3)
    ends = np.roll(starts, -1, axis=1)
    # Two faces run along their common edge in opposite ways.
    there, back = starts * len(places) + ends, ends * len(places) + starts
    _, here, beside = np.intersect1d(
        np.where(outside[:, None], there, -1), np.where(wall[:, None], back, -2), return_indices=True
    )
    of, corner, on = here // 3, here % 3, beside // 3
    start, end = faces.corners[of, corner], faces.corners[of, (corner + 1) % 3]
    # By how much the filling's faces turn there, the tooth fills the half turn.
    cosines = (faces.normals[of] * faces.normals[on]).sum(axis=1)
    tooth_deg = np.degrees(np.arccos(np.clip(cosines, -1.0, 1.0)))
    lengths = np.linalg.norm(end - start, axis=1)
    return Margin((start + end) / 2, lengths, tooth_deg, faces.normals[of], faces.normals[on])
