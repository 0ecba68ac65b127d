"""What has to be done again when glass ionomer gets wet: before it has set it comes out, after that nothing does. A layer
that light has set stays, and only the one in hand comes out.

Common practice, no source.
"""

from __future__ import annotations

from collections.abc import Sequence

from mallet.terms.plan import Step, Wet
from mallet.terms.reasons import say

ASSISTANT = "assistant"


def with_wet(steps: Sequence[Step]) -> list[Step]:
    """Return the steps in the same order, each that is stepped through with what wet would undo."""
    stepped = [step for step in steps if step.actor != ASSISTANT]
    conditioning = [step.id for step in stepped if step.stage == "bond"]
    placing = [step.id for step in stepped if step.increment is not None]
    known = {step.id: _wet(step, stepped[:i], conditioning, placing) for i, step in enumerate(stepped)}
    return [step.model_copy(update={"wet": known.get(step.id)}) for step in steps]


def _wet(step: Step, before: Sequence[Step], conditioning: Sequence[str], placing: Sequence[str]) -> Wet:
    done = {one.id for one in before}
    if step.id in conditioning:
        again = [id for id in conditioning if id in done]
        return Wet(redo=again, reason=say("wet.in_conditioning" if again else "wet.before_bond"))
    cured = [one.increment for one in before if one.light and one.increment]
    if cured and not done.issuperset(placing):
        current = [one.id for one in before if one.increment is not None and one.increment > max(cured)]
        return Wet(redo=[*conditioning, *current], reason=say("wet.lit_layer"))
    if step.id in placing or (done.issuperset(conditioning) and not done.issuperset(placing)):
        again = [*conditioning, *(id for id in placing if id in done)]
        return Wet(redo=again, reason=say("wet.unset"))
    is_set = done.issuperset(placing)
    return Wet(redo=[], reason=say("wet.set" if is_set else "wet.before_bond"))
