"""The adjacent tooth's contact: what it asks for as it was, and its smoothing where no band would lie against it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from mallet.cavity.neighbours import Beside
from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.terms.pieces import RuleUse
from mallet.terms.plan import Caution, Check, StageResult
from mallet.terms.reasons import warn

PRACTICE = "Common practice, no source"
# Contacts that no band lies against.
SMOOTHED = {"concave": "concave", "too_high": "too high"}


def adjacent(beside: Beside, after: Sequence[str], rules: Rulebook) -> StageResult:
    """Return what the contact that was there before cutting asks for, its smoothing after some steps."""
    contact, tooth = beside.given.contact, beside.tooth.iso
    if contact == "open":
        return StageResult(cautions=[warn("caution", "neighbour.open", PRACTICE, tooth=tooth)])
    if contact == "tight":
        return StageResult(cautions=[warn("note", "neighbour.tight", PRACTICE, tooth=tooth)])
    return _smoothed(beside, after, rules) if contact in SMOOTHED else StageResult()


@dataclass(frozen=True)
class _Smoothing:
    """How much enamel comes off a contact, how much there is, and by which rules where nobody told."""

    off_mm: float
    enamel_mm: float
    rules: Sequence[RuleUse]

    @property
    def left_mm(self) -> float:
        return round(self.enamel_mm - self.off_mm, 2)


def _smoothing(beside: Beside, rules: Rulebook) -> _Smoothing:
    given = beside.given
    used = []
    off_mm, enamel_mm = given.smooth_mm, given.enamel_mm
    if off_mm is None:
        used.append(rules.use("matrix.smooth_mm"))
        off_mm = used[-1].value
    if enamel_mm is None:
        used.append(
            rules.use("tooth.deciduous_enamel_mm" if beside.tooth.is_deciduous else "tooth.enamel_contact_mm")
        )
        enamel_mm = used[-1].value
    return _Smoothing(off_mm, enamel_mm, used)


def _smoothed(beside: Beside, after: Sequence[str], rules: Rulebook) -> StageResult:
    given, tooth, side = beside.given, beside.tooth.iso, beside.side
    made = _smoothing(beside, rules)
    consent = {"asked": not given.agreed, "agreement": not given.agreed, "agreed": given.agreed}
    told = {"side": side, "tooth": tooth, "off_mm": made.off_mm, **consent}
    step = catalog_step("matrix.smooth", rules, told, after=list(after))
    return StageResult(
        steps=[step],
        checks=[_enamel_left(beside, made, rules)],
        cautions=[] if given.agreed else [_caution(beside)],
    )


def _caution(beside: Beside) -> Caution:
    contact = SMOOTHED[beside.given.contact]
    return warn("caution", "neighbour.smoothed", PRACTICE, tooth=beside.tooth.iso, contact=contact)


def _enamel_left(beside: Beside, made: _Smoothing, rules: Rulebook) -> Check:
    least = rules.use("matrix.least_adjacent_enamel_mm")
    may_mm = max(made.enamel_mm - least.value, 0.0)
    how = "measured" if beside.given.enamel_mm is not None else "by handbook"
    return Check(
        topic=f"adjacent.{beside.side}",
        title=f"Enamel left at the contact of {beside.tooth.iso}",
        measured=made.left_mm,
        needed=least.value,
        relation="at_least",
        unit="mm",
        verdict="pass" if made.left_mm >= least.value - 1e-9 else "fail",
        remedy=f"Take off no more than {may_mm:.1f} mm; else shape a clear band to the contact by hand.",
        where=f"{made.off_mm:g} mm off {made.enamel_mm:g} mm, {how}",
        rules=[least, *made.rules],
    )
