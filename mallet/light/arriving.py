"""What arrives at targets from a lamp's disc, and what faces send each other: compiled loops.

Where many ways are looked along, what lies between a target and the disc is sorted first; few ways walk the trees.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from mallet.light.disc import Disc, View, chord_at, ray_to, view_of, way_on
from mallet.light.sight import is_hidden, room_for, sight_of, weighed_height
from mallet.tracer import TINY, Notes, Trees, blank_notes, compiled, is_blocked, ray_from, weighed_length

Floats = NDArray[np.float64]
# Up to so many ways to the disc it is quicker to walk each by itself.
FEW_WAYS = 64


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
    targets: Floats, disc: Disc, blockers: Trees, media: Trees, weights: Floats, cells: Cells
) -> Floats:
    """Return planar irradiance (N,) at targets (N, 3): the disc's free cells, weakened on their way
    through closed solids, one a root of the media, each by its weight. Of a target that was left off, it is what
    had arrived till then."""
    rings, around, parts = len(cells.node), cells.around, cells.parts
    begin = np.cumsum(cells.share) - cells.share
    # Where steps in light count as edges, all light has to be known before they are found.
    by_light = cells.contrast < np.inf
    is_walked = parts == 1 and rings * around <= FEW_WAYS
    squares = int(math.sqrt(rings * around))
    notes, no_weights = blank_notes(), np.zeros(len(blockers.roots))
    for_blockers, for_media = room_for(blockers), room_for(media)
    out, exponent, least = np.zeros(len(targets)), disc.exponent, np.inf
    free, light = np.empty((around, rings)), np.empty((around, rings))
    for i in range(len(targets)):
        target = targets[i]
        view, brightest = view_of(target, disc), 0.0
        if not view.is_before:
            continue
        if is_walked:
            enough = min(cells.enough, cells.within * (least + cells.glimmer)) / disc.peak
            out[i] = disc.peak * _walked(target, view, disc, blockers, media, weights, cells, enough, notes)
            least = min(least, out[i])
            continue
        hiding = sight_of(blockers, no_weights, target, disc.axes, view, squares, for_blockers, True)
        weakening = sight_of(media, weights, target, disc.axes, view, squares, for_media, False)
        height = view.height
        for column in range(around):
            chord = chord_at(view, (column + 0.5) / around)
            for row in range(rings):
                x, y, cosine = way_on(chord, cells.node[row])
                free[column, row] = 0.0 if is_hidden(hiding, height, x, y) else 1.0
        for column in range(around):
            chord = chord_at(view, (column + 0.5) / around)
            for row in range(rings):
                light[column, row] = 0.0
                is_late = parts > 1 and not by_light and _is_edge(free, column, row, np.inf, 1.0)
                if free[column, row] > 0 and not is_late:
                    x, y, cosine = way_on(chord, cells.node[row])
                    through = weighed_height(weakening, height, x, y) / cosine
                    light[column, row] = cosine ** (exponent - 1) * math.exp(-through)
                    brightest = max(brightest, light[column, row])
        known = light if by_light else free
        total = 0.0
        for column in range(around):
            whole = chord_at(view, (column + 0.5) / around)
            for row in range(rings):
                if parts == 1 or not _is_edge(known, column, row, cells.contrast, brightest):
                    total += light[column, row] * whole.spread * cells.share[row] / around
            for part in range(parts if parts > 1 else 0):
                chord = chord_at(view, (column + (part + 0.5) / parts) / around)
                for row in range(rings):
                    if not _is_edge(known, column, row, cells.contrast, brightest):
                        continue
                    share = cells.share[row] / (around * parts**2) * chord.spread
                    for piece in range(parts):
                        x, y, cosine = way_on(chord, begin[row] + (piece + 0.5) / parts * cells.share[row])
                        if not is_hidden(hiding, height, x, y):
                            through = weighed_height(weakening, height, x, y) / cosine
                            total += share * cosine ** (exponent - 1) * math.exp(-through)
        out[i] = disc.peak * total
    return out


@compiled
def _walked(
    target: Floats,
    view: View,
    disc: Disc,
    blockers: Trees,
    media: Trees,
    weights: Floats,
    cells: Cells,
    enough: float,
    notes: Notes,
) -> float:
    """Return the light of the disc's free cells at a target, each way walked by itself; no more than is
    enough."""
    total = 0.0
    for column in range(cells.around):
        chord = chord_at(view, (column + 0.5) / cells.around)
        for row in range(len(cells.node)):
            x, y, cosine = way_on(chord, cells.node[row])
            ray = ray_to(target, disc.axes, x, y, cosine)
            if not is_blocked(blockers, ray, view.height / cosine, notes):
                through = weighed_length(media, weights, ray, view.height / cosine, notes)
                light = cosine ** (disc.exponent - 1) * math.exp(-through)
                total += light * chord.spread * cells.share[row] / cells.around
                if total > enough:
                    return float(total)
    return float(total)


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


@compiled
def onto_faces(points: Floats, normals: Floats, disc: Disc, blockers: Trees, cells: Cells) -> Floats:
    """Return irradiance (N,) on small faces in the open at points (N, 3), each by its own unit normal."""
    no_weights, room = np.zeros(len(blockers.roots)), room_for(blockers)
    out, around = np.zeros(len(points)), cells.around
    squares = int(math.sqrt(len(cells.node) * around))
    for i in range(len(points)):
        target, normal = points[i], disc.axes @ normals[i]
        view = view_of(target, disc)
        if not view.is_before:
            continue
        hiding = sight_of(blockers, no_weights, target, disc.axes, view, squares, room, True)
        for column in range(around):
            chord = chord_at(view, (column + 0.5) / around)
            for row in range(len(cells.node)):
                x, y, cosine = way_on(chord, cells.node[row])
                # Over the cosine to the axis: the spread is that of a face parallel to the disc.
                facing = normal[0] * x + normal[1] * y + normal[2]
                if facing > 0 and not is_hidden(hiding, view.height, x, y):
                    sent = cosine ** (disc.exponent - 1) * facing
                    out[i] += disc.peak * sent * chord.spread * cells.share[row] / around
    return out


@compiled
def exchange(
    targets: Floats,
    facing: Floats,
    points: Floats,
    normals: Floats,
    areas: Floats,
    blockers: Trees,
    media: Trees,
    weights: Floats,
) -> Floats:
    """Return what share of the radiosity of each of M faces arrives at N targets (N, M), both with unit
    normals: blocked, and weakened in closed solids. A face is taken as a disc of its area."""
    out, room = np.zeros((len(targets), len(points))), blank_notes()
    way = np.empty(3)
    for i in range(len(targets)):
        for j in range(len(points)):
            square = 0.0
            for k in range(3):
                way[k] = points[j, k] - targets[i, k]
                square += way[k] * way[k]
            if square <= TINY:
                continue
            length = math.sqrt(square)
            arriving, leaving = 0.0, 0.0
            for k in range(3):
                way[k] /= length
                arriving += facing[i, k] * way[k]
                leaving -= normals[j, k] * way[k]
            if arriving <= 0 or leaving <= 0:
                continue
            ray = ray_from(targets[i, 0], targets[i, 1], targets[i, 2], way[0], way[1], way[2])
            if is_blocked(blockers, ray, length, room):
                continue
            through = weighed_length(media, weights, ray, length, room)
            seen = areas[j] * arriving * leaving / (math.pi * square + areas[j])
            out[i, j] = seen * math.exp(-through)
    return out
