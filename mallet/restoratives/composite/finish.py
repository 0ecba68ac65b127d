"""Finishing composite: band off, light from the sides, trim, check, polish."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.cavity.band import Band
from mallet.cavity.preparation import Cavity
from mallet.curing.after_band import AfterBand
from mallet.curing.exposures import light_step, presses_of
from mallet.rulebook import Rulebook
from mallet.stages.assess import carving_hint
from mallet.stages.finish_steps import contact_step, occlusion_step, verified
from mallet.stages.hand import hand_step
from mallet.stages.isolate import field_off
from mallet.stages.matrix_off import band_off, form_off
from mallet.terms.case import Case
from mallet.terms.plan import Check, StageResult, Step

SAYS = "trim, contact, occlusion, polish"
AT_NECK = (
    "Blade for flash, fine diamond toward the tooth; keep off the root, and leave no step at the gingiva."
)
AT_PIT = "Blade for flash, fine diamond toward the tooth; level with the face round it."
AT_FRONT = "Blade and strips for flash; discs coarse to fine by thirds: gingival, middle, incisal; line angles, edge last."
IN_GROOVE = "Probe along the edge; reduce high spots."


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
    `worn` being strips and cords; light from the sides on what metal shaded; trimming and checks."""
    steps: list[Step] = []

    def then(step: Step) -> None:
        steps.append(step.model_copy(update={"after": [steps[-1].id if steps else last]}))

    if cavity.stump:
        then(form_off(last, rules))
    for step in worn:
        then(step)
    taken: set[str] = set()
    for band in bands:
        if band.name not in taken:
            taken.add(band.name)
            then(band_off(band, bands, last, rules))
        for lit in after_bands:
            if lit.side == band.side:
                steps += _side_cures(lit, steps[-1].id, rules)
    last = steps[-1].id if steps else last
    steps += _trim_and_check(case, cavity, last, rules, opens_contact=bool(cavity.opened))
    return StageResult(says=SAYS, steps=steps, checks=[_reached(lit, rules) for lit in after_bands])


def _side_cures(lit: AfterBand, after: str, rules: Rulebook) -> list[Step]:
    steps: list[Step] = []
    for side, rung in lit.exposures:
        step = light_step(
            f"build.{lit.side}.final.{side}",
            "build",
            f"Light-cure the {lit.side} box from {side}",
            presses_of([(side, rung)]),
            rules.use("light.final_share" if lit.is_enough else "light.final_cure_s"),
            [steps[-1].id if steps else after],
            how="Light tip against the embrasure: the metal band shaded this surface.",
        )
        steps.append(step.model_copy(update={"role": "after_band"}))
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


def _trimming(case: Case, cavity: Cavity) -> str:
    """Return how such a restoration is trimmed: by what it stands on."""
    kinds = {part.kind for part in case.preparation.parts}
    if case.is_neck:
        return AT_NECK
    if case.is_unbitten:
        return AT_PIT
    if case.face_part or cavity.stump:
        return AT_FRONT
    if kinds == {"sealant_groove"}:
        return IN_GROOVE
    return f"Blade or strip for flash, fine diamond for cusp slopes and groove.{carving_hint(case)}"


def _trim_and_check(
    case: Case, cavity: Cavity, after: str, rules: Rulebook, *, opens_contact: bool
) -> list[Step]:
    def step(id: str, title: str, detail: str, rule: str, previous: str, **more: object) -> Step:
        told = {"stage": "finish", "after": [previous], **more}
        return hand_step(id=id, title=title, detail=detail, rule=rules.use(rule), **told)

    steps = [
        step(
            "finish.trim",
            "Trim and contour",
            _trimming(case, cavity),
            "chair.trim_s",
            after,
            tray=["scalpel blade", "fine diamond, pear", "finishing strip"],
        )
    ]
    if opens_contact:
        steps.append(contact_step(rules).model_copy(update={"after": ["finish.trim"]}))
    steps.append(field_off(case, steps[-1].id, rules))
    if not case.is_unbitten:
        steps.append(occlusion_step(case, rules).model_copy(update={"after": [steps[-1].id]}))
    steps.append(
        step(
            "finish.polish",
            "Polish",
            "Two grits, wet, light pressure.",
            "chair.polish_s",
            steps[-1].id,
            tray=["rubber points", "brush"],
        )
    )
    return [*steps, *verified(case, "finish.polish", "finish.trim", rules)]
