"""What keeps a neck lesion dry and shapes it: a folded strip, or no more than a cord."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.rulebook import Rulebook
from mallet.stages.hand import hand_step
from mallet.terms.case import Case
from mallet.terms.plan import Decision, StageResult, StepCheck
from mallet.terms.reasons import say

STRIP, FREE = "folded neck strip", "free hand, cord in the sulcus"


def neck_matrix(case: Case, after: Sequence[str], rules: Rulebook) -> StageResult:
    """Return the strip where the margin lies below the gum; `after` are the steps that must be done before."""
    if not case.findings.below_gum:
        free = Decision(
            topic="matrix.neck", chosen=FREE, alternatives=[STRIP], reasons=[say("matrix.neck_free")]
        )
        return StageResult(decisions=[free])
    strip = hand_step(
        id="matrix.neck.strip",
        title="Neck strip in",
        detail="Clear strip folded and flared, its edge under the gingival margin. A fine bendable brush goes past it.",
        rule=rules.use("matrix.neck_strip_s"),
        tray=["clear strip", "cotton forceps", "fine bendable brush"],
        after=list(after),
    )
    seal = hand_step(
        id="matrix.neck.seal",
        title="Pack and fix the strip",
        detail="Cotton or tape at both sides; unfilled resin where it meets the gum, and light on that.",
        rule=rules.use("matrix.neck_seal_s"),
        tray=["cotton", "tape", "unfilled resin"],
        after=[strip.id],
        check=StepCheck(
            question="Does it stay dry under the margin, and no step felt from tooth to strip?",
            remedy="Take it out, dry, and set it deeper.",
            back_to=strip.id,
        ),
    )
    chosen = Decision(
        topic="matrix.neck",
        chosen=STRIP,
        alternatives=[FREE],
        reasons=[say("matrix.neck_strip")],
        rules=rules.uses("matrix.neck_strip_s", "matrix.neck_seal_s"),
    )
    return StageResult(decisions=[chosen], steps=[strip, seal])
