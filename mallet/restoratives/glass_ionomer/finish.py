"""Finishing glass ionomer: what shaped it off, trimmed wet, looked over, coated by its value."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.cavity.preparation import Cavity
from mallet.restoratives.glass_ionomer.stock import asked_of, coat_of, tint_of
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.assess import history_step
from mallet.stages.finish_steps import contact_step, in_turn, occlusion_step, verified
from mallet.stages.isolate import field_off
from mallet.stages.matrix_off import shaping_off
from mallet.stages.site import Site
from mallet.terms.case import Case
from mallet.terms.plan import Decision, LaterVisit, StageResult, Step
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


def later_visits(site: Site) -> list[LaterVisit]:
    """Return the visit for the final finishing, where it is not done when the ionomer is placed."""
    case, rules = site.case, site.rules
    if asked_of(case).final_finish != "after_24_h":
        return []
    since = rules.use("ionomer.final_after_h")
    steps = [history_step(case, rules), catalog_step("ionomer.trim", rules, {"gross": False})]
    if not case.is_unbitten:
        steps.append(occlusion_step(case, rules))
    steps += _coating(case, rules)
    return [
        LaterVisit(
            purpose="polish",
            name="Final finishing",
            from_h=since.value,
            reason=say("ionomer.final_visit", hours=since.value),
            rules=[since],
            steps=in_turn([*steps, *verified(case, steps[-1].id, "finish.trim", rules)]),
        )
    ]


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

    then(catalog_step("ionomer.trim", rules, {"gross": asked_of(case).final_finish == "after_24_h"}))
    then(catalog_step("ionomer.pits", rules))
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
    told = {"name": name, "look": not asked_of(case).value_when_wet}
    brush = catalog_step("ionomer.coat", rules, told)
    if coat is not None and not coat.light_cured:
        return [brush]
    cure_s = coat.cure_s if coat and coat.cure_s else rules.value("ionomer.coat_cure_s")
    return [brush, catalog_step("ionomer.coat_cure", rules, {"cure_s": cure_s}, seconds=cure_s)]
