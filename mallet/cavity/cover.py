"""Cusps taken down along their slopes: what is cut off a crown so that the restoration can cover them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from manifold3d import Manifold, OpType
from numpy.typing import NDArray

from mallet.cavity.solids import Tagged, crown_solid, frustum
from mallet.terms.parts import Cusp, CuspReduction
from mallet.tooth import Crown

Floats = NDArray[np.float64]
BEYOND_MM = 20.0
# How far the shelf that a reduction ends on reaches out of the tooth, over the rim's half-widths.
OUTWARD = 1.8
# From this share of the way to the tips on, as much is off as at them.
SHORT_OF_TIP = 0.6


@dataclass(frozen=True)
class Reduction:
    """One part that takes cusps down, as a cutter that reaches out of the tooth; `index` is its place in the
    case, `table` (N, 2) are places of the occlusal table over it, and `grooves` those along each groove that crosses it."""

    index: int
    kind: str
    cusps: tuple[Cusp, ...]
    cut: Tagged
    nominal_volume_mm3: float
    table: Floats
    grooves: Mapping[str, Floats]


def reduced(
    index: int, part: CuspReduction, crown: Crown, outer: Manifold, past_groove_mm: float
) -> Reduction:
    """Return the cutter of a reduction: even under the tips and in the groove, evenly changing between, and
    past every groove that it ends at, since no margin belongs in one."""
    cusps = tuple(part.cusps)
    cut, table, grooves = _cutter(crown, cusps, part.tip_mm, part.in_groove_mm, past_groove_mm)
    nominal = (outer ^ cut.solid).volume()
    return Reduction(index, part.kind, cusps, cut, nominal, table, grooves)


@lru_cache(maxsize=32)
def _cutter(
    crown: Crown, cusps: tuple[Cusp, ...], tip_mm: float, groove_mm: float, past_groove_mm: float
) -> tuple[Tagged, Floats, dict[str, Floats]]:
    """Return the cutter of a reduction, and the places of the table and of each groove over it; while something else is
    dragged it stays."""
    fields = [_field(crown, cusp, cusps, past_groove_mm) for cusp in cusps]
    blocks = [frustum(field, -BEYOND_MM, BEYOND_MM, (0, 0, 0, 0)).solid for field in fields]
    left = _lowered(crown, tip_mm, groove_mm)
    cutter = (Manifold.batch_boolean(blocks, OpType.Add) - left).as_original()
    table = _over(crown.cap.reshape(-1, 3)[:, :2], fields)
    tips = np.array([crown.cusps[cusp][:2] for cusp in cusps])
    grooves = {name: _over(line, fields) for name, line in crown.grooves.items()}
    crossed = {name: line for name, line in grooves.items() if len(line)}
    return Tagged(cutter, cutter.original_id()), np.concatenate([table, tips]), crossed


def _over(places: Floats, fields: Sequence[tuple[float, float, float, float]]) -> Floats:
    return places[np.any([_within(places, field) for field in fields], axis=0)]


def _field(
    crown: Crown, cusp: Cusp, taken: Sequence[Cusp], past_mm: float
) -> tuple[float, float, float, float]:
    """Return the ground of one cusp (x0, x1, y0, y1): to the central groove and to the grooves beside it, and
    past those behind which a cusp stays."""
    x, y, _ = crown.cusps[cusp]
    row = sorted(((tip[0], name) for name, tip in crown.cusps.items() if tip[1] * y > 0), reverse=True)
    at = [name for _, name in row].index(cusp)
    x0, x1 = -BEYOND_MM, BEYOND_MM
    if at > 0:
        x1 = _between(crown, x, row[at - 1][0], y) + past_mm
    if at < len(row) - 1:
        x0 = _between(crown, x, row[at + 1][0], y) - past_mm
    return (x0, x1, -past_mm, BEYOND_MM) if y > 0 else (x0, x1, -BEYOND_MM, past_mm)


def _between(crown: Crown, one_mm: float, other_mm: float, y: float) -> float:
    """Return the x of the groove that parts two cusps of a face."""
    low, high = sorted((one_mm, other_mm))
    starts = ((line[0, 0], line[-1, 1]) for name, line in crown.grooves.items() if name != "central")
    return float(next(x for x, end in starts if low < x < high and end * y > 0))


def _within(places: Floats, field: tuple[float, float, float, float]) -> NDArray[np.bool_]:
    x0, x1, y0, y1 = field
    x, y = places.T
    return np.asarray((x > x0) & (x < x1) & (y > y0) & (y < y1))


@lru_cache(maxsize=32)
def _lowered(crown: Crown, tip_mm: float, groove_mm: float) -> Manifold:
    """Return what stays under a reduction everywhere: the occlusal surface, lowered, and from its rim on a
    shelf that reaches out of the tooth."""
    ys = [y for _, y, _ in crown.cusps.values()]
    half = SHORT_OF_TIP * min(y for y in ys if y > 0), SHORT_OF_TIP * min(-y for y in ys if y < 0)

    def by_mm(xy: Floats) -> Floats:
        y = xy[..., 1]
        share = np.clip(np.abs(y) / np.where(y > 0, *half), 0, 1)
        return np.asarray(groove_mm + (tip_mm - groove_mm) * share)

    rim = crown.axial[-1]
    shelf = rim - np.stack([0 * rim[:, 0], 0 * rim[:, 0], by_mm(rim)], axis=-1)
    outward = shelf * [OUTWARD, OUTWARD, 1.0]
    bottom = outward * [1.0, 1.0, 0.0] - [0.0, 0.0, BEYOND_MM / 2]
    cap = crown.cap.copy()
    cap[..., 2] -= by_mm(cap)
    centre = crown.centre - [0.0, 0.0, float(by_mm(crown.centre))]
    return crown_solid(replace(crown, axial=np.array([bottom, outward, shelf]), cap=cap, centre=centre)).solid
