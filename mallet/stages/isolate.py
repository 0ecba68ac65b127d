"""Isolation: what numbs the tooth, which teeth stand in the dam, and what goes on without one."""

from __future__ import annotations

from mallet.rulebook import Rulebook
from mallet.rulebook.steps import catalog_step
from mallet.stages.anesthetic import judge_anesthetic, most_told
from mallet.stages.assess import HISTORY
from mallet.terms.case import Case
from mallet.terms.errors import InputError
from mallet.terms.plan import Caution, Decision, StageResult, Step
from mallet.terms.reasons import say, warn
from mallet.tooth import ToothName, read_tooth

# The hole that a tooth's neck wants, of five, from the smallest; the anchor takes the largest.
HOLES = {
    "lower": {1: 1, 2: 1, 3: 3, 4: 3, 5: 3, 6: 4, 7: 4, 8: 4},
    "upper": {1: 2, 2: 2, 3: 3, 4: 3, 5: 3, 6: 4, 7: 4, 8: 4},
}
ANCHOR = 5
LATERAL, CANINE, PREMOLAR = 2, 3, 4


def nerves(tooth: ToothName) -> tuple[str, str]:
    """Return the nerves of a tooth and those of its gum, where a clamp or ligature presses.

    Source: handbooks of local anesthesia (from memory).
    """
    if tooth.is_upper:
        pulp = {
            1: "anterior superior alveolar",
            2: "anterior superior alveolar",
            3: "anterior superior alveolar",
            4: "middle superior alveolar, often missing",
            5: "middle superior alveolar, often missing",
            6: "posterior superior alveolar; its mesiobuccal root often the middle one",
        }.get(tooth.position, "posterior superior alveolar")
        return pulp, "nasopalatine" if tooth.position <= 3 else "greater palatine"
    if tooth.position <= 3:
        return "inferior alveolar, incisive branch", "mental, lingual"
    is_molar = tooth.position >= (4 if tooth.is_deciduous else 6)
    gum = "long buccal, lingual" if is_molar else "mental, lingual"
    return "inferior alveolar", gum


def dam_teeth(
    tooth: ToothName, span: str, is_last: bool = False, anterior: str = "premolars"
) -> list[ToothName]:
    """Return the teeth that stand in the dam, from the anchor on.

    For a posterior tooth from the one behind it, or itself where it is the last, to the opposite lateral incisor
    or to two in front of it; for an anterior tooth from premolar to premolar or from canine to canine.
    """
    quadrant, across = tooth.quadrant, tooth.across
    if not tooth.is_posterior:
        last = PREMOLAR if anterior == "premolars" else CANINE
        near = [ToothName(quadrant, position) for position in range(last, 0, -1)]
        return [*near, *(ToothName(across, position) for position in range(1, last + 1))]
    anchor = tooth if is_last else tooth.neighbour("distal") or tooth
    front = 1 if span == "to_opposite_lateral" else max(tooth.position - 2, 1)
    teeth = [] if anchor == tooth else [anchor]
    teeth += [ToothName(quadrant, position) for position in range(tooth.position, front - 1, -1)]
    if span == "to_opposite_lateral":
        teeth += [ToothName(across, position) for position in range(1, LATERAL + 1)]
    return teeth


def hole(tooth: ToothName, is_anchor: bool) -> int:
    """Return the hole of five that a tooth takes."""
    return ANCHOR if is_anchor else HOLES["upper" if tooth.is_upper else "lower"][tooth.position]


def isolate(case: Case, tooth: ToothName, rules: Rulebook) -> StageResult:
    """Return the steps that numb the tooth and keep the field dry.

    Raises InputError where old amalgam would come out before the dam is on.
    """
    cautions = _cautions(case)
    if case.isolation.old_amalgam and case.isolation.dam_on == "after_preparation":
        got, allowed = (
            case.isolation.dam_on,
            "before_cutting: what is cut is not to be swallowed or breathed in",
        )
        raise InputError.at("isolation.dam_on", got, allowed)
    field = _dam(case, tooth, rules) if case.findings.field == "dam" else catalog_step("isolate.rolls", rules)
    late = case.isolation.dam_on == "after_preparation" and not case.restoration.is_in_enamel
    numb = [] if case.restoration.is_in_enamel else [numb_step(case, tooth, rules)]
    before = ["prepare.verify"] if late else [step.id for step in numb]
    steps = [*numb, field.model_copy(update={"after": before})]
    if case.isolation.old_amalgam:
        steps.append(catalog_step("isolate.old_amalgam", rules, after=[field.id]))
    anesthetic = judge_anesthetic(case, rules)
    return StageResult(
        decisions=[_decision(case, tooth, rules), *anesthetic.decisions],
        checks=anesthetic.checks,
        steps=steps,
        cautions=[*cautions, *anesthetic.cautions],
    )


def field_step(case: Case) -> str:
    """Return the id of the step after which the field is dry."""
    return "isolate.dam" if case.findings.field == "dam" else "isolate.rolls"


def before_cutting(case: Case) -> str:
    """Return the id of the last step of isolation before the tooth is cut."""
    if case.isolation.old_amalgam:
        return "isolate.old_amalgam"
    is_late = case.isolation.dam_on == "after_preparation" and not case.restoration.is_in_enamel
    return "isolate.numb" if is_late else field_step(case)


def _decision(case: Case, tooth: ToothName, rules: Rulebook) -> Decision:
    pulp, gum = nerves(tooth)
    reasons = [say("isolate.nerves", tooth=tooth.iso, pulp=pulp, gum=gum)]
    if case.isolation.given:
        reasons.append(say("isolate.given", given=case.isolation.given))
    if case.findings.field != "dam":
        return Decision(
            topic="isolate.field",
            chosen="cotton rolls and suction, no dam",
            alternatives=["rubber dam"],
            reasons=[*reasons, say("isolate.without_dam")],
        )
    teeth = _teeth(case, tooth)
    holes = ", ".join(f"{one.iso} hole {hole(one, _is_anchor(tooth, i))}" for i, one in enumerate(teeth))
    latex = " without latex" if "latex" in case.patient.allergies else ""
    return Decision(
        topic="isolate.field",
        chosen=f"dam{latex}, {teeth[0].iso} to {teeth[-1].iso}",
        alternatives=["cotton rolls and suction"],
        reasons=[
            *reasons,
            say("isolate.holes", holes=holes, spacing_mm=rules.value("isolate.hole_spacing_mm")),
        ],
        rules=rules.uses("isolate.hole_spacing_mm"),
    )


def _teeth(case: Case, tooth: ToothName) -> list[ToothName]:
    behind = case.adjacent.distal
    asked = case.techniques
    return dam_teeth(tooth, asked.dam_span, bool(behind and behind.missing), asked.anterior_dam)


def _is_anchor(tooth: ToothName, place: int) -> bool:
    """Tell whether a tooth of the dam bears the clamp; anterior teeth are tied, not clamped."""
    return tooth.is_posterior and place == 0


def _cautions(case: Case) -> list[Caution]:
    cautions = []
    if case.findings.field != "dam":
        cautions.append(warn("caution", "isolate.no_dam", "Textbooks of operative dentistry (from memory)"))
        if case.isolation.old_amalgam:
            cautions.append(warn("caution", "isolate.amalgam_without_dam", "Common practice, no source"))
    if case.findings.subgingival:
        cautions.append(
            warn("caution", "isolate.below_gum", "Textbooks of operative dentistry (from memory)")
        )
    return cautions


def numb_step(case: Case, tooth: ToothName, rules: Rulebook) -> Step:
    pulp, gum = nerves(tooth)
    is_alive = case.has_living_pulp
    told = {
        "what": "tooth" if is_alive else "gingiva",
        "nerves": "tooth" if is_alive else "gingiva",
        "pulp": f"{pulp[0].upper()}{pulp[1:]}",
        "gum": gum,
        "most": most_told(case, rules),
        "was_given": bool(case.isolation.given),
        "given": case.isolation.given,
    }
    return catalog_step("isolate.numb", rules, told, after=[HISTORY])


def _dam(case: Case, tooth: ToothName, rules: Rulebook) -> Step:
    teeth, held = _teeth(case, tooth), _held(case, tooth)
    told = {
        "dam": "without_latex" if "latex" in case.patient.allergies else "latex",
        "first": teeth[0].iso,
        "last": teeth[-1].iso,
        "tooth": tooth.iso,
        "short": case.techniques.dam_span == "two_in_front" and tooth.is_posterior,
    }
    told |= dict.fromkeys(("held", "clamp", "forceps", "cord"), held)
    return catalog_step("isolate.dam", rules, told)


def _held(case: Case, tooth: ToothName) -> str:
    """Return what keeps a dam at its ends: a clamp behind, or for anterior teeth whatever the last contacts allow."""
    return "clamp" if tooth.is_posterior else case.isolation.last_contacts


def field_off(case: Case, after: str, rules: Rulebook) -> Step:
    """Return how what kept the field dry is taken out."""
    if case.findings.field != "dam":
        return catalog_step("isolate.rolls_off", rules, after=[after])
    held = _held(case, read_tooth(case.tooth.code))
    return catalog_step("isolate.dam_off", rules, {"held": held, "forceps": held}, after=[after])
