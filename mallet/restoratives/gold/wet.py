"""What has to be done again when moisture meets gold: the wet layer comes out, fresh gold goes on clean gold. Common practice,
no source."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.terms.plan import Step, Wet
from mallet.terms.reasons import say


def with_wet(steps: Sequence[Step]) -> list[Step]:
    """Return the steps in the same order, each with what wet undoes while it is done."""
    sealing = [step.id for step in steps if step.stage == "bond"]
    found = []
    for i, step in enumerate(steps):
        before = [one.id for one in steps[:i]]
        if step.increment is not None:
            wet = Wet(redo=[], reason=say("gold.wet"))
        elif any(one.increment for one in steps[:i]):
            wet = Wet(redo=[], reason=say("gold.wet_after"))
        else:
            again = [id for id in sealing if id in before]
            wet = Wet(redo=again, reason=say("gold.wet_cavity" if again else "wet.before_bond"))
        found.append(step.model_copy(update={"wet": wet}))
    return found
