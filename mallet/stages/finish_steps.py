"""Steps of finishing that every restorative has: contact, occlusion, the last look, what the patient is told."""

from __future__ import annotations

from mallet.rulebook import Rulebook
from mallet.stages.hand import hand_step
from mallet.terms.case import Case
from mallet.terms.plan import Step, StepCheck

CONTACT = StepCheck(
    question="Does unwaxed floss snap through and come out whole?",
    remedy="Shreds: strip the margin. Too tight: contact saw, waxed floss, strip. Open: correct or replace it before finishing; record it if accepted.",
    back_to="finish.trim",
)
BITE = StepCheck(
    question="Are the occlusal marks as before treatment or as planned, in maximum intercuspation and excursions?",
    remedy="Take the high spot down with a fine diamond, mark again.",
    back_to="finish.bite",
)
FREE = StepCheck(
    question="Is it out of contact in maximum intercuspation and excursions?",
    remedy="Take down what touches, mark again.",
    back_to="finish.bite",
)


def contact_step(rules: Rulebook) -> Step:
    """Return how a contact is checked."""
    return hand_step(
        id="finish.contact",
        title="Check the contact",
        detail="Unwaxed floss, before the field is given up.",
        rule=rules.use("chair.contact_s"),
        tray=["unwaxed floss"],
        check=CONTACT,
    )


def occlusion_step(case: Case, rules: Rulebook) -> Step:
    """Return how the occlusion is checked; in an open bite, that there is none on an anterior tooth's edge."""
    is_free = case.findings.overbite == "open" and case.face_part is not None
    return hand_step(
        id="finish.bite",
        title="Confirm that nothing touches" if is_free else "Check the occlusion",
        detail=f"Thicker paper, tap, then slide all ways.{' The lingual contour is free.' if is_free else ''}",
        rule=rules.use("chair.bite_s"),
        tray=["articulating paper", "fine diamond, flame"],
        check=FREE if is_free else BITE,
    )


def verified(case: Case, after: str, back_to: str, rules: Rulebook) -> list[Step]:
    """Return the last look at the finished work, which leads back to a step, and what the patient is told."""
    cold = " Cold may be felt for some weeks." if case.tooth.vitality == "vital" else ""
    bite = "" if case.is_unbitten else " Occlusion as before."
    return [
        hand_step(
            id="finish.verify",
            title="Verify the finished work",
            detail=f"Dry it. Probe and light along every margin, gingival ones too.{bite} No flash left.",
            rule=rules.use("chair.verify_finished_s"),
            after=[after],
            tray=["probe", "mirror"],
            hold="finished",
            check=StepCheck(
                question="Margins flush all round, shape and surface as planned, no debris, cord, cotton or wedge left?",
                remedy="Correct it now, while the patient is anesthetized.",
                back_to=back_to,
            ),
        ),
        hand_step(
            id="finish.tell",
            title="Tell the patient",
            detail=f"Numb for some hours: avoid hot food and biting lip or cheek.{cold} Call us for pain on biting, spontaneous or lingering pain.",
            rule=rules.use("chair.tell_s"),
            after=["finish.verify"],
            actor="both",
        ),
    ]
