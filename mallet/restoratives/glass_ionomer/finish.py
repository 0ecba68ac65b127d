"""Finishing glass ionomer: what shaped it off, trimmed wet, looked over, coated by its value."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.cavity.preparation import Cavity
from mallet.restoratives.glass_ionomer.stock import asked_of, coat_of, tint_of
from mallet.rulebook import Rulebook
from mallet.stages.finish_steps import contact_step, occlusion_step, verified
from mallet.stages.hand import hand_step
from mallet.stages.isolate import field_off
from mallet.stages.matrix_off import shaping_off
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.plan import Decision, StageResult, Step, StepCheck
from mallet.terms.reasons import say

SAYS = "trim wet, look for pits, occlusion, coat"


def finish(site: Site, last: str) -> StageResult:
    """Return the steps once glass ionomer has set, `last` being that step's id."""
    case, cavity, rules = site.case, site.cavity, site.rules
    off = shaping_off(site, last)
    after = off[-1].id if off else last
    return StageResult(
        says=SAYS,
        decisions=[_coat(case), _when(case, rules)],
        steps=[*off, *_trim(case, cavity, after, rules)],
    )


def _coat(case: Case) -> Decision:
    coat, tint = coat_of(case), tint_of(case)
    reasons = [say("ionomer.coat_tinted" if tint == "tinted" else "ionomer.coat_clear")]
    if asked_of(case).value_when_wet is None:
        reasons.append(say("ionomer.coat_by_look"))
    return Decision(
        topic="finish.coat",
        chosen=coat.name if coat else f"{tint} coat",
        alternatives=["clear coat" if tint == "tinted" else "tinted coat"],
        reasons=reasons,
    )


def _when(case: Case, rules: Rulebook) -> Decision:
    now, later = "final finishing in the same visit, wet", "final finishing after 24 h"
    is_later = asked_of(case).final_finish == "after_24_h"
    return Decision(
        topic="finish.when",
        chosen=later if is_later else now,
        alternatives=[now if is_later else later],
        reasons=[say("ionomer.final_later" if is_later else "ionomer.final_now", hours=rules.value("ionomer.final_after_h"))],
        rules=rules.uses("ionomer.final_after_h"),
    )  # fmt: skip


def _trim(case: Case, cavity: Cavity, after: str, rules: Rulebook) -> list[Step]:
    steps: list[Step] = []

    def then(step: Step) -> None:
        steps.append(step.model_copy(update={"after": [steps[-1].id if steps else after]}))

    is_later = asked_of(case).final_finish == "after_24_h"
    gross = " Take off gross excess only; the rest is finished after a day." if is_later else ""
    then(
        hand_step(
            id="finish.trim",
            title="Trim under water",
            detail=(
                "Wheel or carbide lingually, fine flame facially, discs coarse to fine by thirds, from outside in."
                f" Always wet: dry cutting crazes it.{gross}"
            ),
            rule=rules.use("ionomer.trim_s"),
            tray=["fine diamond, flame", "discs", "water spray"],
        )
    )
    then(
        hand_step(
            id="finish.pits",
            title="Look for pits",
            detail="Wet and magnified, along the margins first.",
            rule=rules.use("ionomer.look_s"),
            tray=["mirror", "probe"],
            check=StepCheck(
                question="No pit, no gap, no flash?",
                remedy="A pit is filled under the coat; a gap is opened and filled again from conditioning.",
                back_to="bond.condition",
            ),
        )
    )
    if cavity.opened:
        then(contact_step(rules))
    then(field_off(case, after, rules))
    if not case.is_unbitten:
        then(occlusion_step(case, rules))
    for step in _coating(case, rules):
        then(step)
    return [*steps, *verified(case, steps[-1].id, "finish.trim", rules)]


def _coating(case: Case, rules: Rulebook) -> Sequence[Step]:
    coat, tint = coat_of(case), tint_of(case)
    name = coat.name if coat else f"{tint} coat"
    look = "" if asked_of(case).value_when_wet else " Value right: the clear coat; too high: the tinted one."
    brush = hand_step(
        id="finish.coat",
        title="Coat it",
        detail=f"Wet it and look at its value.{look} Rinse, dry, brush on {name}, thin it with air.",
        rule=rules.use("ionomer.coat_s"),
        tray=[name, "brush"],
        after=[],
    )
    if coat is not None and not coat.light_cured:
        return [brush]
    cure_s = coat.cure_s if coat and coat.cure_s else rules.value("ionomer.coat_cure_s")
    cure = Step(
        id="finish.coat_cure",
        stage="finish",
        title="Light-cure the coat",
        detail=f"Tip close. {cure_s:g} s at full output. Orange filter.",
        actor="both",
        seconds=cure_s,
        seconds_rule=rules.use("ionomer.coat_cure_s"),
        timed=True,
        light=True,
        tray=["curing light", "orange filter"],
    )
    return [brush, cure]
