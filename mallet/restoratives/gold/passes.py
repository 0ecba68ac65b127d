"""How each zone of direct gold is stepped: nib, force, the path over its ground, passes over each pellet, and the time."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from manifold3d import CrossSection
from numpy.typing import NDArray

from mallet.condensing.nibs import force_n
from mallet.condensing.stepping import stepping_path
from mallet.condensing.zones import inscribed_mm
from mallet.restoratives.gold.stock import Kit, Piece, asked_of
from mallet.restoratives.gold.zones import Zone
from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.reasons import refuse

Floats = NDArray[np.float64]
HAIR = 1e-9
# What lies open beside its ground lets a nib reach over it.
OPEN = ("walls", "axial", "contour")


@dataclass(frozen=True)
class Stepping:
    """How a zone is stepped: nib (mm), force (N), the steps of one pass over its ground (N, 3) in the frame of the access, the
    pellets that go into it, passes over each and steps a pass, and seconds for each."""

    nib_mm: float
    force_n: float
    path: Floats
    pellets: Sequence[Piece]
    passes: int
    steps_a_pass: int
    piece_s: float

    @property
    def strokes(self) -> int:
        """Return the steps of the mallet in all."""
        return len(self.pellets) * self.passes * self.steps_a_pass

    @property
    def seconds(self) -> float:
        return len(self.pellets) * self.piece_s


def smallest_nib(kit: Kit, outline: CrossSection, rules: Rulebook) -> float:
    """Return the smallest nib; raise NotFeasible where not even that gets into an outline."""
    nib, width = min(kit.nibs_mm), inscribed_mm(outline)
    play = rules.value("gold.nib_play_mm")
    if nib + play > width + HAIR:
        raise refuse("gold.nib_wide", None, nib_mm=nib, width_mm=width, most_mm=max(width - play, 0.0))
    return nib


def stepped(
    zone: Zone, pellets: Sequence[Piece], kit: Kit, case: Case, up: float, rules: Rulebook
) -> Stepping:
    """Return how a zone is stepped with the nibs that there are: with the largest below its width, along walls with the
    smallest."""
    width = inscribed_mm(zone.within if zone.id in OPEN else zone.ground)
    fitting = [nib for nib in kit.nibs_mm if nib + rules.value("gold.nib_play_mm") <= width + HAIR]
    nib = min(kit.nibs_mm) if zone.id in ("walls", "axial") else max(fitting, default=min(kit.nibs_mm))
    clearance = rules.value("gold.clearance_share") * nib
    steps = stepping_path(zone.ground, zone.within, nib, clearance, up)
    spread = max((piece.spread_mm2 for piece in pellets), default=0.0)
    steps_a_pass = max(math.ceil(len(steps) * min(spread / zone.area_mm2, 1.0) - HAIR), 1)
    passes = round(rules.value("gold.passes"))
    return Stepping(
        nib_mm=nib,
        force_n=force_n(rules.value("gold.pressure_mpa"), nib),
        path=np.column_stack([steps, zone.heights(steps)]) if len(steps) else np.zeros((0, 3)),
        pellets=pellets,
        passes=passes,
        steps_a_pass=steps_a_pass,
        piece_s=piece_seconds(case, passes * steps_a_pass, rules),
    )


def piece_seconds(case: Case, strokes: int, rules: Rulebook) -> float:
    """Return how long one pellet takes (s): carried, stepped, and heated first where nobody else does that meanwhile."""
    asked = asked_of(case)
    # Whoever taps by hand cannot heat, and alone the dentist does both.
    waits = asked.heat == "flame" and (asked.mallet == "hand" or case.pairs_of_hands == "one")
    heat = rules.value("gold.heat_flame_s") if waits else 0.0
    return heat + rules.value("gold.carry_s") + strokes * rules.value("gold.step_s")
