"""What the hands do for a band and its wedge."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.cavity.band import Band
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.matrix_round import COPPER
from mallet.terms.plan import Step

NAMES = {
    "sectional": "sectional metal band with separating ring",
    "clear": "clear anatomical band",
    "circumferential": "retainer-held circumferential band",
    "copper": COPPER,
}
BANDS = {**NAMES, "sectional": "sectional metal band"}


def place(band: Band, after: Sequence[str], rules: Rulebook) -> Step:
    """Return how a band is placed."""
    told = {
        "placed_by": band.placed_by,
        "what": "round" if band.name == "round" else band.side,
        "band": band.kind,
        "how": band.kind,
        "height_mm": band.height_mm,
        "beyond_mm": rules.value("matrix.beyond_margin_mm"),
        "burnisher": band.is_metal,
    }
    return catalog_step("matrix.band", rules, told, after=list(after))


def wedged(band: Band, placed: str, rules: Rulebook) -> list[Step]:
    """Return the wedge of a band that was placed, and the test of its seal."""
    side = band.side
    if band.is_tied:
        tie = catalog_step("matrix.tie", rules, {"side": side}, after=[placed])
        return [tie, _seal(band, rules, tie.id)]
    if not band.wedge:
        return [_seal(band, rules, placed)]
    told = {"side": side, "wedge_mm": band.wedge.width_mm, "next_mm": band.wedge.next_mm}
    told |= dict.fromkeys(("ring", "ring_forceps", "the_ring"), band.has_ring)
    wedge = catalog_step("matrix.wedge", rules, told, after=[placed])
    return [wedge, _seal(band, rules, wedge.id)]


def _seal(band: Band, rules: Rulebook, after: str) -> Step:
    held_by = f"matrix.{band.side}.wedge" if band.wedge else after
    told = {"side": band.side, "otherwise": "wedge" if band.wedge else "tie", "held_by": held_by}
    return catalog_step("matrix.seal", rules, told, after=[after])
