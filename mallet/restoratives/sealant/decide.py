"""Whether a fissure is sealed: what lies below it, and whether it can be kept dry."""

from __future__ import annotations

from mallet.terms.case import Case
from mallet.terms.plan import Caution
from mallet.terms.reasons import refuse, warn

PRACTICE = "Common practice, no source"


def judge_fissure(case: Case) -> list[Caution]:
    """Return what to be careful with; raise NotFeasible where an old sealant was lost and nobody has looked, and where an
    erupting tooth cannot be kept dry."""
    findings = case.findings
    if findings.cause == "lost_sealant" and findings.caries_found is None:
        raise refuse("sealant.lost")
    if findings.field == "wet" or (findings.eruption == "erupting" and findings.field != "dam"):
        raise refuse("sealant.wet")
    if findings.eruption == "erupting":
        return [warn("caution", "sealant.erupting", PRACTICE)]
    return []
