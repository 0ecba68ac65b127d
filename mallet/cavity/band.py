"""A matrix band as a thin solid that hugs the outer surface over a box."""

from __future__ import annotations

import numpy as np

from mallet.cavity.solids import Tagged, tagged_solid
from mallet.terms.case import Side
from mallet.tooth import Crown
from mallet.tooth.crown import AROUND

COLUMNS_EACH_WAY = 8
CLEARANCE_MM = 0.004


def band_solid(barrel: Crown, side: Side, bottom_mm: float, top_mm: float, thickness_mm: float) -> Tagged:
    """Return a band over one side from a height to another; above the rim it stands straight."""
    middle = 0 if side == "mesial" else AROUND // 2
    columns = (middle + np.arange(-COLUMNS_EACH_WAY, COLUMNS_EACH_WAY + 1)) % AROUND
    rings = barrel.axial[:, 0, 2]
    between = rings[(rings > bottom_mm + 0.05) & (rings < top_mm - 0.05)]
    heights = np.concatenate([[bottom_mm], between, [top_mm]])
    sheets = [_sheet(barrel, columns, heights, off) for off in (CLEARANCE_MM, CLEARANCE_MM + thickness_mm)]
    rows, cols = len(heights), len(columns)
    index = np.arange(rows * cols).reshape(rows, cols)
    a, b, c, d = index[:-1, :-1], index[:-1, 1:], index[1:, 1:], index[1:, :-1]
    front = np.concatenate([_pairs(a, b, c), _pairs(a, c, d)])
    rim = np.concatenate([index[0, :], index[1:, -1], index[-1, -2::-1], index[-2:0:-1, 0]])
    after = np.roll(rim, -1)
    shift = rows * cols
    edges = np.concatenate([_pairs(rim, rim + shift, after), _pairs(after, rim + shift, after + shift)])
    triangles = np.concatenate([front[:, ::-1], front + shift, edges[:, ::-1]])
    return tagged_solid(np.concatenate(sheets), triangles)


def _sheet(barrel: Crown, columns: np.ndarray, heights: np.ndarray, off_mm: float) -> np.ndarray:
    rows = []
    for z in heights:
        ring = barrel.outline(float(z))
        ahead, behind = np.roll(ring, -1, axis=0), np.roll(ring, 1, axis=0)
        tangent = ahead - behind
        outward = np.column_stack([tangent[:, 1], -tangent[:, 0]])
        outward /= np.linalg.norm(outward, axis=1, keepdims=True)
        moved = ring + off_mm * outward
        rows.append(np.column_stack([moved[columns], np.full(len(columns), z)]))
    return np.concatenate(rows)


def _pairs(*corners: np.ndarray) -> np.ndarray:
    return np.column_stack([c.ravel() for c in corners])
