"""What is placed with composite besides its increments: tint, strips from stock, what cleans before the acid, what a radiograph shows."""

from typing import Any

import pytest

from mallet.light.working_curve import dose_wanted_j_cm2
from mallet.rulebook import Rulebook
from mallet.terms.case import read_case
from mallet.terms.plan import Plan
from mallet.terms.restoration import Composite
from tests.core.conftest import first_case
from tests.core.planned import plan, planned, steps_of
from tests.core.test_matched import case_of

TINT = {
    "name": "ochre tint", "role": "body", "consistency": "stain", "penetration_depth_mm": 0.4, "critical_exposure_j_cm2": 0.5,
    "max_increment_mm": 0.5, "shrinkage_vol_percent": 4.0, "density_g_cm3": 1.6, "modulus_gpa": 4.0,
}  # fmt: skip


def corner(*more: dict[str, Any], surfaces: str = "MI", **told: Any) -> Plan:
    case = case_of(("enamel", "opaque")).model_dump(mode="json", exclude_unset=True)
    case["restoration"]["composites"] += more
    case["restoration"]["surfaces"] = surfaces
    made = plan(read_case({**case, **told}))
    assert isinstance(made, Plan)
    return made


def test_a_tint_lies_under_the_enamel_with_a_light_of_its_own_and_moves_no_other_composite(
    book: Rulebook,
) -> None:
    plain, tinted = corner(), corner(TINT)
    assert [one.product for one in tinted.increments] == [one.product for one in plain.increments]
    assert tinted.color
    assert plain.color
    assert tinted.color.de00 == plain.color.de00
    ids = [step.id for step in tinted.steps if step.actor != "assistant"]
    last = tinted.increments[-1]
    assert ids.index("build.tint") + 1 == ids.index("build.tint.light") < ids.index(f"build.{last.id}.place")
    assert ids.index("build.tint") > ids.index(f"build.{tinted.increments[-2].id}.light")
    # Bare, it gets at least what reaches the dimmest point of what comes over it.
    light = next(step for step in tinted.steps if step.id == "build.tint.light")
    reaching = last.cured.dose_at_worst_point_j_cm2 / sum(e.seconds for e in last.cured.exposures)
    assert light.seconds * reaching >= dose_wanted_j_cm2(Composite(**TINT), book) - 1e-6
    assert "ochre tint" in {want.name for want in tinted.wants}
    codes = {caution.code for caution in tinted.cautions}
    assert "build.tinted" in codes
    assert "build.not_placed" not in codes


@pytest.mark.parametrize("technique", ["oblique", "wall_first"])
def test_a_tint_is_lit_from_wherever_what_comes_over_it_is(technique: str, book: Rulebook) -> None:
    """From one side alone the other half would stay dark; none lasts longer than one exposure may."""
    case = read_case(first_case()).model_dump(mode="json", exclude_unset=True)
    case["restoration"] |= {"technique": technique, "composites": [*case["restoration"]["composites"], TINT]}
    made = plan(read_case(case))
    assert isinstance(made, Plan)
    over = made.increments[-1].cured
    lit = [press for step in made.steps if step.id.startswith("build.tint.light") for press in step.presses]
    share = dose_wanted_j_cm2(Composite(**TINT), book) / over.dose_at_worst_point_j_cm2
    assert {press.source for press in lit} == {exposure.source for exposure in over.exposures}
    for exposure in over.exposures:
        given = sum(press.seconds for press in lit if press.source == exposure.source)
        assert given >= share * exposure.seconds - 1e-6


def test_a_tint_has_no_place_in_a_single_increment() -> None:
    pit = [{"kind": "pit", "face": "lingual", "diameter_mm": 1.4, "depth_mm": 1.2, "above_cej_mm": 3.0}]
    case = case_of(("body",)).model_dump(mode="json", exclude_unset=True)
    case["preparation"] = {"parts": pit, "remaining_dentin_mm": 1.5}
    case["restoration"] |= {"surfaces": "L", "composites": [*case["restoration"]["composites"], TINT]}
    made = plan(read_case(case))
    assert isinstance(made, Plan)
    assert len(made.increments) == 1
    assert "build.tint" not in {step.id for step in made.steps}
    assert "ochre tint" in next(c.text for c in made.cautions if c.code == "build.not_placed")


@pytest.mark.parametrize(("way", "seconds"), [("alcohol", 120), ("air_abrasion", 10)])
def test_what_cleans_comes_before_the_acid_by_its_own_clock(way: str, seconds: float) -> None:
    case = read_case(first_case()).model_dump(mode="json", exclude_unset=True)
    case["restoration"]["cleaning"] = way
    made = plan(read_case(case))
    assert isinstance(made, Plan)
    first, second, *rest = steps_of(made, "bond")
    assert (first.id, first.seconds, first.timed) == (f"bond.{way}", seconds, True)
    assert second.id == "bond.etch_enamel"
    air = next(step for step in rest if step.id == "bond.air")
    assert air.check
    assert "begin again at the cleaning" in air.check.remedy
    assert air.check.back_to == first.id
    assert steps_of(planned(), "bond")[0].id == "bond.etch_enamel"


def strip(name: str, thickness_mm: float) -> dict[str, Any]:
    return {"kind": "band", "name": name, "form": "strip", "height_mm": 8, "thickness_mm": thickness_mm}


@pytest.mark.parametrize(
    ("stock", "wanted"),
    [
        ([], []),
        ([strip("thick", 0.08), strip("thin", 0.05)], ["thin"]),
        ([{**strip("round", 0.04), "form": "circumferential"}], [None]),
    ],
)
def test_a_strip_is_wanted_from_stock_the_thinnest_there(
    stock: list[dict[str, Any]], wanted: list[str | None]
) -> None:
    beside = [
        {
            "kind": "proximal_cavity",
            "side": "mesial",
            "face": "lingual",
            "height_mm": 2.4,
            "depth_mm": 1.4,
            "faciolingual_mm": 1.2,
        }
    ]
    made = corner(surfaces="M", stock=stock, preparation={"parts": beside, "remaining_dentin_mm": 1.5})
    assert [want.name for want in made.wants if want.kind == "band"] == wanted


@pytest.mark.parametrize(
    ("seen_mm_al", "told"), [(None, False), (3.0, False), (2.0, False), (1.2, True), (0.0, True)]
)
def test_what_a_radiograph_hardly_shows_is_named_between_teeth(seen_mm_al: float | None, told: bool) -> None:
    case = read_case(first_case()).model_dump(mode="json", exclude_unset=True)
    (mass,) = case["restoration"]["composites"]
    if seen_mm_al is not None:
        mass["radiopacity_mm_al"] = seen_mm_al
    made = plan(read_case(case))
    assert isinstance(made, Plan)
    assert ("build.faint" in {caution.code for caution in made.cautions}) == told
    case["preparation"]["parts"] = case["preparation"]["parts"][:1]
    case["restoration"]["surfaces"] = "O"
    case["provenance"] = {}
    alone = plan(read_case(case))
    assert isinstance(alone, Plan)
    assert "build.faint" not in {caution.code for caution in alone.cautions}
