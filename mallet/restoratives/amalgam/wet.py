"""What has to be done again when moisture meets amalgam, or when a mix is too old: the mix in hand. Common practice, no
source."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.terms.plan import Step, Wet
from mallet.terms.reasons import say

ASSISTANT = "assistant"
LOOKED = ".look"


def with_wet(steps: Sequence[Step]) -> list[Step]:
    """Return the steps in the same order, each that is stepped through with what wet would undo, and each that condenses
    with what a mix that is too old does."""
    stepped = [step for step in steps if step.actor != ASSISTANT]
    sealing = [step.id for step in stepped if step.stage == "bond"]
    known = {step.id: _wet(step, stepped[:i], sealing) for i, step in enumerate(stepped)}
    stale = {step.id: _stale(stepped[:i]) for i, step in enumerate(stepped) if step.rhythm}
    return [
        step.model_copy(update={"wet": known.get(step.id), "stale": stale.get(step.id)}) for step in steps
    ]


def _stale(before: Sequence[Step]) -> Wet:
    """Return that a fresh mix is made: what is condensed of the old one stays."""
    looked = [one.id for one in before if one.id.endswith(LOOKED)]
    return Wet(redo=looked[-1:], reason=say("amalgam.stale"))


def _wet(step: Step, before: Sequence[Step], sealing: Sequence[str]) -> Wet:
    done = [one.id for one in before]
    if step.stage == "build" and step.increment is not None:
        # From the look at the mix in hand on.
        looks = [i for i, one in enumerate(before) if one.id.endswith(LOOKED)]
        hand = done[looks[-1] :] if looks else []
        return Wet(redo=hand, reason=say("wet.in_mix"))
    if any(one.increment for one in before):
        return Wet(redo=[], reason=say("wet.packed"))
    again = [id for id in sealing if id in done]
    return Wet(redo=again, reason=say("wet.in_cavity" if again else "wet.before_bond"))
