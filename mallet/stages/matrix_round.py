"""What goes all round a tooth: a copper band for a core, a crown form for a stump."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.rulebook import Rulebook
from mallet.stages.hand import hand_step
from mallet.terms.case import Case
from mallet.terms.plan import Decision, StageResult, Step, StepCheck
from mallet.terms.reasons import say

COPPER, FORM = "contoured copper band", "clear strip crown form"
ANNEALED, AS_DRAWN = "annealed", "hard"


def copper_steps(case: Case, height_mm: float, after: Sequence[str], rules: Rulebook) -> list[Step]:
    """Return how a copper band is cut to the tooth and placed; wedges and the test of its seal come after."""
    anneal = (
        " Heat it to dull red and quench it: it then burnishes."
        if case.techniques.copper == "annealed"
        else ""
    )
    trim = hand_step(
        id="matrix.copper.trim",
        title="Cut the copper band to the tooth",
        detail=f"Mark it along the gingiva and the ridges, {height_mm:.1f} mm; trim, smooth the edges, contour.{anneal}",
        rule=rules.use("matrix.copper_trim_s"),
        tray=["copper bands", "crown scissors", "contouring pliers", "stone"],
        after=list(after),
    )
    bite = hand_step(
        id="matrix.copper.bite",
        title="Try the copper band in all occlusal contacts",
        detail="Closed, and slid to every side.",
        rule=rules.use("matrix.copper_bite_s"),
        tray=["articulating paper"],
        after=[trim.id],
        check=StepCheck(
            question="Clear of the occlusion everywhere, and past the margin all round without blanching the gingiva?",
            remedy="Trim where it touches, smooth, and try again.",
            back_to=trim.id,
        ),
    )
    place = hand_step(
        id="matrix.copper.band",
        title="Place the copper band",
        detail="Seat it past the shoulder all round; burnish it against the contacts.",
        rule=rules.use("chair.band_s"),
        tray=["burnisher"],
        after=[bite.id],
    )
    return [trim, bite, place]


def copper_decision(case: Case, rules: Rulebook) -> Decision:
    """Return whether a copper band is annealed, by technique, and how long it stays."""
    chosen, other = (ANNEALED, AS_DRAWN) if case.techniques.copper == "annealed" else (AS_DRAWN, ANNEALED)
    hours = rules.use("matrix.copper_amalgam_h")
    reason = say("matrix.copper_annealed") if chosen == ANNEALED else say("matrix.copper_as_drawn")
    return Decision(
        topic="matrix.copper",
        chosen=f"{COPPER}, {chosen}; off once the core is cured",
        alternatives=[other],
        reasons=[reason, say("matrix.copper_stays", hours=hours.value)],
        rules=[hours],
    )


def crown_form(after: Sequence[str], rules: Rulebook) -> StageResult:
    """Return the trial of a crown form, before the acid."""
    trim = hand_step(
        id="matrix.form.trim",
        title="Cut the strip crown form to the tooth",
        detail="To the gingival line, just past the margin; a vent at each corner of the edge.",
        rule=rules.use("matrix.form_trim_s"),
        tray=["crown forms", "crown scissors", "probe"],
        after=list(after),
    )
    seat = hand_step(
        id="matrix.form.seal",
        role="seal",
        title="Try the strip crown form in",
        detail="Before the acid. Bleeding is stopped first.",
        rule=rules.use("matrix.form_try_s"),
        tray=["strip crown form", "cotton"],
        after=[trim.id],
        check=StepCheck(
            question="Does it seat past the margin, in line with the adjacent tooth, the gingiva dry?",
            remedy="Trim it, or take the next size.",
            back_to=trim.id,
        ),
    )
    chosen = Decision(
        topic="matrix.form",
        chosen=f"{FORM}, trimmed and vented",
        alternatives=["free hand with strips"],
        reasons=[say("matrix.form")],
        rules=rules.uses("matrix.form_trim_s", "matrix.form_try_s"),
    )
    return StageResult(decisions=[chosen], steps=[trim, seat])
