"""Know the tooth: what stops a filling before it is chosen, and what was seen and measured before cutting."""

from __future__ import annotations

from mallet.rulebook import Rulebook
from mallet.stages.hand import hand_step
from mallet.terms.case import Case
from mallet.terms.mouth import Findings
from mallet.terms.plan import Caution, Decision, StageResult, Step
from mallet.terms.reasons import refuse, say, warn

CAUSES = {
    "decay": "decay",
    "decay_beside_filling": "decay beside an old filling",
    "lost_sealant": "lost or leaking sealant",
    "fracture": "fracture",
    "wear": "wear or notch at the neck",
    "cracked_cusp": "cracked cusp",
    "core": "core under a crown",
    "wish": "replacement on request",
}
SIGNS = {
    ("pain", "lingering"): "pain that lingers",
    ("pain", "spontaneous"): "pain by itself",
    ("percussion", "tender"): "tenderness on percussion",
    ("cold", "lingering"): "an answer to cold that lingers",
}
TEXTBOOKS = "Textbooks of endodontics (from memory)"


def diagnosis_gate(case: Case) -> None:
    """Raise NotFeasible where it is in doubt which tooth it is, or whether its pulp will live.

    Signs of a pulp in trouble are doubt until somebody has said how the pulp is.
    """
    findings = case.findings
    if not findings.surely_this_tooth:
        raise refuse("assess.which_tooth", {"findings.surely_this_tooth": True})
    if findings.pulp == "in_doubt":
        raise refuse("assess.pulp_in_doubt", {"findings.pulp": "sound"})
    if findings.pulp == "irreversible":
        raise refuse("assess.pulp_irreversible")
    if case.tooth.vitality == "vital" and "pulp" not in findings.model_fields_set and signs_of(case):
        raise refuse("assess.signs", {"findings.pulp": "reversible"}, signs=" and ".join(signs_of(case)))


def signs_of(case: Case) -> list[str]:
    """Return the signs of a pulp in trouble, in words; of a vital tooth also that cold is not felt."""
    findings = case.findings
    found = [text for (name, value), text in SIGNS.items() if getattr(findings, name) == value]
    if case.tooth.vitality == "vital" and findings.cold == "no_answer":
        found.append("no answer to cold")
    return found


def assess(case: Case, rules: Rulebook) -> StageResult:
    """Return what is known of the tooth, what to be careful with, and what is still to be marked and measured
    before anything is cut."""
    findings = case.findings
    reasons = [say("assess.cause", cause=CAUSES[findings.cause])]
    if told := _heights(case):
        reasons.append(say("assess.heights", heights=told))
    if findings.seen_beside:
        reasons.append(say("assess.booked", what=findings.seen_beside))
    decision = Decision(
        topic="assess.diagnosis",
        chosen=_diagnosis(findings, case.tooth.vitality),
        alternatives=[],
        reasons=reasons,
    )
    return StageResult(decisions=[decision], cautions=_cautions(case), steps=_steps(case, rules))


def _steps(case: Case, rules: Rulebook) -> list[Step]:
    steps: list[Step] = []
    if case.is_unbitten:
        return steps
    if not case.findings.bite_marked:
        steps.append(
            hand_step(
                id="assess.bite",
                title="Mark the bite",
                detail="Paper in closure and in side movements; look where a base and the filling will stand.",
                rule=rules.use("chair.mark_bite_s"),
                tray=["bite paper"],
            )
        )
    if not (case.face_part or _heights(case)):
        steps.append(
            hand_step(
                id="assess.heights",
                title="Take the heights",
                detail="Cusp tips against the row, from cheek and tongue side; groove; both ridges. For the carving.",
                rule=rules.use("chair.heights_s"),
                tray=["periodontal probe with millimetres"],
            )
        )
    return steps


def _diagnosis(findings: Findings, vitality: str) -> str:
    if vitality != "vital":
        return f"{CAUSES[findings.cause]}, {vitality.replace('_', ' ')}"
    return f"{CAUSES[findings.cause]}, pulp {findings.pulp}"


def _heights(case: Case) -> str:
    """Return the heights taken before cutting, in words; empty, where none were."""
    names = {
        "cusps_mm": "cusps",
        "groove_mm": "groove",
        "mesial_ridge_mm": "mesial ridge",
        "distal_ridge_mm": "distal ridge",
    }
    values = case.heights.model_dump()
    told = [(name, values[key]) for key, name in names.items() if values[key] is not None]
    return ", ".join(f"{name} {_signed(mm)} mm" for name, mm in told)


def _signed(mm: float) -> str:
    """Return a height with its sign, a level one without."""
    return f"{mm:+.1f}".replace("-", "\u2212") if round(mm, 1) else "0.0"


def carving_hint(case: Case) -> str:
    """Return the heights once more, for the hand that carves; empty, where none were taken."""
    told = _heights(case)
    return f" Before cutting: {told}." if told else ""


def _cautions(case: Case) -> list[Caution]:
    findings, cautions = case.findings, []
    if case.tooth.vitality == "vital" and (signs := signs_of(case)):
        cautions.append(
            warn("caution", "assess.signs_told", TEXTBOOKS, signs=" and ".join(signs), pulp=findings.pulp)
        )
    if findings.pain == "on_biting" and not findings.cracked:
        cautions.append(warn("caution", "assess.bite_pain", "Common practice, no source"))
    if findings.cause == "lost_sealant":
        cautions.append(warn("note", "assess.sealant", "Common practice, no source"))
    return cautions
