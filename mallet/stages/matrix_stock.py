"""Bands, strip crown forms and wedges in stock: which is taken, and what is amiss with those that would not do."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from typing import get_args

from mallet.cavity.band import BandKind
from mallet.terms.pieces import Reason
from mallet.terms.plan import Miss
from mallet.terms.reasons import say
from mallet.terms.stock import CrownForm, MatrixBand, StockItem, WedgeItem

HAIR_MM = 1e-9


def take_band(
    stock: Sequence[StockItem], kind: BandKind, span_mm: float
) -> tuple[MatrixBand | None, list[Miss]]:
    """Return the lowest band of a kind that spans a height, and what is amiss with the others."""
    bands = [one for one in stock if isinstance(one, MatrixBand) and one.form in get_args(BandKind)]
    amiss = [(one, _band_amiss(one, kind, span_mm)) for one in bands]
    fitting = [one for one, reasons in amiss if not reasons]
    least = min(fitting, key=lambda band: (band.height_mm, band.thickness_mm, band.name), default=None)
    return least, _misses(amiss)


def _band_amiss(band: MatrixBand, kind: BandKind, span_mm: float) -> list[tuple[float, Reason]]:
    reasons = []
    if band.form != kind:
        reasons.append((math.inf, say("miss.form", form=band.form, wanted=kind)))
    if band.height_mm < span_mm - HAIR_MM:
        lacks = span_mm - band.height_mm
        reasons.append((lacks, say("miss.low", by_mm=round(lacks, 2))))
    return reasons


def take_form(
    stock: Sequence[StockItem], tooth: str, wanted_mm: float, gap_mm: float | None, near_mm: float
) -> tuple[CrownForm | None, list[Miss]]:
    """Return the strip crown form of a tooth whose width is nearest to what is wanted, of those that go between the teeth beside it, and what is
    amiss with the others of that tooth. Where none is near the next wider one, which may be taken in; else the widest."""
    forms = [one for one in stock if isinstance(one, CrownForm) and one.tooth == tooth]
    amiss = [(one, _form_amiss(one, gap_mm)) for one in forms]

    def off(one: CrownForm) -> tuple[int, float, float, str]:
        wider_mm = round(one.width_mm - wanted_mm, 2)
        rank = 0 if abs(wider_mm) <= near_mm else 1 if wider_mm > 0 else 2
        return rank, abs(wider_mm), -one.height_mm, one.name

    taken = min((one for one, reasons in amiss if not reasons), key=off, default=None)
    return taken, nearest_first(_misses(amiss))


def _form_amiss(form: CrownForm, gap_mm: float | None) -> list[tuple[float, Reason]]:
    over = form.width_mm - gap_mm if gap_mm is not None else 0.0
    return [(over, say("miss.wide_form", by_mm=round(over, 2), gap_mm=gap_mm))] if over > HAIR_MM else []


def take_wedge(
    stock: Sequence[StockItem], least_width_mm: float, most_height_mm: float
) -> tuple[WedgeItem | None, list[Miss]]:
    """Return the narrowest wedge that is wide enough, of those that stay below the contact if any does, and
    what is amiss with the others."""
    wedges = [one for one in stock if isinstance(one, WedgeItem)]
    amiss = [(one, _wedge_amiss(one, least_width_mm, most_height_mm)) for one in wedges]
    wide = [one for one in wedges if one.width_mm >= least_width_mm - HAIR_MM]
    least = min(
        wide, key=lambda one: (one.height_mm > most_height_mm + HAIR_MM, one.width_mm, one.name), default=None
    )
    return least, _misses((one, why) for one, why in amiss if one is not least)


def _wedge_amiss(wedge: WedgeItem, least_mm: float, highest_mm: float) -> list[tuple[float, Reason]]:
    reasons = []
    if wedge.width_mm < least_mm - HAIR_MM:
        lacks = least_mm - wedge.width_mm
        reasons.append((lacks, say("miss.narrow", by_mm=round(lacks, 2))))
    if wedge.height_mm > highest_mm + HAIR_MM:
        over = wedge.height_mm - highest_mm
        reasons.append((over, say("miss.high", by_mm=round(over, 2))))
    return reasons


def _misses(amiss: Iterable[tuple[StockItem, list[tuple[float, Reason]]]]) -> list[Miss]:
    return [
        Miss(
            name=one.name, reasons=[why for _, why in reasons], off_mm=_finite(sum(off for off, _ in reasons))
        )
        for one, reasons in amiss
        if reasons
    ]


def _finite(off_mm: float) -> float | None:
    return round(off_mm, 2) if math.isfinite(off_mm) else None


def nearest_first(missed: Iterable[Miss]) -> list[Miss]:
    """Return what does not fit, that first which is least off, and last what no measure would mend."""
    return sorted(missed, key=lambda miss: (miss.off_mm is None, miss.off_mm or 0.0))
