"""What a composite looks like by itself: what is told of it before anybody plans with it."""

from __future__ import annotations

import math

import numpy as np

from mallet.color.composites import (
    Seen,
    deep_lab,
    hides_from_mm,
    known_of,
    lab_read,
    surface_of,
    translucency,
)
from mallet.color.flux import Surface
from mallet.color.stack import read_over
from mallet.rulebook import Rulebook
from mallet.terms.color_plan import CompositeColor
from mallet.terms.optics import Optics

TOLD_AT_MM = 1.0


def shown_of(optics: Optics, rules: Rulebook) -> CompositeColor:
    """Return what a composite looks like; raise InputError, by row, for readings that can be of no layer."""
    surface = surface_of(rules)
    seen = known_of(optics, surface)
    accepted, unseen = (
        hides_from_mm(seen, rules.value(f"color.{name}_de00"), rules, surface)
        for name in ("acceptable", "perceptible")
    )
    return CompositeColor(
        known_by=seen.known_by,
        deep=_told(deep_lab(seen, surface)),
        over_black=_over(0.0, seen, surface),
        over_white=_over(1.0, seen, surface),
        translucency=round(translucency(seen, surface, TOLD_AT_MM), 1),
        accepted_from_mm=round(accepted, 2) if math.isfinite(accepted) else None,
        unseen_from_mm=round(unseen, 2) if math.isfinite(unseen) else None,
        unsure_de00=rules.value(seen.unsure_by),
        rules=rules.uses(
            "color.acceptable_de00", "color.perceptible_de00", "color.mouth_reflectance", "color.surface_k1",
            "color.surface_k2", seen.unsure_by,
        ),
    )  # fmt: skip


def _over(backing: float, seen: Seen, surface: Surface) -> list[float]:
    behind = np.full_like(seen.k, backing)
    return _told(lab_read(read_over([seen.layer(TOLD_AT_MM)], behind, surface)))


def _told(lab: np.ndarray) -> list[float]:
    return [round(float(value), 1) for value in lab]
