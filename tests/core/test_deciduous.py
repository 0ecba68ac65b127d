"""Deciduous teeth are planned like the permanent ones, and stand beside them."""

from typing import Any

import pytest

from mallet.plan import Worked
from mallet.stages.isolate import dam_teeth, nerves
from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.terms.plan import Decision, Plan
from mallet.tooth import read_tooth
from mallet.tooth.shedding import months_to_shedding
from tests.core.conftest import first_case
from tests.core.planned import work

FLOOR = {"kind": "occlusal_box", "depth_mm": 1.5, "width_mm": 1.4, "length_mm": 2.6}
BOX = {"kind": "proximal_box", "side": "distal", "height_mm": 3.0, "width_mm": 2.6, "axial_depth_mm": 1.0}
NECK = {"kind": "saucer", "width_mm": 2.5, "height_mm": 1.6, "depth_mm": 0.8, "above_cervical_mm": 0.4}
EDGE = {"kind": "incisal_fracture", "mesial_mm": 1.5, "distal_mm": 1.5}


def planned(code: str, surfaces: str, parts: list[dict[str, Any]], **more: Any) -> Worked:
    case = {
        **first_case(),
        "tooth": {"code": code},
        "restoration": {"material": "composite", "surfaces": surfaces},
        "preparation": {"remaining_dentin_mm": 1.0, "parts": parts},
        "neighbours": {},
        "patient": {"age_years": 7},
        "provenance": {},
        **more,
    }
    return work(read_case(case))


@pytest.mark.parametrize("quadrant", [5, 6, 7, 8])
@pytest.mark.parametrize("position", [4, 5])
def test_a_deciduous_molar_gets_floor_and_box_band_and_light(quadrant: int, position: int) -> None:
    worked = planned(f"{quadrant}{position}", "DO", [FLOOR, BOX])
    cavity = worked.cavity
    assert cavity.filling.volume() + cavity.remaining_tooth.volume() == pytest.approx(
        cavity.outer.solid.volume()
    )
    assert sum(one.volume_mm3 for one in worked.plan.increments) == pytest.approx(
        worked.plan.geometry.volume_mm3
    )
    behind = f"{quadrant}5" if position == 4 else f"{quadrant - 4}6"
    assert [one.tooth.iso for one in worked.neighbours] == [behind]
    assert len(worked.bands) == 1
    assert all(check.verdict != "fail" for check in worked.plan.checks if check.topic == "increment.dose")


@pytest.mark.parametrize(
    ("code", "surfaces", "part"),
    [("53", "F", NECK), ("61", "MID", EDGE), ("85", "L", {**NECK, "face": "lingual"})],
)
def test_faces_and_edges_of_deciduous_teeth_too(code: str, surfaces: str, part: dict[str, Any]) -> None:
    worked = planned(code, surfaces, [part])
    assert worked.plan.geometry.volume_mm3 > 0.5
    assert worked.plan.tooth["name"].split()[2] == "primary"


def test_mixed_rows_stand_side_by_side() -> None:
    """A first permanent molar stands behind the second deciduous one until that is shed (from memory)."""
    molar = first_case()["preparation"]["parts"]
    kept = {"mesial": {"tooth": "75"}}
    worked = planned("36", "MO", molar, neighbours=kept)
    assert [one.tooth.iso for one in worked.neighbours] == ["75"]
    with pytest.raises(InputError, match=r"adjacent.mesial.tooth"):
        planned("36", "MO", molar, neighbours={"mesial": {"tooth": "85"}})
    assert [tooth.iso for tooth in dam_teeth(read_tooth("75"), "two_in_front")] == ["36", "75", "74", "73"]
    assert nerves(read_tooth("74"))[1].startswith("long buccal")


STUMP = {
    "kind": "strip_crown_preparation",
    "incisal_reduction_mm": 1.5,
    "axial_reduction_mm": 0.5,
    "above_cej_mm": 0.6,
}


def form(name: str, width_mm: float, height_mm: float = 7.0, tooth: str = "51") -> dict[str, Any]:
    return {
        "kind": "crown_form",
        "name": name,
        "tooth": tooth,
        "width_mm": width_mm,
        "height_mm": height_mm,
    }


def crown_form_of(*stock: dict[str, Any], **twin: float) -> tuple[Plan, Decision]:
    """Return the plan of a stump of an upper primary incisor, 6.5 mm wide by the handbook, and what it says of its form."""
    made = planned("51", "MIDFL", [STUMP], stock=list(stock), twin=twin).plan
    return made, next(one for one in made.decisions if one.topic == "matrix.form")


@pytest.mark.parametrize(
    ("twin", "name"),
    [
        ({}, "6.6"),
        ({"width_mm": 7.3}, "7.4"),
        ({"width_mm": 5.9}, "5.8"),
        ({"own_width_mm": 6.4}, "5.8"),
        ({"width_mm": 7.3, "own_width_mm": 7.0}, "6.6"),
    ],
)
def test_a_crown_form_is_as_wide_as_the_twin_and_goes_into_the_gap(twin: dict[str, float], name: str) -> None:
    """Width before height; no wider than the gap between the adjacent teeth. Common practice, no source."""
    stock = [form(str(width), width) for width in (7.4, 5.8, 6.6)]
    made, said = crown_form_of(*stock, form("another tooth's", 6.5, tooth="52"), **twin)
    (want,) = (one for one in made.wants if one.kind == "crown_form")
    assert want.name == name
    gap_mm = twin.get("own_width_mm", 99.0)
    assert {miss.name for miss in said.missed} == {one["name"] for one in stock if one["width_mm"] > gap_mm}
    trim = next(step for step in made.steps if step.id == "matrix.form.trim")
    # Six millimeters of crown less 0.6 up to the margin, and 0.5 past it.
    assert "5.9 mm" in trim.detail
    assert name in trim.tray


def test_a_crown_form_that_is_too_wide_is_taken_in_and_one_too_low_is_told() -> None:
    made, said = crown_form_of(form("wide", 7.4))
    assert "0.9 mm wider" in said.reasons[1].text
    trim = next(step for step in made.steps if step.id == "matrix.form.trim")
    assert "take 0.9 mm in" in trim.detail
    made, _ = crown_form_of(form("low", 6.5, height_mm=5.2))
    assert [one.code for one in made.cautions if one.code.startswith("matrix")] == ["matrix.form_low"]
    # One that goes past the margin at all is none to complain of.
    made, _ = crown_form_of(form("just", 6.5, height_mm=5.6))
    assert not [one for one in made.cautions if one.code.startswith("matrix")]
    # None is near: the next wider one is taken in, though a narrower one is less far off.
    made, _ = crown_form_of(form("narrow", 5.8), form("wide", 7.4))
    assert [want.name for want in made.wants if want.kind == "crown_form"] == ["wide"]
    made, said = crown_form_of(form("wide", 7.4), own_width_mm=6.0)
    assert [(miss.name, miss.off_mm) for miss in said.missed] == [("wide", 1.4)]
    (want,) = (one for one in made.wants if one.kind == "crown_form")
    assert want.name is None
    assert not [one for one in crown_form_of()[0].cautions if one.code.startswith("matrix")]


STUMP = {"kind": "crown_stump", "edge_mm": 1.5, "around_mm": 0.5, "above_cervical_mm": 0.6}
LINER = {
    "kind": "liner", "name": "demo liner", "substance": "resin_modified_ionomer", "most_mm": 0.5, "set_s": 20,
}  # fmt: skip
BASE = {"kind": "base", "name": "demo base", "substance": "resin_modified_ionomer", "set_s": 20}


@pytest.mark.parametrize(
    ("code", "surfaces", "part"), [("51", "MIDFL", STUMP), ("54", "MO", None), ("85", "MO", None)]
)
def test_the_coronal_pulp_is_taken_out_and_its_chamber_filled(
    code: str, surfaces: str, part: dict[str, Any] | None
) -> None:
    parts = [part] if part else [FLOOR, {**BOX, "side": "mesial"}]
    whole = planned(code, surfaces, parts, protection={"exposure": "none"}).cavity
    worked = planned(code, surfaces, parts, protection={"exposure": "pulpotomy"})
    cavity, plan = worked.cavity, worked.plan
    assert cavity.pulp
    assert cavity.chamber
    assert cavity.pulp.bounding_box()[5] <= 1e-6 <= cavity.chamber.bounding_box()[2] + 1e-5
    by_handbook = whole.shell(worked.rules, "pulp")
    assert cavity.pulp.volume() + cavity.chamber.volume() == pytest.approx(by_handbook.volume(), rel=1e-6)
    assert cavity.remaining_dentin_mm > 1.0
    assert plan.geometry.remaining_dentin_mm is None
    assert plan.geometry.volume_mm3 == pytest.approx(cavity.filling.volume(), rel=1e-6)
    steps = {step.id: step for step in plan.steps}
    assert f"about {cavity.chamber.volume():.0f} mm³" in steps["protect.pulpotomy"].detail
    order = [
        "isolate.dam", "prepare.caries", "protect.pulpotomy", "protect.bleeding", "protect.place", "protect.seal", "protect.set",
        *(["prepare.strip_crown_preparation.0", "prepare.verify", "matrix.form.seal"] if part else []), "bond.scrub",
    ]  # fmt: skip
    starts = [steps[id].start_s for id in order]
    assert starts == sorted(starts)
    assert "pulpectomy or removal" in (steps["protect.bleeding"].check or steps["x"]).remedy


def test_under_a_form_nothing_is_built_up_and_on_an_open_pulp_lies_what_heals_it() -> None:
    def refused(path: str, **protection: str) -> None:
        with pytest.raises(InputError) as error:
            planned("51", "MIDFL", [STUMP], protection=protection, stock=[LINER, BASE])
        assert error.value.problems[0].path == path

    refused("protection.what", what="base")
    refused("protection.material", material="demo base")
    refused("protection.material", material="demo base", exposure="cap")
    made = planned("51", "MIDFL", [STUMP], protection={"material": "demo liner"}, stock=[LINER, BASE]).plan
    assert next(d.chosen for d in made.decisions if d.topic == "protect").endswith("demo liner")


def test_primary_teeth_are_shed_in_the_published_order() -> None:
    """American Dental Association, eruption chart (from memory): upper central 6-7 years, second molar 10-12, lower canine
    9-12."""
    for code, age, months in (("51", 4, 24), ("65", 7, 42), ("83", 7, 36), ("71", 6, 0), ("74", 12, 0)):
        assert months_to_shedding(read_tooth(code), age) == months
    with pytest.raises(ValueError, match="not shed"):
        months_to_shedding(read_tooth("11"), 7)
    parts, warned = [FLOOR, {**BOX, "side": "mesial"}], []
    for age in (4, 5, 6, 7, 8, 9, 10, 11, None):
        plan = planned(
            "75", "MO", parts, protection={"exposure": "pulpotomy"}, patient={"age_years": age}
        ).plan
        codes = {c.code for c in plan.cautions}
        warned += [age] if "protect.shed_soon" in codes else []
        assert ("protect.shed_unknown" in codes) == (age is None)
    assert warned == [10, 11]
    capped = planned("75", "MO", parts, protection={"exposure": "cap"}, patient={"age_years": 10}).plan
    assert {"protect.cap_primary", "protect.shed_soon"} <= {c.code for c in capped.cautions}


def test_no_resin_modified_seal_goes_unsaid_to_a_patient_who_is_allergic_to_resin() -> None:
    parts, amalgam = [FLOOR, {**BOX, "side": "mesial"}], {"material": "amalgam", "surfaces": "MO"}
    told: dict[str, Any] = {"restoration": amalgam, "protection": {"exposure": "pulpotomy"}}
    for allergies, is_told in ((["resin"], True), (["latex"], False), ([], False)):
        case = {k: v for k, v in first_case().items() if k not in ("masses", "light", "school")}
        case |= {
            "tooth": {"code": "85"}, "preparation": {"parts": parts}, "neighbours": {}, "provenance": {},
            "patient": {"age_years": 6, "allergies": allergies}, **told,
        }  # fmt: skip
        codes = {c.code: c.level for c in work(read_case(case)).plan.cautions}
        assert (codes.get("protect.resin") == "stop") == is_told
