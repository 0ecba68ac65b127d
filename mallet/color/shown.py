"""What a composite looks like by itself: what is told of it before anybody plans with it."""

from __future__ import annotations

import math

import numpy as np

from mallet.color.composites import (
    Seen,
    deep_lab,
    hides_from_mm,
    in_bands,
    known_of,
    lab_read,
    shows_de00,
    surface_of,
    translucency,
)
from mallet.color.difference import de00
from mallet.color.flux import Surface
from mallet.color.stack import read_over
from mallet.rulebook import Rulebook
from mallet.terms.color_plan import CompositeColor, Masking
from mallet.terms.optics import Optics

TOLD_AT_MM = 1.0
# How thick it is told what still shows of the mouth.
STEP_MM, MOST_MM = 0.25, 4.0


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
        masking=[
            Masking(thickness_mm=mm, shows_de00=round(shows_de00(seen, mm, rules, surface), 2)) for mm in _steps()
        ],
        unsure_de00=rules.value(seen.unsure_by),
        rules=rules.uses(
            "color.acceptable_de00", "color.perceptible_de00", "color.mouth_reflectance", "color.surface_k1",
            "color.surface_k2", seen.unsure_by,
        ),
    )  # fmt: skip


def apart_de00(one: Optics, other: Optics, rules: Rulebook) -> float:
    """Return how far two specimens of one composite are apart at 1 mm, over black or over white, whichever is more: a lot that is
    lighter, or lets more through."""
    surface = surface_of(rules)
    first, second = known_of(one, surface), known_of(other, surface)
    if first.is_spectral != second.is_spectral:
        first, second = in_bands(first, surface), in_bands(second, surface)
    return max(
        float(de00(np.array(_over(backing, first, surface)), np.array(_over(backing, second, surface))))
        for backing in (0.0, 1.0)
    )


def _steps() -> list[float]:
    return [STEP_MM * (i + 1) for i in range(round(MOST_MM / STEP_MM))]


def _over(backing: float, seen: Seen, surface: Surface) -> list[float]:
    behind = np.full_like(seen.k, backing)
    return _told(lab_read(read_over([seen.layer(TOLD_AT_MM)], behind, surface)))


def _told(lab: np.ndarray) -> list[float]:
    return [round(float(value), 1) for value in lab]
