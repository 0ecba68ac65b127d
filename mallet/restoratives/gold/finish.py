"""Finishing direct gold: burnished, trimmed from gold to tooth, disced in air, judged point by point."""

from __future__ import annotations

from mallet.restoratives.gold.cutting import TOOLS, steady
from mallet.restoratives.gold.shape import Shape
from mallet.rulebook.steps import catalog_step
from mallet.stages.finish_steps import occlusion_step, verified
from mallet.stages.isolate import field_off
from mallet.stages.site import Site
from mallet.terms.plan import Decision, StageResult, Step
from mallet.terms.reasons import say


def turning(shape: Shape) -> dict[str, str]:
    """Return toward which side a stone or disc turns at each margin: off the gold, onto the tooth beside it."""
    return {margin: f"{margin}ly" if margin != "facial" else "facially" for margin in shape.margins}


def finish(site: Site, last: str, shape: Shape) -> StageResult:
    """Return the steps once the last gold is in, `last` being that step's id."""
    case, rules = site.case, site.rules
    steps: list[Step] = []

    def then(step: Step) -> None:
        steps.append(step.model_copy(update={"after": [steps[-1].id if steps else last]}))

    turns = turning(shape)
    then(catalog_step("gold.burnish", rules))
    then(catalog_step("gold.stone", rules))
    is_in_groove = shape.part.face != "lingual" and site.cavity.tooth.is_posterior
    if is_in_groove:
        then(catalog_step("gold.flame", rules))
    if shape.is_beside:
        then(catalog_step("gold.strip", rules))
    then(catalog_step("gold.discs", rules, {"lower": shape.ends.lower}))
    then(catalog_step("gold.judge", rules, {"into": " into the groove" if is_in_groove else ""}))
    if (how := steady(site, shape)) in TOOLS:
        then(catalog_step("gold.steady_off", rules, {"tool": TOOLS[how]}))
    then(field_off(case, last, rules))
    if not case.is_unbitten:
        then(occlusion_step(case, rules))
    looked, _ = verified(case, steps[-1].id, "finish.trim", rules)
    tell = catalog_step("gold.tell", rules, {"numb": True}, after=[looked.id])
    decision = Decision(
        topic="finish.turning",
        chosen="; ".join(f"{margin} margin: turns {way}" for margin, way in turns.items()),
        alternatives=[],
        reasons=[say("gold.turning"), say("gold.no_heat")],
    )
    return StageResult(
        says="burnish, stone from gold to tooth, discs", decisions=[decision], steps=[*steps, looked, tell]
    )
