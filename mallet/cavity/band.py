"""A matrix band as a thin solid that hugs the outer surface over a box, and the wedge that closes it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from mallet.cavity.neighbours import Beside
from mallet.cavity.solids import Tagged, tagged_solid
from mallet.terms.parts import Side
from mallet.terms.stock import MatrixBand, WedgeItem
from mallet.tooth import Crown
from mallet.tooth.crown import AROUND

COLUMNS_EACH_WAY = 8
HALF_ROUND = AROUND // 4
CLEARANCE_MM = 0.004
BandKind = Literal["sectional", "clear", "circumferential", "copper"]


@dataclass(frozen=True)
class Wedge:
    """A wedge at the gingival margin, from stock or by the steps that wedges come in; widths and
    heights in mm."""

    width_mm: float
    height_mm: float
    gap_mm: float
    separation_mm: float
    base_mm: float
    next_mm: float
    item: WedgeItem | None


@dataclass(frozen=True)
class Band:
    """A band over one box, as it stands: from bottom to top in the tooth's frame."""

    side: Side
    kind: BandKind
    bottom_mm: float
    top_mm: float
    height_mm: float
    thickness_mm: float
    solid: Tagged
    wedge: Wedge | None
    beside: Beside | None
    item: MatrixBand | None

    @property
    def is_metal(self) -> bool:
        return self.kind != "clear"

    @property
    def is_tied(self) -> bool:
        """Tell whether a ligature closes it: the embrasure is too narrow for a wedge."""
        return self.wedge is None and self.beside is not None

    @property
    def has_ring(self) -> bool:
        return self.kind == "sectional" and self.wedge is not None

    @property
    def name(self) -> str:
        """Return what the steps call it: what goes all round is one for both sides."""
        return {"copper": "copper", "circumferential": "round"}.get(self.kind, self.side)

    @property
    def placed_by(self) -> str:
        """Return the id of the step that places it."""
        return f"matrix.{self.name}.band"


def band_solid(
    barrel: Crown,
    side: Side,
    bottom_mm: float,
    top_mm: float,
    thickness_mm: float,
    each_way: int = COLUMNS_EACH_WAY,
) -> Tagged:
    """Return a band over one side from a height to another, so many of the crown's columns each way round; above the
    rim it stands straight."""
    middle = 0 if side == "mesial" else AROUND // 2
    columns = (middle + np.arange(-each_way, each_way + 1)) % AROUND
    rings = barrel.axial[:, 0, 2]
    between = rings[(rings > bottom_mm + 0.05) & (rings < top_mm - 0.05)]
    heights = np.concatenate([[bottom_mm], between, [top_mm]])
    surface, outward = _surface(barrel, columns, heights)
    sheets = [surface + off * outward for off in (CLEARANCE_MM, CLEARANCE_MM + thickness_mm)]
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


def _surface(barrel: Crown, columns: np.ndarray, heights: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return points (N, 3) of the barrel, row by row, and the level way outward at each (N, 3)."""
    rings = np.array([barrel.outline(float(z)) for z in heights])
    along = np.roll(rings, -1, axis=1) - np.roll(rings, 1, axis=1)
    outward = np.stack([along[..., 1], -along[..., 0], np.zeros(along.shape[:2])], axis=-1)
    outward /= np.linalg.norm(outward, axis=-1, keepdims=True)
    points = np.concatenate([rings, np.broadcast_to(heights[:, None, None], (*rings.shape[:2], 1))], axis=-1)
    return points[:, columns].reshape(-1, 3), outward[:, columns].reshape(-1, 3)


def _pairs(*corners: np.ndarray) -> np.ndarray:
    return np.column_stack([c.ravel() for c in corners])
