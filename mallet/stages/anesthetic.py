"""The most of a local anesthetic that a patient may have, by agent and weight: a caution, never a dosing order."""

from __future__ import annotations

import math

from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.mouth import Agent, Patient
from mallet.terms.plan import Caution, Check, Decision, StageResult
from mallet.terms.reasons import say, warn, warn_by

HANDBOOKS = "Labels and handbooks of local anesthesia (from memory)"
NAMES: dict[Agent, str] = {
    "lidocaine_epinephrine": "lidocaine 2 % with epinephrine 1:100,000",
    "articaine_epinephrine": "articaine 4 % with epinephrine 1:100,000",
    "mepivacaine": "mepivacaine 3 %",
    "prilocaine": "prilocaine 4 %",
    "bupivacaine_epinephrine": "bupivacaine 0.5 % with epinephrine 1:100,000",
}
PERCENT: dict[Agent, float] = {
    "lidocaine_epinephrine": 2.0,
    "articaine_epinephrine": 4.0,
    "mepivacaine": 3.0,
    "prilocaine": 4.0,
    "bupivacaine_epinephrine": 0.5,
}
MG_ML_PER_PERCENT = 10.0
# Most by weight, and most in all.
MOST: dict[Agent, tuple[str, str]] = {
    "lidocaine_epinephrine": ("anesthetic.lidocaine_mg_kg", "anesthetic.lidocaine_most_mg"),
    "articaine_epinephrine": ("anesthetic.articaine_mg_kg", "anesthetic.articaine_most_mg"),
    "mepivacaine": ("anesthetic.mepivacaine_mg_kg", "anesthetic.mepivacaine_most_mg"),
    "prilocaine": ("anesthetic.prilocaine_mg_kg", "anesthetic.prilocaine_most_mg"),
    "bupivacaine_epinephrine": ("anesthetic.bupivacaine_mg_kg", "anesthetic.bupivacaine_most_mg"),
}
# 1:100,000.
EPINEPHRINE_MG_ML = 0.01
YOUNGEST: dict[Agent, str] = {
    "articaine_epinephrine": "anesthetic.articaine_from_years",
    "bupivacaine_epinephrine": "anesthetic.bupivacaine_from_years",
}


def _name(agent: Agent) -> str:
    return agent.partition("_")[0]


def most_ml(agent: Agent, patient: Patient, rules: Rulebook) -> float | None:
    """Return the most of an agent in mL, by weight and in all, and by its epinephrine; None without a weight.

    Labels and handbooks of local anesthesia, from memory: the lower figures.
    """
    if patient.weight_kg is None:
        return None
    mg_ml = PERCENT[agent] * MG_ML_PER_PERCENT
    a_kg, in_all = MOST[agent]
    most = min(rules.value(a_kg) * patient.weight_kg, rules.value(in_all)) / mg_ml
    if agent.endswith("_epinephrine"):
        most = min(most, rules.value(_epinephrine_rule(patient)) / EPINEPHRINE_MG_ML)
    return math.floor(10 * most + 1e-6) / 10


def _epinephrine_rule(patient: Patient) -> str:
    careful = patient.heart_disease or patient.beta_blocker_or_tricyclic
    return "anesthetic.epinephrine_careful_mg" if careful else "anesthetic.epinephrine_mg"


def most_told(case: Case, rules: Rulebook) -> str:
    """Say for the step at the chair how much may be given at most; nothing, where no agent is told."""
    told = []
    for one in case.isolation.anesthetics:
        most = most_ml(one.agent, case.patient, rules)
        at_most = f"at most {most:g} mL" if most is not None else "no weight recorded, so no maximum"
        told.append(f" {NAMES[one.agent]}: {at_most}.")
    return "".join(told)


def judge_anesthetic(case: Case, rules: Rulebook) -> StageResult:
    """Return what is given to numb the tooth, held against its maximum: shares of several agents add up."""
    given, patient = case.isolation.anesthetics, case.patient
    if not given:
        return StageResult()
    used = [rule for one in given for rule in _rules_of(one.agent, patient)]
    chosen = ", ".join(f"{one.volume_ml:g} mL {NAMES[one.agent]}" for one in given)
    mosts = [most_ml(one.agent, patient, rules) for one in given]
    told = ", ".join(
        f"{most:g} mL of {_name(one.agent)}" for one, most in zip(given, mosts, strict=True) if most
    )
    weighed = [say("anesthetic.most", told=told, weight_kg=patient.weight_kg)] if told else []
    decision = Decision(
        topic="isolate.anesthetic",
        chosen=chosen,
        alternatives=[name for agent, name in NAMES.items() if agent not in {one.agent for one in given}],
        reasons=[*weighed, say("anesthetic.advice")],
        rules=rules.uses(*dict.fromkeys(used)),
    )
    cautions = [c for one in given for c in _against(one.agent, patient, rules)]
    if any(most is None for most in mosts):
        cautions.append(warn("caution", "anesthetic.no_weight", HANDBOOKS))
        return StageResult(decisions=[decision], cautions=cautions)
    share = sum(one.volume_ml / most for one, most in zip(given, mosts, strict=True) if most)
    check = Check(
        topic="isolate.anesthetic",
        title="Anesthetic, share of its maximum",
        measured=round(share, 2),
        needed=1.0,
        relation="at_most",
        unit="x",
        verdict="pass" if share <= 1 + 1e-9 else "fail",
        remedy="Give less, or finish in two visits.",
        where=f"at most {told} for {patient.weight_kg:g} kg",
        rules=rules.uses(*dict.fromkeys(used)),
    )
    return StageResult(decisions=[decision], checks=[check], cautions=cautions)


def _rules_of(agent: Agent, patient: Patient) -> list[str]:
    epinephrine = [_epinephrine_rule(patient)] if agent.endswith("_epinephrine") else []
    return [*MOST[agent], *epinephrine]


def _against(agent: Agent, patient: Patient, rules: Rulebook) -> list[Caution]:
    """Return what speaks against an agent for a patient."""
    found = []
    rule = YOUNGEST.get(agent)
    if rule and patient.age_years is not None and patient.age_years < rules.value(rule):
        use = rules.use(rule)
        found.append(warn_by("stop", "anesthetic.too_young", use, agent=_name(agent), years=use.value))
    if agent == "prilocaine" and patient.methemoglobinemia:
        found.append(warn("stop", "anesthetic.methemoglobinemia", HANDBOOKS))
    if agent.endswith("_epinephrine") and "sulfite" in patient.allergies:
        found.append(warn("stop", "anesthetic.sulfite", HANDBOOKS))
    return found
