"""How far restorations of a composite are off what was predicted of them, and what is known of it, put right by that."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from mallet.color.difference import difference, in_words
from mallet.color.smooth import smooth_of
from mallet.color.spectra import lab_of_reflectance
from mallet.rulebook import Rulebook
from mallet.terms.optics import FamilyOptics, LabOptics, Optics, SpectralOptics
from mallet.terms.pieces import RuleUse

Floats = NDArray[np.float64]
# What a review's readings of L*, a* and b* are kept by.
READ_AS = ("lab_l", "lab_a", "lab_b")
# A mean that is less than so many of its standard errors may be chance.
ERRORS = 2


@dataclass(frozen=True)
class Bias:
    """By how much (3,) restorations are off what was predicted, on the mean; how far that is (dE00), in words, of how many reviews,
    whether these agree, and whether they are enough and it is far enough to put a composite right."""

    reviews: int
    off_lab: Floats
    off_de00: float
    says: str
    agrees: bool
    is_enough: bool
    rules: list[RuleUse]


def bias_of(predicted: Floats, read: Floats, rules: Rulebook) -> Bias:
    """Return how CIELAB (N, 3) of so many restorations is off what was predicted of each (N, 3)."""
    wanted, seen = predicted.mean(axis=0), read.mean(axis=0)
    found, cited = difference(wanted, seen), rules.uses("color.bias_de00", "color.bias_reviews")
    off, (far, many) = float(found.de00), cited
    each = read - predicted
    error = each.std(axis=0, ddof=1) / np.sqrt(len(each)) if len(each) > 1 else np.full(3, np.inf)
    agrees = bool(np.linalg.norm(seen - wanted) > ERRORS * np.linalg.norm(error))
    return Bias(
        reviews=len(read),
        off_lab=seen - wanted,
        off_de00=round(off, 1),
        says=in_words(found),
        agrees=agrees,
        is_enough=agrees and off > far.value and len(read) >= many.value,
        rules=cited,
    )


def corrected(optics: Optics, off_lab: Floats) -> Optics:
    """Return optics of which every reading is moved by a color (3,): a specimen that reads as the teeth did, over what was predicted.

    A spectrum is moved by the smooth one that makes the same difference. Absorption and scattering follow from the readings, as
    from measured ones. Raises ValueError where a moved reading is no color of a tooth.
    """
    if isinstance(optics, FamilyOptics):
        return FamilyOptics(kind="family", opacity=optics.opacity, tab=_moved(optics.tab, off_lab))
    if isinstance(optics, LabOptics):
        told = {name: _moved(getattr(optics, name), off_lab) for name in ("over_black", "over_white")}
        return LabOptics(**{**optics.model_dump(), **told})
    told = {name: _bent(getattr(optics, name), off_lab) for name in ("over_black", "over_white")}
    return SpectralOptics(**{**optics.model_dump(), **told})


def _moved(lab: list[float], off_lab: Floats) -> list[float]:
    return [round(float(value), 2) for value in np.array(lab) + off_lab]


def _bent(spectrum: list[float], off_lab: Floats) -> list[float]:
    read = np.array(spectrum)
    lab = lab_of_reflectance(read)
    return [round(float(value), 5) for value in read * smooth_of(lab + off_lab) / smooth_of(lab)]
