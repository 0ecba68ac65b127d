"""Know the tooth: what stops a restoration before it is chosen, and what was seen and measured before cutting."""

from __future__ import annotations

from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.terms.case import Case
from mallet.terms.mouth import Findings
from mallet.terms.parts import StripCrownPreparation
from mallet.terms.pieces import Reason
from mallet.terms.plan import Caution, Decision, StageResult, Step
from mallet.terms.reasons import refuse, say, signed, warn

CAUSES = {
    "caries": "caries",
    "caries_adjacent": "caries adjacent to a restoration",
    "deep_fissures": "deep fissures, to be sealed",
    "lost_sealant": "lost or leaking sealant",
    "fracture": "fracture",
    "wear": "cervical wear or wedge-shaped lesion",
    "cracked_cusp": "cracked cusp",
    "core": "core under a crown",
    "patient_request": "replacement on request",
}
SIGNS = {
    ("pain", "lingering"): "pain that lingers",
    ("pain", "spontaneous"): "spontaneous pain",
    ("percussion", "tender"): "tenderness on percussion",
    ("cold", "lingering"): "a lingering response to cold",
    ("swelling", "swelling"): "swelling",
    ("swelling", "sinus_tract"): "a sinus tract",
}
ALERTS = {
    "anticoagulants": "anticoagulants",
    "pacemaker": "pacemaker",
    "endocarditis_risk": "risk of endocarditis",
    "light_sensitizing": "light-sensitizing medicine",
    "heart_disease": "heart disease",
    "beta_blocker_or_tricyclic": "nonselective beta blocker or tricyclic",
    "methemoglobinemia": "methemoglobinemia",
    "pregnant": "pregnancy",
    "breast_feeding": "breast feeding",
}
ALLERGIES = {
    "resin": "resin",
    "latex": "latex",
    "mercury": "mercury",
    "chlorhexidine": "chlorhexidine",
    "anesthetic": "local anesthetic",
    "sulfite": "sulfite",
    "metals": "metals",
    "eugenol": "eugenol",
    "other": "another substance",
}
HISTORY_SOURCE = "Patient's history"
PULPS = {"normal": "normal pulp", "reversible": "reversible pulpitis"}
TEXTBOOKS = "Textbooks of endodontics (from memory)"


def diagnosis_gate(case: Case) -> None:
    """Raise NotFeasible where it is in doubt which tooth it is, or whether its pulp will live.

    Signs of a pulp in trouble are doubt until somebody has said how the pulp is, and signs that contradict what was said
    are doubt again. No finding is ever named as what would do.
    """
    findings = case.findings
    if findings.tooth_confirmed is False:
        raise refuse("assess.which_tooth")
    if case.tooth.vitality == "necrotic":
        raise refuse("assess.necrotic")
    if findings.pulp == "pending":
        raise refuse("assess.pulp_in_doubt")
    if findings.pulp == "irreversible":
        raise refuse("assess.pulp_irreversible")
    if not case.has_living_pulp:
        return
    if findings.pulp is None and (signs := signs_of(case)):
        raise refuse("assess.signs", signs=" and ".join(signs))
    if against := _contradicting(case):
        raise refuse("assess.contradiction", signs=" and ".join(against), pulp=PULPS[findings.pulp or ""])


def not_confirmed(case: Case) -> list[Reason]:
    """Return what nobody has told without which work may not start: nothing is taken in its place."""
    wanted = []
    if case.findings.tooth_confirmed is None:
        wanted.append(say("assess.wants_tooth", tooth=case.tooth.code))
    if case.has_living_pulp and case.findings.pulp is None:
        wanted.append(say("assess.wants_pulp"))
    return wanted


def _contradicting(case: Case) -> list[str]:
    """Return the signs, in words, that do not go with how the pulp is said to be."""
    findings, found = case.findings, signs_of(case)
    if findings.pulp == "normal":
        return found
    if findings.pulp == "reversible":
        return [text for text in found if text != SIGNS["percussion", "tender"]]
    return []


def signs_of(case: Case) -> list[str]:
    """Return the signs of a pulp in trouble, in words; of a vital tooth also that cold is not felt."""
    findings = case.findings
    found = [text for (name, value), text in SIGNS.items() if getattr(findings, name) == value]
    if case.tooth.vitality == "vital" and findings.cold == "no_response":
        found.append("no response to cold")
    return found


def assess(case: Case, rules: Rulebook) -> StageResult:
    """Return what is known of the tooth, what to be careful with, and what is still to be marked and measured
    before anything is cut."""
    findings = case.findings
    reasons = [say("assess.cause", cause=CAUSES[findings.cause])]
    if told := _heights(case):
        reasons.append(say("assess.heights", heights=told))
    if findings.seen_on_other_teeth:
        reasons.append(say("assess.booked", what=findings.seen_on_other_teeth))
    decision = Decision(
        topic="assess.diagnosis",
        chosen=_diagnosis(findings, case.tooth.vitality),
        alternatives=[],
        reasons=reasons,
    )
    return StageResult(decisions=[decision], cautions=_cautions(case), steps=_steps(case, rules))


HISTORY = "assess.history"


def history_step(case: Case, rules: Rulebook) -> Step:
    """Return the step that comes before the injection: what may stand against it is asked again today."""
    alerts = [text for name, text in ALERTS.items() if getattr(case.patient, name)]
    alerts += [f"allergy: {ALLERGIES[one]}" for one in case.patient.allergies]
    return catalog_step("assess.history", rules, {"known": bool(alerts), "alerts": ", ".join(alerts)})


def _steps(case: Case, rules: Rulebook) -> list[Step]:
    steps = [history_step(case, rules)]
    if case.is_unbitten or case.restoration.is_in_enamel:
        return steps
    if not case.findings.occlusion_marked:
        steps.append(catalog_step("assess.bite", rules))
    is_broken_off = any(isinstance(part, StripCrownPreparation) for part in case.preparation.parts)
    if not (case.face_part or _heights(case) or is_broken_off):
        steps.append(catalog_step("assess.heights", rules))
    return steps


def _diagnosis(findings: Findings, vitality: str) -> str:
    if vitality != "vital":
        return f"{CAUSES[findings.cause]}, root canal-treated"
    if findings.pulp is None:
        return f"{CAUSES[findings.cause]}; pulp not diagnosed"
    return f"{CAUSES[findings.cause]}, {PULPS[findings.pulp]}"


def _heights(case: Case) -> str:
    """Return the heights taken before cutting, in words; empty, where none were."""
    names = {
        "cusps_mm": "cusps",
        "groove_mm": "groove",
        "mesial_ridge_mm": "mesial ridge",
        "distal_ridge_mm": "distal ridge",
    }
    heights = case.reference_heights
    told = [(name, mm) for key, name in names.items() if (mm := getattr(heights, key)) is not None]
    told += [(f"{cusp} cusp", one.above_mm) for cusp, one in heights.by_cusp if one.above_mm is not None]
    return ", ".join(f"{name} {signed(mm)} mm" for name, mm in told)


def carving_hint(case: Case) -> str:
    """Return the heights once more, for the hand that carves; empty, where none were taken."""
    told = _heights(case)
    return f" Before cutting: {told}." if told else ""


def _cautions(case: Case) -> list[Caution]:
    findings, cautions = case.findings, _alerts(case)
    if case.tooth.vitality == "vital" and (signs := signs_of(case)):
        cautions.append(
            warn(
                "caution",
                "assess.signs_told",
                TEXTBOOKS,
                signs=" and ".join(signs),
                pulp=PULPS.get(findings.pulp or "", "not diagnosed"),
            )
        )
    if findings.pain == "on_biting" and not findings.cracked:
        cautions.append(warn("caution", "assess.bite_pain", "Common practice, no source"))
    if findings.cause == "lost_sealant":
        cautions.append(warn("note", "assess.sealant", "Common practice, no source"))
    return cautions


def _alerts(case: Case) -> list[Caution]:
    """Return what the patient's history asks for, whatever is placed."""
    patient, cautions = case.patient, []
    if patient.endocarditis_risk:
        cautions.append(warn("caution", "alert.endocarditis", HISTORY_SOURCE))
    if patient.anticoagulants:
        cautions.append(warn("caution", "alert.anticoagulants", HISTORY_SOURCE))
    if patient.pacemaker:
        cautions.append(warn("caution", "alert.pacemaker", HISTORY_SOURCE))
    if patient.light_sensitizing:
        cautions.append(warn("caution", "alert.light_sensitizing", HISTORY_SOURCE))
    allergies = {
        "resin": warn("caution", "alert.resin", HISTORY_SOURCE),
        "latex": warn("caution", "alert.latex", HISTORY_SOURCE),
        "mercury": warn("caution", "alert.mercury", HISTORY_SOURCE),
        "chlorhexidine": warn("caution", "alert.chlorhexidine", HISTORY_SOURCE),
        "anesthetic": warn("stop", "alert.anesthetic", HISTORY_SOURCE),
        "sulfite": warn("caution", "alert.sulfite", HISTORY_SOURCE),
        "metals": warn("caution", "alert.metals", HISTORY_SOURCE),
        "eugenol": warn("caution", "alert.eugenol", HISTORY_SOURCE),
    }
    return [*cautions, *(allergies[one] for one in patient.allergies if one in allergies)]
