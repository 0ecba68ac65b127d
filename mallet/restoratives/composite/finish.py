"""Finishing composite: band off, light from the sides, trim, check, polish."""

from __future__ import annotations

import math
from collections.abc import Sequence

from mallet.cavity.band import Band
from mallet.cavity.preparation import Cavity
from mallet.curing.after_band import AfterBand
from mallet.curing.cured import Cured
from mallet.curing.exposures import light_step, presses_of
from mallet.light.presses import button_of
from mallet.restoratives.composite.contour import contour
from mallet.restoratives.composite.later import is_reviewed
from mallet.restoratives.composite.polishing import Series, Trimming, series_of
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.assess import carving_hint
from mallet.stages.finish_steps import contact_step, occlusion_step, verified
from mallet.stages.isolate import field_off
from mallet.stages.matrix_off import band_off, form_off
from mallet.terms.case import Case
from mallet.terms.plan import Check, StageResult, Step

NECK_STRIP_OFF = "matrix.neck.strip_off"
SAYS = "trim, contact, occlusion, polish"


def finish(
    case: Case,
    cavity: Cavity,
    bands: Sequence[Band],
    worn: Sequence[Step],
    after_bands: Sequence[AfterBand],
    last: str,
    rules: Rulebook,
) -> StageResult:
    """Return the steps after the last increment is cured, `last` being that step's id: all that shaped it off again,
    `worn` being strips and cords and the light after them, `bands` those that stand yet; light from the sides on what metal
    shaded; trimming and checks."""
    steps: list[Step] = []

    def then(step: Step) -> None:
        steps.append(step.model_copy(update={"after": [steps[-1].id if steps else last]}))

    if cavity.stump:
        then(form_off(last, rules))
    for step in worn:
        then(step)
    steps += bands_off(bands, after_bands, steps[-1].id if steps else last, rules)
    last = steps[-1].id if steps else last
    way = _trimming(case, cavity)
    is_between = bool(cavity.opened) or way == "front"
    series = series_of(way, case.stock, is_between=is_between)
    strip = next((one.name for one in series.strips), "finishing strip") if series else "finishing strip"
    is_shaped = bool(cavity.opened or cavity.stump) or any(step.id == NECK_STRIP_OFF for step in worn)
    polish = _polish(series, rules, is_shaped=is_shaped)
    shape = contour(case, rules)
    steps += _trim_and_check(case, cavity, strip if is_between else "", shape.steps, polish, last, rules)
    return StageResult(
        says=SAYS,
        decisions=[*shape.decisions, *(series.decisions if series else [])],
        checks=[_reached(lit, rules) for lit in after_bands],
        steps=steps,
        cautions=series.cautions if series else [],
        wants=series.wants if series else [],
    )


def after_strip(case: Case, cured: Sequence[Cured], rules: Rulebook) -> list[Step]:
    """Return the light on what a strip's fixing resin shaded, as long as any increment lacks there; none where the light
    through it was enough."""
    per_mm, thick = rules.uses("light.fixing_resin_per_mm", "matrix.fixing_resin_mm")
    passed = math.exp(-per_mm.value * thick.value)
    lacking_s, source = 0.0, ""
    for one in cured:
        share = one.need.dose_j_cm2 / one.worst_dose_j_cm2 - passed
        if (wanted_s := share * sum(one.exposed.full_s)) > lacking_s:
            lacking_s, source = wanted_s, one.lit.aims[0].name
    if not source:
        return []
    rung = button_of(case.light).least(max(lacking_s, rules.value("light.least_exposure_s")))
    return [light_step("build.after_strip", rules, per_mm.rule, presses_of([(source, rung)]), {})]


def bands_off(
    bands: Sequence[Band], after_bands: Sequence[AfterBand], last: str, rules: Rulebook
) -> list[Step]:
    """Return how the bands come off after a step, each with the light on what it shaded."""
    steps: list[Step] = []
    taken: set[str] = set()
    for band in bands:
        if band.name not in taken:
            taken.add(band.name)
            steps.append(band_off(band, bands, steps[-1].id if steps else last, rules))
        for lit in after_bands:
            if lit.side == band.side:
                steps += _side_cures(lit, steps[-1].id, rules)
    return steps


def _side_cures(lit: AfterBand, after: str, rules: Rulebook) -> list[Step]:
    steps: list[Step] = []
    for side, rung in lit.exposures:
        step = light_step(
            "build.after_band",
            rules,
            "light.final_share" if lit.is_enough else "light.final_cure_s",
            presses_of([(side, rung)]),
            {"side": lit.side, "source": side},
            after=[steps[-1].id if steps else after],
        )
        steps.append(step)
    return steps


def _reached(lit: AfterBand, rules: Rulebook) -> Check:
    return Check(
        topic=f"cure.after_band.{lit.side}",
        title=f"Light-curing from the sides, {lit.side} band off",
        measured=round(lit.adds, 2),
        needed=lit.wanted,
        relation="at_least",
        unit="\u00d7 required",
        verdict="pass" if lit.is_enough else "caution",
        remedy="Rely on the light from occlusal for this surface: facial and lingual curing adds little here.",
        where="Added where the band shaded most; the light from occlusal is not counted",
        rules=rules.uses(
            "light.final_share",
            "light.dentin_attenuation_per_mm",
            *([] if lit.is_enough else ["light.final_cure_s"]),
        ),
    )


def _trimming(case: Case, cavity: Cavity) -> Trimming:
    """Return in which of the catalogue's ways a restoration is trimmed: by what it stands on."""
    kinds = {part.kind for part in case.preparation.parts}
    if case.is_neck:
        return "neck"
    if case.is_unbitten:
        return "pit"
    if case.face_part or cavity.stump:
        return "front"
    return "groove" if kinds == {"sealant_groove"} else "cusps"


def _trim_and_check(
    case: Case, cavity: Cavity, strip: str, shape: Sequence[Step], polish: Step, after: str, rules: Rulebook
) -> list[Step]:
    told = {"how": _trimming(case, cavity), "heights": carving_hint(case), "strip": strip}
    steps = [catalog_step("finish.trim", rules, told, after=[after]), *shape]
    if cavity.opened:
        steps.append(contact_step(rules).model_copy(update={"after": [steps[-1].id]}))
    steps.append(field_off(case, steps[-1].id, rules))
    if not case.is_unbitten:
        steps.append(occlusion_step(case, rules).model_copy(update={"after": [steps[-1].id]}))
    steps.append(polish.model_copy(update={"after": [steps[-1].id]}))
    from_d = rules.value("shade.review_days") if is_reviewed(case) else None
    return [*steps, *verified(case, "finish.polish", "finish.trim", rules, judged_from_d=from_d)]


def _polish(series: Series | None, rules: Rulebook, *, is_shaped: bool) -> Step:
    """Return how a surface is polished: by the abrasives in stock in their order, else by two grits; what a band or strip shaped is
    left alone."""
    if series is None or not series.items:
        told = {"series": "Two grits", "shaped": is_shaped, "points": True, "brush": True}
        return catalog_step("finish.polish", rules, told)
    told = {"series": series.says, "shaped": is_shaped, "points": False, "brush": False}
    step = catalog_step("finish.polish", rules, told)
    return step.model_copy(update={"tray": [one.name for one in series.items]})
