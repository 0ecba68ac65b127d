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
    (C,), and which lie so near to the margin that light from beside counts (C,)."""

    places: Floats
    room_mm: Floats
    has_tooth_behind: Bools
    is_beside: Bools

    def __len__(self) -> int:
        return len(self.places)


def columns_of(filling: Manifold, tooth: Manifold) -> Columns:
    """Return the ways through what is to be filled, seen from above in its own frame, before what is left of the tooth."""
    x0, y0, _, x1, y1, _ = filling.bounding_box()
    xs, ys = (np.arange(low + APART_MM / 2, high, APART_MM) for low, high in ((x0, x1), (y0, y1)))
    grid = np.stack(np.meshgrid(xs, ys, indexing="ij"), axis=-1).reshape(-1, 2)
    begins, ends, of = upright_spans(triangles_of(filling), grid)
    room = np.bincount(of, weights=ends - begins, minlength=len(grid)).astype(np.float64)
    low = np.full(len(grid), np.inf)
    np.minimum.at(low, of, begins)
    lengths = triangles_of(tooth)
    _, tops, behind = upright_spans(lengths, grid)
    near = np.zeros(len(grid), dtype=np.bool_)
    np.logical_or.at(near, behind, np.abs(tops - low[behind]) < TOUCHING_MM)
    filled = room > LEAST_MM
    return Columns(grid[filled], room[filled], near[filled], _beside(grid, filled)[filled])


def _beside(grid: Floats, filled: Bools) -> Bools:
    """Tell which places have an unfilled one, or the end of the grid, near."""
    from scipy.spatial import cKDTree  # slow to load: not before it is needed

    low, high = grid.min(axis=0) - APART_MM, grid.max(axis=0) + APART_MM
    sides = [np.arange(a, b + APART_MM, APART_MM) for a, b in zip(low, high, strict=True)]
    rim = np.array(
        [(x, y) for x in sides[0] for y in (low[1], high[1])]
        + [(x, y) for x in (low[0], high[0]) for y in sides[1]]
    )
    away, _ = cKDTree(np.concatenate([grid[~filled], rim])).query(grid)
    return np.asarray(away < BESIDE_MM)


def thickness_mm(solid: Manifold, places: Floats) -> Floats:
    """Return how long straight ways through a solid are at places (C, 2), in mm (C,)."""
    begins, ends, of = upright_spans(triangles_of(solid), places)
    return np.asarray(np.bincount(of, weights=ends - begins, minlength=len(places)))


def stacked(portions: Sequence[tuple[Manifold, str]], places: Floats) -> list[tuple[str, Floats]]:
    """Return what is met on the ways at places (C, 2) from the front to the back: names, those that follow each other of one name
    together, each with its lengths (C,) in mm."""
    ordered = sorted(portions, key=lambda one: -_middle_mm(one[0]))
    layers: list[tuple[str, Floats]] = []
    for solid, name in ordered:
        through = thickness_mm(solid, places)
        if layers and layers[-1][0] == name:
            layers[-1] = (name, layers[-1][1] + through)
        else:
            layers.append((name, through))
    return layers


def _middle_mm(solid: Manifold) -> float:
    corners = triangles_of(solid)
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    volumes = np.einsum("ij,ij->i", a, np.cross(b, c)) / 6
    return float(((a + b + c)[:, 2] / 4) @ volumes / volumes.sum())
