"""Band off, light from the sides, trim, check, polish."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from mallet.cavity.preparation import Cavity
from mallet.rulebook import Rulebook
from mallet.stages.assess import carving_hint
from mallet.stages.build.after_band import AfterBand
from mallet.stages.hand import hand_step
from mallet.stages.lighting import light_step, presses_of
from mallet.stages.matrix import Band
from mallet.terms.case import Case
from mallet.terms.plan import Check, StageResult, Step, StepCheck

AT_NECK = "Blade for flash, fine diamond towards the tooth; keep off the root, and leave no step at the gum."

AT_FRONT = (
    "Blade and strips for flash; discs from coarse to fine over the face and its line angles; edge last."
)


def finish(
    case: Case,
    cavity: Cavity,
    bands: Sequence[Band],
    after_bands: Sequence[AfterBand],
    last: str,
    rules: Rulebook,
) -> StageResult:
    """Return the steps after the last portion is cured, `last` being that step's id, and what the light
    from the sides adds once metal bands are off."""
    steps: list[Step] = []
    if cavity.stump:
        steps.append(_form_off(last, rules))
        last = steps[-1].id
    for band in bands:
        # The two halves of a copper band are one.
        if band.kind != "copper" or not steps:
            steps.append(_band_off(band, last, rules))
            last = steps[-1].id
        for lit in after_bands:
            if lit.side == band.side:
                steps += _side_cures(lit, last, rules)
                last = steps[-1].id
    steps += _trim_and_check(case, last, rules, opens_contact=bool(cavity.opened))
    return StageResult(steps=steps, checks=[_reached(lit, rules) for lit in after_bands])


def _form_off(after: str, rules: Rulebook) -> Step:
    return hand_step(
        id="matrix.form.off",
        title="Crown form off",
        detail="Slit it with a pointed probe on the lingual side and peel it off.",
        rule=rules.use("matrix.form_off_s"),
        tray=["pointed probe"],
        after=[after],
    )


def _band_off(band: Band, after: str, rules: Rulebook) -> Step:
    if band.kind == "copper":
        return hand_step(
            id="matrix.copper.off",
            title="Copper band off",
            detail="Wedges out; slit it on one side and peel it off.",
            rule=rules.use("matrix.copper_off_s"),
            tray=["bur, fissure", "cotton forceps"],
            after=[after],
        )
    return hand_step(
        id=f"matrix.{band.side}.off",
        title=f"{band.side.capitalize()} band off",
        detail="Ring, then wedge, then band; draw it sideways, not up, so that the ridge stays.",
        rule=rules.use("chair.band_off_s"),
        tray=["ring forceps", "cotton forceps"],
        after=[after],
    )


def _side_cures(lit: AfterBand, after: str, rules: Rulebook) -> list[Step]:
    steps: list[Step] = []
    for side, rung in lit.exposures:
        step = light_step(
            f"build.{lit.side}.final.{side}",
            "build",
            f"Light on the {lit.side} box from {side}",
            presses_of([(side, rung)]),
            rules.use("light.final_share" if lit.is_enough else "light.final_cure_s"),
            [steps[-1].id if steps else after],
            how="The metal band shaded this surface. Tip against the embrasure.",
        )
        steps.append(step)
    return steps


def _reached(lit: AfterBand, rules: Rulebook) -> Check:
    return Check(
        topic=f"cure.after_band.{lit.side}",
        title=f"Light from the sides, {lit.side} band off",
        measured=round(lit.adds, 2),
        needed=lit.wanted,
        relation="at_least",
        unit="\u00d7 need",
        verdict="pass" if lit.is_enough else "caution",
        remedy="It hardly gets there from the sides: what cures this surface is the light from occlusal.",
        where="Added at the darkest point of what the band shaded; the light from occlusal is not counted",
        rules=rules.uses(
            "light.final_share",
            "light.conversion_factor",
            "light.dentin_attenuation_per_mm",
            *([] if lit.is_enough else ["light.final_cure_s"]),
        ),
    )


def _trim_and_check(case: Case, after: str, rules: Rulebook, *, opens_contact: bool) -> list[Step]:
    def step(id: str, title: str, detail: str, rule: str, previous: str, **more: object) -> Step:
        told = {"stage": "finish", "after": [previous], **more}
        return hand_step(id=id, title=title, detail=detail, rule=rules.use(rule), **told)

    steps = [
        step(
            "finish.trim",
            "Trim and contour",
            AT_NECK
            if case.is_unbitten
            else AT_FRONT
            if case.face_part
            else f"Blade or strip for flash, fine diamond for cusp slopes and groove.{carving_hint(case)}",
            "chair.trim_s",
            after,
            tray=["scalpel blade", "fine diamond, pear", "finishing strip"],
        )
    ]
    contact = StepCheck(
        question="Does unwaxed floss snap through and come out whole?",
        remedy="Shreds: strip the margin. Too tight: contact saw, waxed floss, strip. Open: note it.",
        back_to="finish.trim",
    )
    if opens_contact:
        steps.append(
            step(
                "finish.contact",
                "Check the contact",
                "Unwaxed floss, before the field is given up.",
                "chair.contact_s",
                "finish.trim",
                tray=["unwaxed floss"],
                check=contact,
            )
        )
    bite = StepCheck(
        question="Do the marks stand as before the filling, in closure and sideways?",
        remedy="Take the high spot down with a fine diamond, mark again.",
        back_to="finish.bite",
    )
    if case.findings.field == "dam":
        detail, rule = "Ligatures, clamp, septa cut one by one; floss out shreds.", "chair.dam_off_s"
        title, tray = "Rubber dam off", ["scissors", "clamp forceps", "floss"]
        steps.append(step("isolate.dam_off", title, detail, rule, steps[-1].id, actor="both", tray=tray))
    else:
        detail, rule = "Wet them first: a dry roll takes the lining with it.", "isolate.field_off_s"
        steps.append(
            step(
                "isolate.rolls_off",
                "Cotton rolls out",
                detail,
                rule,
                steps[-1].id,
                actor="both",
                tray=["tweezers"],
            )
        )
    if not case.is_unbitten:
        steps.append(
            step(
                "finish.bite",
                "Check the bite",
                "Thicker paper, tap, then slide all ways.",
                "chair.bite_s",
                steps[-1].id,
                tray=["bite paper", "fine diamond, flame"],
                check=bite,
            )
        )
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
    return [*steps, *_verified(case, step)]


def _verified(case: Case, step: Callable[..., Step]) -> list[Step]:
    """Return the last look at the finished work, and what the patient is told."""
    cold = " Cold may be felt for some weeks." if case.tooth.vitality == "vital" else ""
    bite = "" if case.is_unbitten else " Bite as before."
    return [
        step(
            "finish.verify",
            "Verify the finished work",
            f"Dry it. Probe and light along every margin, gingival ones too.{bite} No flash left.",
            "chair.verify_finished_s",
            "finish.polish",
            tray=["probe", "mirror"],
            hold="finished",
            check=StepCheck(
                question="Margins flush all round, shape and surface as they should be, nothing left behind?",
                remedy="Mend it now, while the patient is numb.",
                back_to="finish.trim",
            ),
        ),
        step(
            "finish.tell",
            "Tell the patient",
            f"Numb for some hours: no hot food, no biting on the cheek.{cold} Pain on biting is to be reported.",
            "chair.tell_s",
            "finish.verify",
            actor="both",
        ),
    ]
