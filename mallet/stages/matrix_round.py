"""What goes all round a tooth: a copper band for a core, a crown form for a stump."""

from __future__ import annotations

from collections.abc import Sequence

from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.terms.case import Case
from mallet.terms.plan import Decision, StageResult, Step
from mallet.terms.reasons import say

COPPER, FORM = "contoured copper band", "clear strip crown form"
ANNEALED, AS_DRAWN = "annealed", "hard"


def copper_steps(case: Case, height_mm: float, after: Sequence[str], rules: Rulebook) -> list[Step]:
    """Return how a copper band is cut to the tooth and placed; wedges and the test of its seal come after."""
    told = {"height_mm": height_mm, "anneal": case.techniques.copper == "annealed"}
    trim = catalog_step("matrix.copper_trim", rules, told, after=list(after))
    bite = catalog_step("matrix.copper_bite", rules, after=[trim.id])
    place = catalog_step("matrix.copper_band", rules, after=[bite.id])
    return [trim, bite, place]


def copper_decision(case: Case, rules: Rulebook) -> Decision:
    """Return whether a copper band is annealed, by technique, and how long it stays."""
    chosen, other = (ANNEALED, AS_DRAWN) if case.techniques.copper == "annealed" else (AS_DRAWN, ANNEALED)
    hours = rules.use("matrix.copper_amalgam_h")
    reason = say("matrix.copper_annealed") if chosen == ANNEALED else say("matrix.copper_as_drawn")
    stays = case.restoration.is_condensed
    return Decision(
        topic="matrix.copper",
        chosen=f"{COPPER}, {chosen}; {'on until the second visit' if stays else 'off once the core is cured'}",
        alternatives=[other],
        reasons=[reason, say("matrix.copper_on" if stays else "matrix.copper_stays", hours=hours.value)],
        rules=[hours],
    )


def crown_form(after: Sequence[str], rules: Rulebook) -> StageResult:
    """Return the trial of a crown form, before the acid."""
    trim = catalog_step("matrix.form_trim", rules, after=list(after))
    seat = catalog_step("matrix.form_seal", rules, after=[trim.id])
    chosen = Decision(
        topic="matrix.form",
        chosen=f"{FORM}, trimmed and vented",
        alternatives=["free hand with strips"],
        reasons=[say("matrix.form")],
        rules=rules.uses("matrix.form_trim_s", "matrix.form_try_s"),
    )
    return StageResult(decisions=[chosen], steps=[trim, seat])
