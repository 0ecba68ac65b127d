"""What is still to be filled, and the cuts that part it into increments.

Every cut splits a solid once, along a plane or shell that lies on none of its faces, since cutting along a face would
leave films without thickness. Cut surfaces bear tags of their own.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from manifold3d import Manifold

from mallet.cavity.measures import longest_vertical_mm, vertical_spans_mm
from mallet.cavity.solids import below, half_space
from mallet.curing.cured import Portion, PortionPart
from mallet.rulebook import Rulebook
from mallet.terms.parts import Side
from mallet.terms.pieces import Reason
from mallet.terms.restoration import LayeringTechnique, ShadeRole

CRUMB_MM3 = 0.08
ALONE_MM3 = 0.5
APART_MM = 1.0
SLACK_MM = 1e-3
TOUCH_MM = 0.01


@dataclass(frozen=True)
class Layering:
    """The increments in order, the technique that was followed and why."""

    school: LayeringTechnique
    portions: list[Portion]
    reasons: list[Reason]


# How thick an increment of each role may be, in mm.
Limits = Mapping[ShadeRole, float]


# As thick as was asked for: neither joined to what is near, nor that to it.
AS_ASKED: tuple[PortionPart, ...] = ("floor", "facial_enamel", "lingual_wall")


class Block:
    """What is still to be filled, and the increments that were taken off it; `core` is the shade below the surface."""

    def __init__(
        self, filling: Manifold, limits: Limits, rules: Rulebook, core: ShadeRole = "dentin"
    ) -> None:
        self.rest = filling
        self.limits = limits
        self.core: ShadeRole = core
        self.least_mm = rules.value("composite.least_portion_mm")
        self.least_mm3 = rules.value("composite.least_portion_mm3")
        self.portions: list[Portion] = []

    def split_off(self, cutter: Manifold) -> Manifold:
        """Take what lies within a cutter off the rest and return it."""
        piece, self.rest = self.rest.split(cutter)
        return piece

    def add(self, id: str, name: str, piece: Manifold, role: ShadeRole,
            side: Side | None, sculpt: str = "", part: PortionPart | None = None) -> None:  # fmt: skip
        if not piece.is_empty():
            self.portions.append(Portion(id, name, piece, role, side, sculpt, part))

    def done(self) -> list[Portion]:
        """Return the increments: parts that lie apart on their own, crumbs joined to what is near unless
        that grew too thick."""
        apart = [part for portion in self.portions for part in _apart(portion)]
        kept: list[Portion] = []
        loose: Manifold | None = None
        for portion in apart:
            solid = portion.solid if loose is None else portion.solid + loose
            loose = None
            if solid.volume() >= CRUMB_MM3:
                kept.append(replace(portion, solid=solid))
            elif not kept:
                loose = solid
            elif self._fits(joined := kept[-1].solid + solid, kept[-1]):
                kept[-1] = replace(kept[-1], solid=joined)
            else:
                kept.append(replace(portion, solid=solid))
        return self._merged(kept)

    def _merged(self, portions: list[Portion]) -> list[Portion]:
        """Return the increments, those too small to be worth planning placed with what lies above them or, where that
        would be too thick, with what lies below."""
        kept = list(portions)
        for portion in portions:
            if len(kept) < 2 or portion.part in AS_ASKED or not self._is_small(portion):
                continue
            at = next(i for i, one in enumerate(kept) if one.id == portion.id)
            for beside in (at + 1, at - 1):
                if not 0 <= beside < len(kept) or kept[beside].part in AS_ASKED:
                    continue
                if not _touch(kept[at].solid, kept[beside].solid):
                    continue
                joined = kept[beside].solid + kept[at].solid
                if self._fits(joined, kept[beside]):
                    kept[beside] = replace(kept[beside], solid=joined)
                    del kept[at]
                    break
        return kept

    def _fits(self, solid: Manifold, portion: Portion) -> bool:
        return bool(longest_vertical_mm(solid) <= self.limits[portion.role] + SLACK_MM)

    def _is_small(self, portion: Portion) -> bool:
        is_thin = longest_vertical_mm(portion.solid) < self.least_mm - SLACK_MM
        return bool(is_thin or portion.solid.volume() < self.least_mm3)


def _touch(one: Manifold, other: Manifold) -> bool:
    return bool(one.min_gap(other, TOUCH_MM) < TOUCH_MM)


def _apart(portion: Portion) -> list[Portion]:
    """Return the parts of an increment that lie at different ends of the tooth, from mesial to distal."""
    groups: list[list[Manifold]] = []
    for part in sorted(portion.solid.decompose(), key=lambda part: -part.bounding_box()[3]):
        reach = min((other.bounding_box()[0] for other in groups[-1]), default=0.0) if groups else 0.0
        if groups and part.bounding_box()[3] > reach - APART_MM:
            groups[-1].append(part)
        else:
            groups.append([part])
    solids = [Manifold.compose(group) for group in groups]
    if len(solids) < 2 or min(solid.volume() for solid in solids) < ALONE_MM3:
        return [portion]
    return [
        replace(portion, id=f"{portion.id}.part.{i}", name=f"{portion.name}, part {i}", solid=solid)
        for i, solid in enumerate(solids, 1)
    ]


def under_slope(slab: Manifold, rises: bool) -> Manifold:
    """Return what lies under a slope through a layer, which rises with y or falls."""
    _, y0, low, _, y1, high = slab.bounding_box()
    clear = 0.1 * (high - low)
    rise = (high - low - 2 * clear) * (1 if rises else -1)
    return half_space(
        np.array([0.0, y0 if rises else y1, low + clear]), np.array([0.0, -rise, y1 - y0])
    ).solid


def lifts_of(solid: Manifold, limit_mm: float) -> list[Manifold]:
    """Return a solid in equal flat lifts from bottom to top, the fewest in which no straight
    vertical way is longer than the limit."""
    if solid.is_empty():
        return []
    low, high = solid.bounding_box()[2], solid.bounding_box()[5]
    most = max(1, math.ceil(round((high - low) / limit_mm, 6)))
    if most == 1:
        return [solid]
    begins, ends = vertical_spans_mm(solid)
    least = max(1, math.ceil(round(float((ends - begins).max(initial=0.0)) / limit_mm, 3)))
    for count in range(least, most):
        levels = np.linspace(low, high, count + 1)[:, None]
        ways = np.minimum(ends, levels[1:]) - np.maximum(begins, levels[:-1])
        # As above: the columns of the whole tell of most counts that they are too few.
        if ways.max(initial=0.0) > limit_mm + SLACK_MM:
            continue
        lifts = cut_evenly(solid, low, high, count)
        if all(longest_vertical_mm(lift) <= limit_mm + SLACK_MM for lift in lifts):
            return lifts
    return cut_evenly(solid, low, high, most)


def cut_evenly(solid: Manifold, low: float, high: float, count: int) -> list[Manifold]:
    """Return a solid in flat lifts of one height, from bottom to top."""
    lifts = []
    for i in range(1, count):
        lift, solid = solid.split(below(low + (high - low) * i / count).solid)
        lifts.append(lift)
    return [*lifts, solid]
