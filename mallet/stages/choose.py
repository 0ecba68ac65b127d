"""Choose the restorative: every reason for and against each, hard stops last, and the law of the place."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.errors import NotFeasible
from mallet.terms.mouth import TAKEN
from mallet.terms.plan import Argument, Decision, Limit, Option, StageResult
from mallet.terms.reasons import refuse, say, warn
from mallet.tooth import read_tooth

NAMES = {
    "composite": "composite",
    "amalgam": "amalgam",
    "gold_foil": "gold foil",
    "glass_ionomer": "glass ionomer",
    "sealant": "sealant",
    "amalgam_cover": "amalgam with cuspal coverage",
    "indirect": "not direct: a crown or onlay",
}
PREFORMED = "not direct: a preformed crown"
RESINS = ("composite", "sealant")
AMALGAMS = ("amalgam", "amalgam_cover")
HAIR = 1e-9
NEEDED = ", unless the practitioner deems it strictly necessary for the patient's specific medical needs"
LAST_PREMOLAR = 5
# What is of metal does not come first where it shows.
METALS = ("amalgam", "amalgam_cover", "gold_foil")


@dataclass(frozen=True)
class Said:
    """A reason that may hold: its rule, what it is about, and when it holds."""

    rule: str
    material: str
    is_for: bool
    holds: Callable[[Case], bool]


def shows(case: Case) -> bool:
    """Tell whether a tooth shows: anterior teeth and upper premolars do, unless said otherwise."""
    if case.findings.esthetic_zone is not None:
        return case.findings.esthetic_zone
    tooth = read_tooth(case.tooth.code)
    is_premolar = tooth.is_posterior and not tooth.is_deciduous and tooth.position <= LAST_PREMOLAR
    return not tooth.is_posterior or (tooth.is_upper and is_premolar)


def _back(case: Case) -> bool:
    return read_tooth(case.tooth.code).is_posterior


def _primary(case: Case) -> bool:
    return read_tooth(case.tooth.code).is_deciduous


def _primary_molar(case: Case) -> bool:
    return _primary(case) and _back(case)


def _pulp_treated(case: Case) -> bool:
    return case.protection.exposure == "pulpotomy" or _root_filled(case)


def name_of(material: str, case: Case) -> str:
    """Return what a restorative is called: on a primary tooth the crown is a preformed one."""
    return PREFORMED if material == "indirect" and _primary(case) else NAMES[material]


def _root_filled(case: Case) -> bool:
    return case.tooth.vitality == "root_canal_treated"


def _small(case: Case) -> bool:
    return len(case.restoration.surfaces) == 1 and case.load == "low" and not case.cusps_lost


def _stands(case: Case) -> bool:
    """Tell whether all cusps are intact and nothing asks for their cover."""
    return not (case.cusps_lost or case.findings.cracked or (_back(case) and _root_filled(case)))


def _is_metal_seen(material: str, case: Case) -> bool:
    return material in METALS and shows(case)


SAID = (
    Said("choose.composite_shows", "composite", True, shows),
    Said("choose.composite_small", "composite", True, _stands),
    Said("choose.composite_load", "composite", False, lambda c: c.load == "heavy"),
    Said("choose.composite_risk", "composite", False, lambda c: c.findings.caries_risk == "high"),
    Said("choose.composite_damp", "composite", False, lambda c: c.findings.field == "dry_without_dam"),
    Said("choose.amalgam_load", "amalgam", True, lambda c: c.load == "heavy"),
    Said("choose.amalgam_risk", "amalgam", True, lambda c: c.findings.caries_risk == "high"),
    Said("choose.amalgam_damp", "amalgam", True, lambda c: c.findings.field != "dam"),
    Said("choose.amalgam_shows", "amalgam", False, shows),
    Said("choose.amalgam_small", "amalgam", False, _stands),
    Said("choose.gold_small", "gold_foil", True, _small),
    Said("choose.gold_large", "gold_foil", False, lambda c: not _small(c)),
    Said("choose.gold_shows", "gold_foil", False, shows),
    Said("choose.gold_time", "gold_foil", False, lambda c: True),
    Said("choose.ionomer_low_load", "glass_ionomer", True, lambda c: c.load == "low"),
    Said("choose.ionomer_risk", "glass_ionomer", True, lambda c: c.findings.caries_risk == "high"),
    Said("choose.ionomer_load", "glass_ionomer", False, lambda c: c.load != "low" and not c.is_unbitten),
    Said("choose.ionomer_root", "glass_ionomer", True, lambda c: c.is_neck),
    Said("choose.ionomer_primary", "glass_ionomer", True, _primary),
    Said("choose.sealant_groove", "sealant", True, lambda c: not c.findings.cavitated),
    Said("choose.cover_root_filled", "amalgam_cover", True, lambda c: _back(c) and _root_filled(c) and not _primary(c)),
    Said("choose.cover_cusps", "amalgam_cover", True, lambda c: bool(c.cusps_lost or c.findings.cracked)),
    Said("choose.cover_sound", "amalgam_cover", False, _stands),
    Said("choose.amalgam_shows", "amalgam_cover", False, shows),
    Said("choose.indirect_cracked", "indirect", True, lambda c: c.findings.cracked and not _root_filled(c)),
    Said("choose.indirect_root_filled", "indirect", True, lambda c: _root_filled(c) and not _primary(c)),
    Said("choose.indirect_cusps", "indirect", True, lambda c: c.cusps_lost > 1),
    Said("choose.preformed_pulp", "indirect", True, lambda c: _primary_molar(c) and _pulp_treated(c)),
    Said("choose.preformed_surfaces", "indirect", True, lambda c: _primary_molar(c) and len(c.restoration.surfaces) > 2),
    Said("choose.preformed_risk", "indirect", True, lambda c: _primary_molar(c) and c.findings.caries_risk == "high"),
    Said("choose.preformed_seen", "indirect", False, _primary),
    Said("choose.indirect_cost", "indirect", False, lambda c: not _primary(c)),
    Said("choose.wants_few_visits", "indirect", False, lambda c: c.requests.fewest_visits and not _primary(c)),
    Said("choose.wants_low_cost", "amalgam", True, lambda c: c.requests.lowest_cost),
    Said("choose.wants_low_cost", "amalgam_cover", True, lambda c: c.requests.lowest_cost),
    Said("choose.wants_no_crown_s_cost", "indirect", False, lambda c: c.requests.lowest_cost),
    Said("choose.wants_no_gold_s_cost", "gold_foil", False, lambda c: c.requests.lowest_cost),
    Said("choose.wants_longest_gold", "gold_foil", True, lambda c: c.requests.lasts_longest and _small(c)),
    Said("choose.wants_longest_amalgam", "amalgam", True, lambda c: c.requests.lasts_longest and _stands(c) and not _small(c)),
    Said("choose.wants_longest_amalgam", "amalgam_cover", True, lambda c: c.requests.lasts_longest and not _stands(c)),
    Said("choose.wants_longest_indirect", "indirect", True, lambda c: c.requests.lasts_longest and (c.cusps_lost > 1 or c.findings.cracked)),
)  # fmt: skip

# Published: what of them is replaced in a year. Of direct gold no figure is known that we could cite.
LASTS = {
    "composite": "choose.lasts_composite",
    "amalgam": "choose.lasts_amalgam",
    "glass_ionomer": "choose.lasts_ionomer",
}

WHO: dict[str, Callable[[Case], bool]] = {
    "anyone": lambda c: True,
    "under_15": lambda c: c.patient.age_years is not None and c.patient.age_years < 15,
    "under_6": lambda c: c.patient.age_years is not None and c.patient.age_years < 6,
    "pregnant": lambda c: c.patient.pregnant,
    "breast_feeding": lambda c: c.patient.breast_feeding,
    "planning_pregnancy": lambda c: c.patient.planning_pregnancy,
    "neurological": lambda c: c.patient.neurological_disease,
    "kidney": lambda c: c.patient.kidney_impairment,
    "child": lambda c: c.patient.age_years is not None and 6 <= c.patient.age_years < 18,
}


def choose(case: Case, rules: Rulebook) -> StageResult:
    """Return the ranked options; raise NotFeasible where the asked one is forbidden."""
    if refusal := stopped(case, rules):
        raise refusal
    options = rank(case, rules)
    asked = next(option for option in options if option.id == case.option)
    first, place = options[0], rules.places[case.place]
    reasons = [say("choose.provisional"), say("choose.local_law", place=place["title"], as_of=place["as_of"])]
    taken = [TAKEN[name] for name in case.findings.not_told if not (name == "cusps_lost" and case.cusps_lost)]
    if case.findings.esthetic_zone is None:
        taken.append("in the esthetic zone" if shows(case) else "not in the esthetic zone")
    if taken:
        reasons.append(say("choose.assumed", what=", ".join(taken)))
    if case.findings.clinical_justification:
        by = case.findings.justified_by.strip() or "nobody named: the exemption does not hold"
        reasons.append(say("choose.needed", need=case.findings.clinical_justification, by=by))
    cautions = []
    tied = [one.name for one in options if not one.is_stopped and abs(one.points - first.points) < HAIR]
    if len(tied) > 1 and asked.name in tied:
        others = " and ".join(name for name in tied if name != asked.name)
        reasons.insert(0, say("choose.tied", name=asked.name.capitalize(), others=others))
    elif first.id == asked.id and asked.points > 0:
        reasons.insert(0, say("choose.first", name=asked.name.capitalize(), points=asked.points))
    elif first.id == asked.id:
        reasons.insert(0, say("choose.least_against", name=asked.name.capitalize()))
    else:
        told = {"first": first.name.capitalize(), "first_points": first.points, "points": asked.points}
        cautions.append(
            warn("caution", "choose.not_first", "Weighed by the rulebook", name=asked.name, **told)
        )
    decision = Decision(
        topic="choose.material",
        chosen=asked.name,
        alternatives=[option.name for option in options if option.id != asked.id],
        reasons=reasons,
        options=options,
    )
    return StageResult(decisions=[decision], cautions=cautions)


def stopped(case: Case, rules: Rulebook) -> NotFeasible | None:
    """Return why the restorative that a case asks for is forbidden, where it is."""
    limits = [*_limits(case.option, case), *_law(case.option, case, rules)]
    why = next((limit for limit in limits if limit.stops), None)
    name = NAMES[case.option].capitalize()
    return refuse("choose.stopped", None, name=name, why=why.text, source=why.authority) if why else None


def rank(case: Case, rules: Rulebook) -> list[Option]:
    """Return every option, what is not stopped first, then by points, then in the order of `NAMES`. Where the tooth
    shows, no metal comes before what is not of metal and not stopped."""
    weighed = [_option(material, case, rules) for material in NAMES]
    weighed.sort(key=lambda option: (option.is_stopped, _is_metal_seen(option.id, case), -option.points))
    first, second, *rest = weighed
    if not second.is_stopped:
        second = second.model_copy(update={"wins_without": _wins_without(first, second)})
    return [first, second, *rest]


def _option(material: str, case: Case, rules: Rulebook) -> Option:
    holding = [said for said in SAID if said.material == material and said.holds(case)]
    weighed = [(said.is_for, _argument(said.rule, rules)) for said in holding]
    limits = [*_limits(material, case), *_law(material, case, rules)]
    return Option(
        id=material,
        name=name_of(material, case),
        points=sum(argument.points if is_for else -argument.points for is_for, argument in weighed),
        is_stopped=any(limit.stops for limit in limits),
        speaks_for=[argument for is_for, argument in weighed if is_for],
        speaks_against=[argument for is_for, argument in weighed if not is_for],
        limits=limits,
        lasts=rules.use(LASTS[material]) if material in LASTS else None,
    )


def _argument(rule_id: str, rules: Rulebook) -> Argument:
    use = rules.use(rule_id)
    return Argument(text=use.title, points=use.value, rule=use)


def _limits(material: str, case: Case) -> list[Limit]:
    """Return what the patient and the mouth forbid, whatever the law."""
    found = []
    if "resin" in case.patient.allergies and material in RESINS:
        text = "The patient is allergic to resin: choose what has none, and no resin-modified liner or bond"
        found.append(Limit(stops=True, text=text, authority="Patient's history"))
    if "mercury" in case.patient.allergies and material in AMALGAMS:
        text = "The patient is allergic to mercury"
        found.append(Limit(stops=True, text=text, authority="US FDA, 24 September 2020 (from memory)"))
    if case.requests.no_metal and material in METALS:
        text = "The patient wants no metal"
        found.append(Limit(stops=True, text=text, authority="Patient's request"))
    if case.findings.field == "wet" and material in ("composite", "gold_foil", "sealant"):
        text = "The field cannot be kept dry: the bond fails, and gold does not weld"
        found.append(Limit(stops=True, text=text, authority="Textbooks of operative dentistry (from memory)"))
    if material == "sealant" and (case.findings.cavitated or case.findings.caries_found):
        text = "Open it where it is carious, restore that and seal the rest: caries is below"
        found.append(Limit(stops=True, text=text, authority="Common practice, no source"))
    if material == "amalgam_cover" and not _back(case):
        text = "Cusps are covered on posterior teeth"
        found.append(Limit(stops=True, text=text, authority="Common practice, no source"))
    return found


def _law(material: str, case: Case, rules: Rulebook) -> list[Limit]:
    """Return what the law of the place says of a material for this patient; a stated strict need turns a stop
    into care."""
    # An exemption is a practitioner's decision, on the patient's own medical ground: without both there is none.
    needed = bool(case.findings.clinical_justification.strip() and case.findings.justified_by.strip())
    return [
        Limit(
            stops=row["stops"] and not (row["unless_needed"] and needed),
            text=row["says"] + (NEEDED if row["unless_needed"] else ""),
            authority=row["authority"],
        )
        for row in rules.places[case.place]["limits"]
        if material in row["materials"] and WHO[row["who"]](case)
    ]


def _wins_without(first: Option, second: Option) -> str | None:
    """Return the weightiest reason without which the second would come first, if one alone would do."""
    gap = first.points - second.points
    if gap < HAIR:
        return None
    told = [*first.speaks_for, *second.speaks_against]
    enough = [argument for argument in told if argument.points > gap + HAIR]
    return max(enough, key=lambda argument: argument.points).text if enough else None
