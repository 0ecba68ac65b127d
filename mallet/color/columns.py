"""Straight ways through a restoration as it is seen from a face: how much there is to fill, and what lies behind."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from manifold3d import Manifold
from numpy.typing import NDArray

from mallet.cavity.facets import upright_spans
from mallet.cavity.solids import triangles_of

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
APART_MM, TOUCHING_MM = 0.2, 0.1
# Light goes sideways too: nearer to the margin than this nothing is sure.
BESIDE_MM = 1.0
LEAST_MM = 0.05


@dataclass(frozen=True)
class Columns:
    """Ways at places (C, 2) of a face: how long each is through the restoration (C,) in mm, where it has tooth right behind it
    (C,), and which lie so near to sound tooth beside that its light counts (C,)."""

    places: Floats
    room_mm: Floats
    has_tooth_behind: Bools
    is_beside: Bools

    def __len__(self) -> int:
        return len(self.places)


def columns_of(filling: Manifold, tooth: Manifold) -> Columns:
    """Return the ways through what is to be filled, seen from above in its own frame, before what is left of the tooth."""
    x0, y0, _, x1, y1, _ = filling.bounding_box()
    # Tooth round about counts as well.
    xs, ys = (
        np.arange(low - BESIDE_MM + APART_MM / 2, high + BESIDE_MM, APART_MM)
        for low, high in ((x0, x1), (y0, y1))
    )
    grid = np.stack(np.meshgrid(xs, ys, indexing="ij"), axis=-1).reshape(-1, 2)
    begins, ends, of = upright_spans(triangles_of(filling), grid)
    room = np.bincount(of, weights=ends - begins, minlength=len(grid)).astype(np.float64)
    low = np.full(len(grid), np.inf)
    np.minimum.at(low, of, begins)
    _, tops, behind = upright_spans(triangles_of(tooth), grid)
    near, is_tooth = np.zeros((2, len(grid)), dtype=np.bool_)
    np.logical_or.at(near, behind, np.abs(tops - low[behind]) < TOUCHING_MM)
    is_tooth[behind] = True
    filled = room > LEAST_MM
    beside = _near(grid[filled], grid[is_tooth & ~filled])
    return Columns(grid[filled], room[filled], near[filled], beside)


def _near(places: Floats, others: Floats) -> Bools:
    """Tell which places (C, 2) have one of some others (D, 2) near."""
    from scipy.spatial import cKDTree  # slow to load: not before it is needed

    if not len(others):
        return np.zeros(len(places), dtype=np.bool_)
    away, _ = cKDTree(others).query(places)
    return np.asarray(away < BESIDE_MM)


def stacked(portions: Sequence[tuple[Manifold, str]], places: Floats) -> list[tuple[str, Floats]]:
    """Return what is met on the ways at places (C, 2) from the front to the back: names, those that follow each other of one name
    together, each with its lengths (C,) in mm."""
    lengths, middles, tops = [], [], []
    for solid, _ in portions:
        begins, ends, of = upright_spans(triangles_of(solid), places)
        through = np.bincount(of, weights=ends - begins, minlength=len(places))
        weighed = np.bincount(of, weights=(ends - begins) * (begins + ends) / 2, minlength=len(places))
        top = np.full(len(places), -np.inf)
        np.maximum.at(top, of, ends)
        lengths.append(through)
        middles.append(weighed)
        tops.append(top)
    face = np.max(tops, axis=0)
    # By how deep each lies behind the face, on its mean.
    deep = [
        float((face * through - weighed)[through > 0].sum() / max(through.sum(), LEAST_MM))
        for through, weighed in zip(lengths, middles, strict=True)
    ]
    layers: list[tuple[str, Floats]] = []
    for i in np.argsort(deep, kind="stable"):
        name = portions[i][1]
        if layers and layers[-1][0] == name:
            layers[-1] = (name, layers[-1][1] + lengths[i])
        else:
            layers.append((name, lengths[i]))
    return layers
