"""What arrives at targets from a curing light's disc: compiled loops.

Where many ways are looked along, what lies between a target and the disc is sorted first; few ways walk the trees.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from mallet.light.disc import Disc, View, chord_at, ray_to, view_of, way_on
from mallet.light.sight import Sight, is_hidden, room_for, sight_of, weighed_height
from mallet.tracer import Notes, blank_notes, is_blocked, weighed_length
from mallet.trees import Trees, compiled, lesser

Floats = NDArray[np.float64]
# Up to so many ways to the disc it is quicker to walk each by itself.
FEW_WAYS = 64


class Optics(NamedTuple):
    """How light goes on from where it meets a surface: the refractive index behind it, the share of what walls keep
    from a point that they send back there, and up to how many times its light that makes of it."""

    bending: float
    returned: float
    most: float


class Cells(NamedTuple):
    """Rings by Gauss nodes and shares, cells around, parts (a side) of a cell at an edge, and what
    counts as one: the step in light from cell to cell, as a share of the brightest. Where few ways are looked
    along, a target is left off once it has enough, or `within` times what the dimmest before it has with a
    glimmer on top."""

    node: Floats
    share: Floats
    around: int
    parts: int
    contrast: float
    enough: float
    within: float
    glimmer: float


@compiled
def field(
    targets: Floats, disc: Disc, blockers: Trees, media: Trees, weights: Floats, cells: Cells, optics: Optics
) -> Floats:
    """Return planar irradiance (N,) at targets (N, 3): the disc's free cells, weakened on their refracted way
    through closed solids, one a root of the media, each by its weight, and what walls return. Of a target that was
    left off, it is what had arrived till then."""
    rings, around = len(cells.node), cells.around
    begin = np.cumsum(cells.share) - cells.share
    is_walked = cells.parts == 1 and rings * around <= FEW_WAYS
    squares = int(math.sqrt(rings * around))
    notes, no_weights = blank_notes(), np.empty(0)
    for_blockers, for_media = room_for(blockers), room_for(media)
    out, exponent, least = np.zeros(len(targets)), disc.exponent, np.inf
    free, light = np.empty((around, rings)), np.empty((around, rings))
    for i in range(len(targets)):
        target = targets[i]
        view = view_of(target, disc)
        if not view.is_before:
            continue
        if is_walked:
            enough = min(cells.enough, cells.within * (least + cells.glimmer)) / disc.peak
            out[i] = disc.peak * _walked(
                target, view, disc, blockers, media, weights, cells, optics, enough, notes
            )
            least = min(least, out[i])
            continue
        hiding = sight_of(blockers, no_weights, target, disc.axes, view, squares, for_blockers)
        weakening = sight_of(media, weights, target, disc.axes, view, squares, for_media)
        brightest = _seen(free, light, hiding, weakening, view, exponent, cells, optics.bending)
        total, past_walls, in_the_open = _summed(
            free, light, brightest, begin, hiding, weakening, view, exponent, cells, optics.bending
        )
        out[i] = disc.peak * total * with_return(in_the_open, past_walls, optics)
    return out


@compiled
def _seen(
    free: Floats,
    light: Floats,
    hiding: Sight,
    weakening: Sight,
    view: View,
    exponent: float,
    cells: Cells,
    bending: float,
) -> float:
    """Find which of the disc's cells a target sees (`free`), and what light comes from their middles; return the most. Light
    of a cell at an edge is left for later, but where steps in light count as edges: those are found by it."""
    rings, around, brightest = len(cells.node), cells.around, 0.0
    is_split = cells.parts > 1 and cells.contrast == np.inf
    for column in range(around):
        chord = chord_at(view, (column + 0.5) / around)
        for row in range(rings):
            x, y, cosine = way_on(chord, cells.node[row])
            free[column, row] = 0.0 if is_hidden(hiding, view.height, x, y) else 1.0
    for column in range(around):
        chord = chord_at(view, (column + 0.5) / around)
        for row in range(rings):
            light[column, row] = 0.0
            is_late = is_split and _is_edge(free, column, row, np.inf, 1.0)
            if free[column, row] > 0 and not is_late:
                x, y, cosine = way_on(chord, cells.node[row])
                through = weighed_height(weakening, view.height, x, y) / refracted(cosine, bending)
                light[column, row] = cosine ** (exponent - 1) * math.exp(-through)
                brightest = max(brightest, light[column, row])
    return brightest


@compiled
def _summed(
    free: Floats,
    light: Floats,
    brightest: float,
    begin: Floats,
    hiding: Sight,
    weakening: Sight,
    view: View,
    exponent: float,
    cells: Cells,
    bending: float,
) -> tuple[float, float, float]:
    """Return the light of all cells, those at an edge in parts: through what weakens it, past what blocks it alone, and with
    nothing in the way."""
    rings, around, parts = len(cells.node), cells.around, cells.parts
    known = light if cells.contrast < np.inf else free
    total, past_walls, in_the_open = 0.0, 0.0, 0.0
    for column in range(around):
        whole = chord_at(view, (column + 0.5) / around)
        for row in range(rings):
            x, y, cosine = way_on(whole, cells.node[row])
            sent = cosine ** (exponent - 1) * whole.spread * cells.share[row] / around
            in_the_open += sent
            if parts == 1 or not _is_edge(known, column, row, cells.contrast, brightest):
                total += light[column, row] * whole.spread * cells.share[row] / around
                past_walls += free[column, row] * sent
        for part in range(parts if parts > 1 else 0):
            chord = chord_at(view, (column + (part + 0.5) / parts) / around)
            for row in range(rings):
                if not _is_edge(known, column, row, cells.contrast, brightest):
                    continue
                share = cells.share[row] / (around * parts**2) * chord.spread
                for piece in range(parts):
                    x, y, cosine = way_on(chord, begin[row] + (piece + 0.5) / parts * cells.share[row])
                    if not is_hidden(hiding, view.height, x, y):
                        through = weighed_height(weakening, view.height, x, y)
                        sent = share * cosine ** (exponent - 1)
                        total += sent * math.exp(-through / refracted(cosine, bending))
                        past_walls += sent
    return total, past_walls, in_the_open


@compiled
def refracted(cosine: float, index: float) -> float:
    """Return the cosine to the axis of a way behind an open surface square to it."""
    return math.sqrt(1 - (1 - cosine * cosine) / (index * index))


@compiled
def with_return(in_the_open: float, past_walls: float, optics: Optics) -> float:
    """Return how many times as bright a point is for what walls return of the light that they keep from it."""
    if past_walls <= 0 or in_the_open <= past_walls:
        return 1.0
    return lesser(1 + optics.returned * (in_the_open - past_walls) / past_walls, optics.most)


@compiled
def _walked(
    target: Floats,
    view: View,
    disc: Disc,
    blockers: Trees,
    media: Trees,
    weights: Floats,
    cells: Cells,
    optics: Optics,
    enough: float,
    notes: Notes,
) -> float:
    """Return the light of the disc's free cells at a target, each way walked by itself, and what walls return; no
    more than is enough."""
    total, past_walls, in_the_open = 0.0, 0.0, 0.0
    for column in range(cells.around):
        chord = chord_at(view, (column + 0.5) / cells.around)
        for row in range(len(cells.node)):
            x, y, cosine = way_on(chord, cells.node[row])
            ray = ray_to(target, disc.axes, x, y, cosine)
            sent = cosine ** (disc.exponent - 1) * chord.spread * cells.share[row] / cells.around
            in_the_open += sent
            if not is_blocked(blockers, ray, view.height / cosine, notes):
                through = weighed_length(media, weights, ray, view.height / cosine, notes)
                total += sent * math.exp(-through * cosine / refracted(cosine, optics.bending))
                past_walls += sent
                if total > enough:
                    return float(total)
    return float(total * with_return(in_the_open, past_walls, optics))


@compiled
def _is_edge(sent: Floats, column: int, row: int, contrast: float, brightest: float) -> bool:
    """Tell whether a cell lies at the edge of a shadow, or of something that weakens light strongly:
    whether it is hidden and one of the four beside it is not, or much brighter or darker than it."""
    around, rings = sent.shape
    own = sent[column, row]
    for turn in (-1, 1):
        beside = sent[(column + turn) % around, row]
        if (beside == 0) != (own == 0) or abs(beside - own) > contrast * brightest:
            return True
        if 0 <= row + turn < rings:
            beside = sent[column, row + turn]
            if (beside == 0) != (own == 0) or abs(beside - own) > contrast * brightest:
                return True
    return False
