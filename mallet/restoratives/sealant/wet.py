"""What has to be done again when saliva meets a fissure that is being sealed. Common practice, no source."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.terms.plan import Step, Wet
from mallet.terms.reasons import say

ASSISTANT = "assistant"


def with_wet(steps: Sequence[Step]) -> list[Step]:
    """Return the steps in the same order, each that is stepped through with what wet would undo: from the etch on, on its
    own tooth, until its resin is cured."""
    stepped = [step for step in steps if step.actor != ASSISTANT]
    known = {step.id: _wet(step, stepped[:i]) for i, step in enumerate(stepped)}
    return [step.model_copy(update={"wet": known.get(step.id)}) for step in steps]


def _tooth(step: Step) -> str:
    """Return which other tooth a step is for; nothing for the first, or for all."""
    last = step.id.rpartition(".")[2]
    return last if last.isdigit() else ""


def _wet(step: Step, before: Sequence[Step]) -> Wet:
    etched = [one.id for one in before if one.stage == "bond"]
    if step.stage == "bond":
        return Wet(redo=etched, reason=say("wet.etched" if etched else "wet.before_bond"))
    if step.stage == "build":
        placed = [one.id for one in before if one.stage == "build" and _tooth(one) == _tooth(step)]
        return Wet(redo=[*etched, *placed], reason=say("wet.resin"))
    is_cured = any(one.stage == "build" for one in before)
    return Wet(redo=[], reason=say("wet.sealed" if is_cured else "wet.before_bond"))
