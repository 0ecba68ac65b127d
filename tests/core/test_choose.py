"""What stops a filling, what forbids a restorative, and how the rest is weighed."""

import json
from pathlib import Path
from typing import Any, get_args

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mallet.rulebook import Rulebook
from mallet.stages.choose import METALS, NAMES, SAID, WHO, rank
from mallet.terms.case import Case, read_case
from mallet.terms.errors import InputError
from mallet.terms.mouth import Findings, Patient, Place
from mallet.terms.plan import NoPlan, Option, Plan
from tests.core.conftest import first_case, with_values
from tests.core.planned import plan

IONOMER = Path(__file__).parents[2] / "examples" / "lower_premolar_cervical_ionomer.json"


def case_of(**told: Any) -> dict[str, Any]:
    """Return the first case with words of patient, findings, place and tooth as they belong."""
    case = first_case()
    for name, value in told.items():
        if name in Patient.model_fields:
            case.setdefault("patient", {})[name] = value
        elif name in Findings.model_fields:
            case.setdefault("findings", {})[name] = value
        elif name in ("vitality", "code"):
            case["tooth"][name] = value
        elif name == "surfaces":
            case["restoration"][name] = value
        else:
            case[name] = value
    return case


def options(book: Rulebook, **told: Any) -> dict[str, Option]:
    return {option.id: option for option in rank(read_case(case_of(**told)), book)}


def refused(**told: Any) -> str:
    made = plan(read_case(case_of(**told)))
    assert isinstance(made, NoPlan)
    return made.requirement.text


ORDINARY: list[dict[str, Any]] = [
    {"code": "36"},
    {"code": "36", "load": "heavy"},
    {"code": "46", "caries_risk": "high"},
    {"code": "46", "cusps_lost": 2},
    {"code": "36", "vitality": "root_canal_treated"},
    {"code": "14", "cracked": True},
    {"code": "24", "esthetic_zone": False},
    {"code": "16", "load": "low", "surfaces": "O"},
    {"code": "15", "field": "dry_without_dam"},
    {"code": "45", "cavitated": False},
]


@pytest.mark.parametrize("told", ORDINARY, ids=str)
def test_a_patient_s_request_moves_only_what_it_is_about(told: dict[str, Any], book: Rulebook) -> None:
    """Of ten ordinary teeth: no metal stops metal, and each other request adds to or takes from what it names, nothing else."""
    plain = options(book, **told)
    refusing = options(book, **told, requests={"no_metal": True})
    assert {id for id, one in refusing.items() if one.is_stopped and not plain[id].is_stopped} <= set(METALS)
    assert all(refusing[id].is_stopped for id in METALS)
    named = {
        "fewest_visits": {"indirect"},
        "lowest_cost": {"amalgam", "amalgam_cover", "indirect", "gold_foil"},
        "lasts_longest": {"amalgam", "amalgam_cover", "indirect", "gold_foil"},
    }
    for request, about in named.items():
        asked = options(book, **told, requests={request: True})
        assert {id for id, one in asked.items() if one.points != plain[id].points} <= about
        assert all(abs(asked[id].points - plain[id].points) <= 2 for id in about)


@pytest.mark.parametrize(
    ("told", "words"),
    [
        ({"pulp": "in_doubt"}, "Diagnose the pulp before restoring"),
        ({"pulp": "irreversible"}, "vital pulp therapy, root canal treatment or extraction"),
        ({"tooth_confirmed": False}, "Tooth identity is not confirmed"),
        ({"allergies": ["resin"]}, "Composite must not be placed here. The patient is allergic to resin"),
        ({"field": "wet"}, "cannot be kept dry"),
    ],
)
def test_what_stops_a_composite_stops_the_plan_and_says_why(told: dict[str, Any], words: str) -> None:
    assert words in refused(**told)


@pytest.mark.parametrize(
    ("told", "authority"),
    [
        ({"age_years": 14}, "2017/852 art. 10 (2)"),
        ({"pregnant": True}, "2017/852 art. 10 (2)"),
        ({"breast_feeding": True}, "2017/852 art. 10 (2)"),
        ({"age_years": 50}, "2024/1849"),
    ],
)
def test_the_union_s_law_stops_amalgam_unless_a_strict_need_is_stated(
    told: dict[str, Any], authority: str, book: Rulebook
) -> None:
    """Regulations (EU) 2017/852 and 2024/1849, from memory."""
    found = options(book, place="eu", **told)
    for amalgam in (found["amalgam"], found["amalgam_cover"]):
        assert amalgam.is_stopped
        assert authority in {limit.authority.split("Regulation (EU) ")[-1].split(",")[0].removesuffix(" (from memory)")
                             for limit in amalgam.limits}  # fmt: skip
    assert not found["composite"].is_stopped
    why = "no dry field to be had, crown refused"
    assert options(book, place="eu", clinical_justification=why, **told)["amalgam"].is_stopped
    needed = options(
        book, place="eu", clinical_justification=why, justified_by="the treating dentist", **told
    )
    assert not needed["amalgam"].is_stopped
    assert needed["amalgam"].limits
    assert not options(book, place="us", **told)["amalgam"].is_stopped
    assert not options(book, place="elsewhere", **told)["amalgam"].limits


def test_the_stated_need_is_kept_in_the_plan() -> None:
    made = plan(
        read_case(case_of(place="eu", clinical_justification="crown refused", justified_by="A. Dentist"))
    )
    assert isinstance(made, Plan)
    (decision,) = [d for d in made.decisions if d.topic == "choose.material"]
    said = [r.text for r in decision.reasons]
    assert "Clinical justification: crown refused. Decided by: A. Dentist." in said


def test_gold_and_resin_want_a_dry_field_and_amalgam_no_mercury_allergy(book: Rulebook) -> None:
    wet = options(book, field="wet")
    assert {name for name in NAMES if wet[name].is_stopped} >= {"composite", "gold_foil", "sealant"}
    assert not wet["amalgam"].is_stopped
    allergic = options(book, allergies=["mercury"])
    assert allergic["amalgam"].is_stopped
    assert allergic["amalgam_cover"].is_stopped


@pytest.mark.parametrize(
    ("told", "first"),
    [
        # Common practice, no source: the patterns of the trade.
        ({"vitality": "root_filled"}, "amalgam_cover"),
        ({"vitality": "root_filled", "esthetic_zone": True}, "composite"),
        ({"surfaces": "O", "load": "low"}, "composite"),
        ({"cracked": True}, "indirect"),
        ({"cracked": True, "esthetic_zone": True}, "indirect"),
        ({"cavitated": False, "surfaces": "O"}, "sealant"),
        ({"esthetic_zone": True}, "composite"),
        ({"load": "heavy", "field": "dry_without_dam", "caries_risk": "high"}, "amalgam"),
    ],
)
def test_known_patterns_come_first(told: dict[str, Any], first: str, book: Rulebook) -> None:
    assert next(iter(options(book, **told))) == first


def findings() -> st.SearchStrategy[dict[str, Any]]:
    return st.fixed_dictionaries(
        {
            "field": st.sampled_from(["dam", "dry_without_dam", "wet"]),
            "load": st.sampled_from(["low", "ordinary", "heavy"]),
            "caries_risk": st.sampled_from(["low", "ordinary", "high"]),
            "esthetic_zone": st.booleans(),
            "cavitated": st.booleans(),
            "cracked": st.booleans(),
            "cusps_lost": st.integers(0, 3),
            "vitality": st.sampled_from(["vital", "root_filled"]),
            "place": st.sampled_from(["eu", "us", "elsewhere"]),
            "age_years": st.none() | st.integers(3, 90),
            "allergies": st.lists(st.sampled_from(["resin", "mercury", "latex"]), max_size=2, unique=True),
        }
    )


@settings(max_examples=150, deadline=None)
@given(told=findings())
def test_the_order_is_by_stops_and_points_and_the_second_would_win_as_told(
    told: dict[str, Any], book: Rulebook
) -> None:
    ranked = list(options(book, **told).values())
    assert {option.id for option in ranked} == set(NAMES)
    # Where it shows no metal comes before what is not of metal.
    keys = [(o.is_stopped, told["esthetic_zone"] and o.id in METALS, -o.points) for o in ranked]
    assert keys == sorted(keys)
    assert not ranked[0].is_stopped  # a crown is always left
    for option in ranked:
        weighed = sum(a.points for a in option.speaks_for) - sum(a.points for a in option.speaks_against)
        assert option.points == pytest.approx(weighed)
        assert option.is_stopped == any(limit.stops for limit in option.limits)
    first, second = ranked[:2]
    if second.wins_without:
        turned = [a for a in (*first.speaks_for, *second.speaks_against) if a.text == second.wins_without]
        less = sum(a.points for a in turned if a in first.speaks_for)
        more = sum(a.points for a in turned if a in second.speaks_against)
        assert second.points + more > first.points - less


THINGS = [
    {"kind": "adhesive", "name": "three", "strategy": "etch_and_rinse", "bottles": 3, "solvent": "acetone",
     "scrub_s": 15, "air_s": 5},
    {"kind": "adhesive", "name": "one", "strategy": "universal", "bottles": 1, "solvent": "ethanol", "ph": 1.2,
     "scrub_s": 20, "air_s": 10},
    {"kind": "base", "name": "silicate", "substance": "calcium_silicate", "set_s": 720, "soft_until_s": 600},
    {"kind": "liner", "name": "ionomer", "substance": "resin_modified_ionomer", "most_mm": 0.5, "set_s": 30},
]  # fmt: skip


def stages() -> st.SearchStrategy[dict[str, Any]]:
    """Return what the stages before the filling ask for, in any mixture."""
    parts = st.just(first_case()["preparation"]["parts"])
    return st.fixed_dictionaries(
        {
            "things": st.lists(st.sampled_from(THINGS), max_size=4, unique_by=lambda one: str(one["name"])),
            "preparation": st.fixed_dictionaries({"parts": parts, "remaining_dentin_mm": st.floats(0, 3)}),
            "school": st.fixed_dictionaries(
                {
                    "etch": st.sampled_from(["selective_enamel", "etch_and_rinse", "self_etch"]),
                    "chlorhexidine": st.sampled_from(["none", "before_etch", "after_etch"]),
                    "silicate": st.sampled_from(["by_enamel", "same_visit", "two_visits"]),
                    "dam_span": st.sampled_from(["to_opposite_lateral", "two_in_front"]),
                }
            ),
            "protection": st.fixed_dictionaries(
                {
                    "what": st.sampled_from(["by_depth", "nothing", "liner", "base"]),
                    "base_mm": st.none() | st.floats(0.3, 3),
                    "exposure": st.sampled_from(["none", "undecided", "cap", "root_treatment"]),
                    "placed_days_ago": st.none() | st.integers(0, 60),
                }
            ),
            "isolation": st.fixed_dictionaries(
                {
                    "dam_on": st.sampled_from(["before_cutting", "after_preparation"]),
                    "old_amalgam": st.booleans(),
                }
            ),
        }
    )


@settings(max_examples=50, deadline=None)
@given(
    told=findings(),
    pulp=st.sampled_from(["sound", "reversible", "in_doubt", "irreversible"]),
    weight=st.floats(0, 10),
    widths=st.lists(st.floats(0.5, 5), max_size=3, unique=True),
    before=stages(),
)
def test_no_sound_case_is_left_without_a_plan_or_a_reason(
    told: dict[str, Any], pulp: str, weight: float, widths: list[float], before: dict[str, Any]
) -> None:
    shelf = [
        {"kind": "wedge", "name": f"w{i}", "width_mm": w, "height_mm": 1.0} for i, w in enumerate(widths)
    ]
    house = {"choose.composite_small": weight}
    shelf += before.pop("things")
    case = {**case_of(**told, pulp=pulp, shelf=shelf, house=house), **before}
    wrong: set[str] = set()
    try:
        made = plan(read_case(case))
    except InputError as refused:
        wrong = {problem.path for problem in refused.problems}
    # Only what contradicts itself: a base without room, a dead pulp that shows, a dam too late.
    assert wrong <= {"protection.base_mm", "protection.exposure", "isolation.dam_on"}
    if wrong:
        return
    if isinstance(made, NoPlan):
        assert made.requirement.text
        stopped = made.requirement.code == "choose.stopped"
        assert stopped or made.requirement.code.startswith(("assess.", "protect."))
        assert bool(made.options) == stopped
        assert not stopped or not made.options[0].is_stopped
    else:
        assert pulp in ("sound", "reversible")
        choice = next(d for d in made.decisions if d.options)
        assert choice.options[0].points >= choice.options[1].points


def test_what_nobody_has_told_is_said_to_be_taken() -> None:
    made = plan(read_case(case_of(pulp="reversible", esthetic_zone=False)))
    assert isinstance(made, Plan)
    (said,) = [r.text for d in made.decisions for r in d.reasons if r.code == "choose.assumed"]
    assert "nothing is cracked" in said
    assert "pulp" not in said
    assumed = {a.path for a in made.assumptions}
    assert {"findings.field", "findings.load"} <= assumed
    # Of the tooth's identity nothing is taken: work may not start before it is told.
    assert "findings.tooth_confirmed" not in assumed
    assert [r.code for r in made.wanted_before] == ["assess.wants_tooth"]
    assert not {"findings.pulp", "findings.shows"} & assumed


def test_profiles_tell_of_known_places_people_and_materials(book: Rulebook) -> None:
    assert set(get_args(Place)) == set(book.places)
    for place in book.places.values():
        for limit in place["limits"]:
            assert set(limit["materials"]) <= set(NAMES)
            assert limit["who"] in WHO
            assert limit["authority"]


def test_every_reason_can_hold_and_its_weight_decides(book: Rulebook) -> None:
    cases = [
        case_of(),
        case_of(esthetic_zone=True, load="heavy", caries_risk="high", field="dry_without_dam"),
        case_of(surfaces="O", load="low", cavitated=False),
        case_of(cracked=True, cusps_lost=2),
        case_of(vitality="root_filled"),
        json.loads(IONOMER.read_text()),
        {**json.loads(IONOMER.read_text()), "tooth": {"code": "73"}},
        case_of(code="85", surfaces="MOD", caries_risk="high", protection={"exposure": "pulpotomy"}),
    ]
    wishes = {"fewest_visits": True, "lowest_cost": True, "lasts_longest": True}
    cases += [{**one, "requests": wishes} for one in cases]
    read: list[Case] = [read_case(case) for case in cases]
    assert [said.rule for said in SAID if not any(said.holds(case) for case in read)] == []
    heavier = book.with_house({"choose.amalgam_load": 9.0})
    told = {"load": "heavy", "esthetic_zone": False}
    assert next(iter(options(book, **told))) == "composite"
    assert next(iter(options(heavier, **told))) == "amalgam"


def test_a_plan_says_where_its_material_stands_and_warns_where_another_weighs_more() -> None:
    made = plan(read_case(case_of()))
    assert isinstance(made, Plan)
    assert not [c for c in made.cautions if c.code == "choose.not_first"]
    heavy = plan(read_case(case_of(vitality="root_filled")))
    assert isinstance(heavy, Plan)
    (caution,) = [c for c in heavy.cautions if c.code == "choose.not_first"]
    assert caution.text.startswith("Amalgam with cuspal coverage scores higher than composite")


def test_on_a_primary_molar_a_preformed_crown_comes_first_only_for_what_it_is_for(book: Rulebook) -> None:
    told: dict[str, Any] = {"code": "85", "esthetic_zone": False}
    for more, first in (
        ({}, "composite"),
        ({"surfaces": "MOD"}, "composite"),
        ({"surfaces": "MOD", "caries_risk": "high"}, "indirect"),
        ({"protection": {"exposure": "pulpotomy"}}, "indirect"),
        ({"vitality": "root_filled"}, "indirect"),
    ):
        ranked = options(book, **told, **more)
        assert next(iter(ranked)) == first, more
        assert ranked["indirect"].name == "not direct: a preformed crown"
    assert next(iter(options(book, code="51", protection={"exposure": "pulpotomy"}))) == "composite"


def test_latex_allergy_changes_the_tray_and_warns() -> None:
    made = plan(read_case(with_values(first_case(), patient={"allergies": ["latex"]})))
    assert isinstance(made, Plan)
    dam = next(step for step in made.steps if step.id == "isolate.dam")
    assert "dam without latex, punched" in dam.tray
    assert "alert.latex" in {c.code for c in made.cautions}
