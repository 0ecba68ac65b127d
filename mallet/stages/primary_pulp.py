"""The open pulp of a primary tooth: whether treating it still serves, and by what it is covered."""

from __future__ import annotations

from dataclasses import dataclass, field

from mallet.rulebook import Rulebook
from mallet.stages.protect_steps import OPENED
from mallet.terms.case import Case
from mallet.terms.pieces import Reason
from mallet.terms.plan import Assumption, Caution
from mallet.terms.reasons import say, warn, warn_by
from mallet.tooth import read_tooth
from mallet.tooth.shedding import SOURCE, months_to_shedding

GUIDELINE = "American Academy of Pediatric Dentistry, pulp therapy for primary teeth (from memory)"


@dataclass(frozen=True)
class Treated:
    """What is said of the treatment of a primary tooth's pulp."""

    reasons: list[Reason] = field(default_factory=list)
    cautions: list[Caution] = field(default_factory=list)
    assumptions: list[Assumption] = field(default_factory=list)


def treat_primary_pulp(case: Case, rules: Rulebook) -> Treated:
    """Return for how long a primary tooth whose pulp was opened has still to serve, and what to be careful with; nothing of
    any other tooth."""
    tooth = read_tooth(case.tooth.code)
    if not tooth.is_deciduous or case.protection.exposure not in OPENED:
        return Treated()
    treated = Treated()
    if case.protection.exposure == "cap":
        treated.cautions.append(warn("caution", "protect.cap_primary", GUIDELINE))
    months = case.protection.months_to_shedding
    if months is None and case.patient.age_years is not None:
        months = months_to_shedding(tooth, case.patient.age_years)
        treated.assumptions.append(
            Assumption(
                path="protection.months_to_shedding",
                value=months,
                unit="months",
                provenance="handbook",
                why=f"by the age: {SOURCE}",
            )
        )
    if months is None:
        treated.cautions.append(warn("note", "protect.shed_unknown", SOURCE))
        return treated
    least = rules.use("protect.shed_soon_months")
    if months < least.value:
        treated.cautions.append(warn_by("caution", "protect.shed_soon", least, months=months))
    else:
        treated.reasons.append(say("protect.shed_later", months=months))
    return treated
