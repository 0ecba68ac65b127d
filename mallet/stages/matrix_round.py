"""What goes all round a tooth: a copper band for a core, a crown form for a stump."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.matrix_stock import take_form
from mallet.terms.case import Case
from mallet.terms.parts import StripCrownPreparation
from mallet.terms.pieces import Reason, RuleUse
from mallet.terms.plan import Caution, Decision, StageResult, Step, Want
from mallet.terms.reasons import say, warn_by
from mallet.terms.stock import CrownForm
from mallet.tooth.crown import Crown

COPPER, FORM = "contoured copper band", "clear strip crown form"
ANNEALED, AS_DRAWN = "annealed", "hard"


def copper_steps(case: Case, height_mm: float, after: Sequence[str], rules: Rulebook) -> list[Step]:
    """Return how a copper band is cut to the tooth and placed; wedges and the test of its seal come after."""
    told = {"height_mm": height_mm, "anneal": case.techniques.copper == "annealed"}
    trim = catalog_step("matrix.copper_trim", rules, told, after=list(after))
    bite = catalog_step("matrix.copper_bite", rules, after=[trim.id])
    place = catalog_step("matrix.copper_band", rules, after=[bite.id])
    return [trim, bite, place]


def copper_decision(case: Case, rules: Rulebook) -> Decision:
    """Return whether a copper band is annealed, by technique, and how long it stays."""
    chosen, other = (ANNEALED, AS_DRAWN) if case.techniques.copper == "annealed" else (AS_DRAWN, ANNEALED)
    hours = rules.use("matrix.copper_amalgam_h")
    reason = say("matrix.copper_annealed") if chosen == ANNEALED else say("matrix.copper_as_drawn")
    stays = case.restoration.is_condensed
    return Decision(
        topic="matrix.copper",
        chosen=f"{COPPER}, {chosen}; {'on until the second visit' if stays else 'off once the core is cured'}",
        alternatives=[other],
        reasons=[reason, say("matrix.copper_on" if stays else "matrix.copper_stays", hours=hours.value)],
        rules=[hours],
    )


def crown_form(case: Case, crown: Crown, after: Sequence[str], rules: Rulebook) -> StageResult:
    """Return which strip crown form is taken, how it is cut, and its trial before the acid.

    As wide as the twin, else as the handbook's crown, and no wider than the gap between the adjacent teeth where that was measured; so long
    that it goes a little past the margin (mm; common practice, no source).
    """
    wanted_mm = case.twin.width_mm or crown.mesiodistal_mm
    past = rules.use("matrix.form_past_mm")
    margin_mm = next(p.above_cej_mm for p in case.preparation.parts if isinstance(p, StripCrownPreparation))
    to_margin_mm = crown.height_mm - margin_mm
    off = rules.use("matrix.form_off_mm")
    item, missed = take_form(case.stock, case.tooth.code, wanted_mm, case.twin.own_width_mm, off.value)
    wider_mm = item.width_mm - wanted_mm if item else 0.0
    length_mm = to_margin_mm + past.value
    if item:
        length_mm = min(length_mm, item.height_mm)
    told = {
        "length_mm": length_mm,
        "form": "known" if item else "unknown",
        "name": item.name if item else "",
        "narrower": wider_mm > off.value,
        "by_mm": wider_mm,
    }
    trim = catalog_step("matrix.form_trim", rules, told, after=list(after))
    seat = catalog_step("matrix.form_seal", rules, after=[trim.id])
    chosen = Decision(
        topic="matrix.form",
        chosen=f"{FORM}, cut to {length_mm:.1f} mm and vented",
        alternatives=["free hand with strips"],
        reasons=[say("matrix.form"), *_taken(case, item, wanted_mm, wider_mm)],
        missed=missed,
        rules=[past, off, *rules.uses("matrix.form_trim_s", "matrix.form_try_s")],
    )
    return StageResult(
        decisions=[chosen],
        cautions=_low(item, to_margin_mm, past),
        steps=[trim, seat],
        wants=[_want(case, item, wanted_mm)],
    )


def _taken(case: Case, item: CrownForm | None, wanted_mm: float, wider_mm: float) -> list[Reason]:
    if item:
        way = "wider" if wider_mm > 0 else "narrower"
        by = f"{abs(wider_mm):.1f} mm {way}" if abs(wider_mm) >= 0.05 else "as wide"
        return [say("matrix.form_taken", name=item.name, form_mm=item.width_mm, wanted_mm=wanted_mm, by=by)]
    return [say("matrix.form_none", tooth=case.tooth.code, wanted_mm=wanted_mm)] if case.stock else []


def _low(item: CrownForm | None, to_margin_mm: float, past: RuleUse) -> list[Caution]:
    if item is None or item.height_mm >= to_margin_mm:
        return []
    told = {"name": item.name, "height_mm": item.height_mm, "length_mm": to_margin_mm + past.value}
    return [warn_by("caution", "matrix.form_low", past, **told)]


def _want(case: Case, item: CrownForm | None, wanted_mm: float) -> Want:
    text = f"strip crown form for {case.tooth.code}, {wanted_mm:.1f} mm wide"
    return Want(
        kind="crown_form", text=text, name=item.name if item else None, lot=item.lot if item else None
    )
