"""Fissure sealant: enamel only, light to the floor, several teeth in one order of work."""

import json
from pathlib import Path
from typing import Any

import pytest

from mallet.plan import Worked, plan
from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.terms.plan import NoPlan
from tests.core.conftest import with_values
from tests.core.planned import work

EXAMPLE = Path(__file__).parents[2] / "examples" / "lower_first_molar_sealant.json"


def told(**values: Any) -> dict[str, Any]:
    return with_values(json.loads(EXAMPLE.read_text()), **values)


def worked(**values: Any) -> Worked:
    return work(read_case(told(**values)))


def test_it_stays_in_enamel_numbs_nobody_and_takes_a_short_finish() -> None:
    made = worked().plan
    ids = [step.id for step in made.steps]
    assert not [
        id
        for id in ids
        if id.startswith(("isolate.numb", "bond.etch_dentin", "finish.polish", "matrix.", "protect."))
    ]
    assert {step.stage for step in made.steps} == {"assess", "isolate", "prepare", "bond", "build", "finish"}
    assert made.totals.chair_minutes < 19.5 - 3
    assert [s.name for s in made.stages if s.id in ("bond", "build")] == ["Etching", "Placement and curing"]


def test_the_floor_of_the_fissure_receives_what_it_requires() -> None:
    """By the package: 20 s at 800 mW/cm2, halved depth of cure as ISO 4049 has it."""
    one = worked().plan.increments[0]
    assert one.cured.dose_at_worst_point_j_cm2 >= one.cured.dose_needed_j_cm2
    slow = worked(stock__0__manufacturer={"seconds": 40, "at_irradiance_mw_cm2": 1150}).plan
    assert sum(e.seconds for e in slow.increments[0].cured.exposures) >= 40
    assert one.volume_mm3 == pytest.approx(0.6 * 0.9 / 2 * 5.0, rel=0.25)


def test_other_teeth_are_worked_in_the_same_order_each_lit_alike() -> None:
    one, four = worked().plan, worked(restoration__also=["37", "35", "34"]).plan
    seconds = {step.id: step.seconds for step in four.steps}
    assert four.totals.light_seconds == 4 * one.totals.light_seconds
    # Gel acts on all at once; what is done tooth by tooth takes its time on each.
    assert seconds["bond.etch"] == 30 + 3 * 5
    assert seconds["prepare.clean"] == 4 * 20
    order = [step.id for step in four.steps if step.id.startswith("build.sealant.")]
    assert order[:6] == [
        f"build.sealant.{name}{end}" for end in ("", ".37") for name in ("place", "soak", "light")
    ]


def test_saliva_means_the_etch_again_and_only_that_tooth_s_resin() -> None:
    made = worked(restoration__also=["37"]).plan
    wet = {step.id: step.wet for step in made.steps if step.wet}
    assert wet["bond.dry"].redo == ["bond.etch", "bond.rinse"]
    assert wet["build.sealant.light.37"].redo == [
        "bond.etch", "bond.rinse", "bond.dry", "build.sealant.place.37", "build.sealant.soak.37",
    ]  # fmt: skip
    assert wet["finish.probe"].redo == []


@pytest.mark.parametrize(
    ("values", "code"),
    [
        ({"findings__caries_found": True}, "choose.stopped"),
        ({"findings__field": "dry_without_dam", "findings__eruption": "erupting"}, "sealant.wet"),
        ({"preparation__parts": [{"kind": "occlusal_box", "depth_mm": 1, "width_mm": 1, "length_mm": 3}]}, "sealant.parts"),
        ({"patient__allergies": ["resin"]}, "choose.stopped"),
        ({"findings__cavitated": True}, "choose.stopped"),
    ],
)  # fmt: skip
def test_what_is_not_sealed_is_told_with_what_would_do(values: dict[str, Any], code: str) -> None:
    refusal = plan(read_case(told(**values)))
    assert isinstance(refusal, NoPlan)
    assert refusal.requirement.code == code
    assert refusal.stages


@pytest.mark.parametrize(
    ("values", "line"),
    [
        (
            {"restoration__also": ["46"]},
            "restoration.also[0]: got '46', allowed each once, of 34, 35, 37, 38",
        ),
        ({"restoration__also": ["37", "37"]}, "restoration.also[1]: got '37'"),
        ({"restoration__sealant": "none such"}, "restoration.sealant: got 'none such', allowed demo sealant"),
        ({"restoration__light": None}, "restoration.light: got None"),
    ],
)
def test_bad_input_is_named(values: dict[str, Any], line: str) -> None:
    with pytest.raises(InputError) as caught:
        worked(**values)
    assert line in str(caught.value)


def test_without_stock_the_handbook_s_sealant_is_assumed() -> None:
    made = worked(stock=[]).plan
    assert [a for a in made.assumptions if a.path.startswith("restoration.sealant.")]
    assert made.increments[0].product == "a sealant by the handbook"


def test_with_adhesive_a_film_comes_before_the_sealant_and_is_cured_with_it() -> None:
    ids = [step.id for step in worked(restoration__with_adhesive=True).plan.steps]
    assert ids[ids.index("bond.dry") :][:3] == ["bond.dry", "bond.adhesive", "build.sealant.place"]
    assert not [id for id in ids if id.startswith("bond.cure")]


def test_only_what_takes_an_opened_fissure_is_offered_in_its_place() -> None:
    """Gold wants a pit or a small cavity beside the contact: a tap on it would lead to another refusal."""
    refusal = plan(read_case(told(findings__caries_found=True)))
    assert isinstance(refusal, NoPlan)
    offered = {one.id for one in refusal.options if one.can_be_planned and not one.is_stopped}
    assert {"composite", "glass_ionomer"} <= offered
    assert "gold_foil" not in offered
