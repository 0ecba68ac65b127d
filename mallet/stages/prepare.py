"""The preparation as measured: what its floor and margins mean for what follows."""

from __future__ import annotations

from mallet.cavity.preparation import Cavity, Tool
from mallet.rulebook import Rulebook
from mallet.stages.hand import hand_step
from mallet.stages.prepare_checks import checks_of, gauge
from mallet.terms.case import Case
from mallet.terms.plan import Caution, Check, Decision, StageResult, Step, StepCheck
from mallet.terms.reasons import say, warn, warn_by


def judge_preparation(case: Case, cavity: Cavity, after: str, rules: Rulebook) -> StageResult:
    """Return what the preparation is held against, and the verifying step, which comes after another one."""
    cautions = [c for box in cavity.boxes if (c := _margin(cavity, box, rules))]
    least = rules.value("tooth.least_remaining_dentin_mm")
    left = cavity.remaining_dentin_mm
    check = Check(
        topic="remaining_dentin",
        title="Dentin left over the pulp",
        measured=round(left, 2),
        needed=least,
        relation="at_least",
        unit="mm",
        verdict="pass" if left >= least else "fail",
        remedy="Stop: look for an exposure and decide on protection before bonding.",
        where="deepest wall towards the pulp",
        rules=rules.uses("tooth.least_remaining_dentin_mm"),
    )
    cautions += _pulp(left, cavity.handbook_dentin_mm, least, rules)
    steps = [_verify(after, rules)]
    return StageResult(
        decisions=[*_spans(cavity), gauge(case, rules)],
        checks=[check, *checks_of(case, cavity, rules)],
        cautions=cautions,
        steps=steps,
    )


def _pulp(left: float, handbook: float, least: float, rules: Rulebook) -> list[Caution]:
    use = rules.use("tooth.least_remaining_dentin_mm")
    if handbook < least <= left:
        given, estimated = round(left, 1), round(handbook, 1)
        return [warn_by("caution", "pulp.disagrees", use, given_mm=given, estimated_mm=estimated)]
    if left < least:
        return [warn_by("stop", "pulp.very_close", use, remaining_mm=round(left, 2))]
    if left < 2 * least:
        return [warn_by("caution", "pulp.close", use, remaining_mm=round(left, 2))]
    return []


def _margin(cavity: Cavity, box: Tool, rules: Rulebook) -> Caution | None:
    side = box.side or "mesial"
    above = cavity.above_cervical_mm(box)
    authority = "Common practice, no source"
    if above < 0:
        return warn("caution", "margin.in_dentin", authority, side=side, below_mm=round(-above, 1))
    if above < rules.value("tooth.thin_enamel_mm"):
        return warn("note", "margin.thin_enamel", authority, side=side, above_mm=round(above, 1))
    return None


def _spans(cavity: Cavity) -> list[Decision]:
    if not cavity.spans_walls:
        return []
    length, given = cavity.spans_walls
    reason = say("occlusal_box.meets_walls", length_mm=round(length, 2), given_mm=given)
    chosen = f"length {length:.2f} mm"
    return [Decision(topic="prepare.occlusal_box", chosen=chosen, alternatives=[], reasons=[reason])]


def _verify(after: str, rules: Rulebook) -> Step:
    return hand_step(
        id="prepare.verify",
        title="Verify the preparation",
        detail="Spoon and gentle probe: hard all round. Margins on sound tooth. Depths as planned.",
        rule=rules.use("chair.verify_s"),
        tray=["spoon excavator", "probe", "periodontal probe with millimetres"],
        after=[after],
        check=StepCheck(
            question="Periphery hard, depths as planned, and still the right restorative now that it is open?",
            remedy="Remove what is soft, measure again, choose again and plan anew.",
            back_to="prepare.verify",
        ),
    )
