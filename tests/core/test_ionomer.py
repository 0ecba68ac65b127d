"""Glass ionomer: how much of it, by which clock, and what wet undoes."""

import json
import math
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mallet.plan import Worked, plan
from mallet.rulebook import load_rulebook
from mallet.terms.case import read_case
from mallet.terms.errors import InputError, NotFeasible
from mallet.terms.plan import NoPlan, Plan
from tests.core.conftest import with_values
from tests.core.planned import work

EXAMPLE = Path(__file__).parents[2] / "examples" / "lower_premolar_cervical_ionomer.json"
LARGE = {
    "tooth": {"code": "36"},
    "restoration__surfaces": "MOD",
    "findings__load": "low",
    "preparation": {
        "remaining_dentin_mm": 1.5,
        "parts": [
            {"kind": "occlusal_box", "depth_mm": 2.5, "width_mm": 4.0, "length_mm": 4.5},
            *(
                {"kind": "proximal_box", "side": side, "height_mm": 5.0, "width_mm": 4.0, "axial_depth_mm": 1.5}
                for side in ("mesial", "distal")
            ),
        ],
    },
}  # fmt: skip


def told(**values: Any) -> dict[str, Any]:
    return with_values(json.loads(EXAMPLE.read_text()), **values)


def worked(**values: Any) -> Worked:
    return work(read_case(told(**values)))


@given(capsule=st.floats(40, 400))
@settings(max_examples=12, deadline=None)
def test_capsules_follow_the_volume_and_their_mixes_fill_the_cavity(capsule: float) -> None:
    """ceil(V x 1.15 / volume of a capsule), by hand; mixes of equal volume add up to the cavity's."""
    made = worked(**LARGE, stock__0__volume_mm3=capsule)
    volume = made.cavity.filling.volume()
    count = math.ceil(volume * 1.15 / capsule)
    assert len(made.plan.increments) == len(made.plan.supplies) == count
    parts = [one.volume_mm3 for one in made.plan.increments]
    assert sum(parts) == pytest.approx(volume, rel=1e-3)
    assert parts == pytest.approx([volume / count] * count, rel=0.01)
    assert all(part * 1.15 <= capsule * 1.01 for part in parts)


@pytest.mark.parametrize("case", [{}, LARGE], ids=["one", "several"])
def test_no_mix_is_worked_past_its_time_and_nothing_touches_it_before_it_has_set(
    case: dict[str, Any],
) -> None:
    made = worked(**case).plan
    steps = {step.id: step for step in made.steps}
    for one in made.increments:
        mixed = steps[f"build.{one.id}.mix"].end_s
        assert steps[f"build.{one.id}.press"].end_s <= mixed + 100
    last = made.increments[-1]
    waited = steps["build.set"]
    assert waited.end_s == pytest.approx(steps[f"build.{last.id}.mix"].end_s + 300, abs=1)
    later = [
        step
        for step in made.steps
        if step.id.startswith(("matrix.", "finish.")) and step.id.endswith(("off", "trim"))
    ]
    assert later
    assert all(step.start_s >= waited.end_s for step in later)


def test_the_longer_setting_time_counts_of_package_and_practice() -> None:
    longer = worked(practice_settings={"ionomer.set_s": 360.0}).plan
    shorter = worked(practice_settings={"ionomer.set_s": 120.0}).plan
    assert [f.value for f in longer.figures if f.id == "set_seconds"] == [360]
    assert [f.value for f in shorter.figures if f.id == "set_seconds"] == [300]


def test_wet_before_it_has_set_begins_at_conditioning_and_after_it_nothing_is_done_again() -> None:
    made = worked().plan
    wet = {step.id: step.wet for step in made.steps if step.wet}
    assert wet["build.set"].redo[0] == "bond.pumice"
    assert "build.ionomer.place" in wet["build.set"].redo
    assert wet["bond.dry"].redo == ["bond.pumice", "bond.condition", "bond.rinse"]
    assert wet["finish.trim"].redo == []
    assert "has set" in wet["finish.trim"].reason.text
    assert wet["prepare.verify"].redo == []


RESIN_MODIFIED = {
    "restoration__ionomer": "demo resin-modified ionomer",
    "restoration__light": json.loads((EXAMPLE.parent / "lower_first_molar_mo.json").read_text())["light"],
}


@pytest.mark.parametrize(
    "case", [{}, LARGE, {**LARGE, "stock__1__volume_mm3": 60}], ids=["one", "several", "small capsules"]
)
def test_what_light_sets_is_placed_in_layers_that_are_cured_before_the_next(case: dict[str, Any]) -> None:
    made = worked(**case, **RESIN_MODIFIED)
    volume, layers = made.cavity.filling.volume(), made.plan.increments
    assert sum(one.volume_mm3 for one in layers) == pytest.approx(volume, rel=1e-3)
    steps = {step.id: step for step in made.plan.steps}
    for one, following in zip(layers, [*layers[1:], None], strict=True):
        assert one.detail.kind == "cured"
        assert one.detail.thickness_mm <= 2.005
        assert one.detail.dose_at_worst_point_j_cm2 >= one.detail.dose_needed_j_cm2
        lit = [s for s in made.plan.steps if s.light and s.increment == one.order]
        assert min(s.start_s for s in lit) >= steps[f"build.{one.id}.place"].end_s
        if following:
            assert steps[f"build.{following.id}.place"].start_s >= max(s.end_s for s in lit)
    assert "build.set" not in steps
    # One capsule after the other: none gives more than it holds, none is worked past its 150 s.
    assert sorted(order for one in made.plan.supplies for order in one.increments) == [
        one.order for one in layers
    ]
    for capsule in made.plan.supplies:
        of = [one for one in layers if one.order in capsule.increments]
        held = case.get("stock__1__volume_mm3", 130)
        assert sum(one.volume_mm3 for one in of) * 1.15 <= held
        assert steps[f"build.{of[-1].id}.place"].end_s <= capsule.expires_s


def test_a_rule_is_cited_only_where_the_package_leaves_it_to_act() -> None:
    said = {
        "stock__1__depth_mm": 1.6,
        "stock__1__manufacturer": {"seconds": 20, "at_irradiance_mw_cm2": 900},
    }
    for more, acting in (({}, True), (said, False)):
        made = worked(**LARGE, **RESIN_MODIFIED, **more).plan
        light = next(figure for figure in made.figures if figure.id == "light_seconds")
        cited = {use.rule for use in light.rules}
        assert ({"ionomer.layer_mm", "ionomer.exposure_s"} <= cited) == acting
        assert (
            light.value == sum(step.seconds for step in made.steps if step.light) == made.totals.light_seconds
        )
        capsules = next(figure for figure in made.figures if figure.id == "capsules")
        assert "ionomer.capsule_mm3" not in {use.rule for use in capsules.rules}
        assert max(one.detail.thickness_mm for one in made.increments) <= (1.605 if more else 2.005)


def test_of_what_light_sets_only_the_layer_in_hand_comes_out_when_it_gets_wet() -> None:
    made = worked(**LARGE, **RESIN_MODIFIED).plan
    wet = {step.id: step.wet for step in made.steps if step.wet}
    first, second = made.increments[:2]
    assert wet[f"build.{first.id}.light"].redo[0] == "bond.pumice"
    assert wet[f"build.{second.id}.light"].redo[-1] == f"build.{second.id}.place"
    assert f"build.{first.id}.place" not in wet[f"build.{second.id}.light"].redo
    assert wet["finish.trim"].redo == []


def test_what_light_sets_wants_a_light_that_reaches_it() -> None:
    with pytest.raises(InputError, match=r"restoration\.light: got 'nothing', allowed a curing light"):
        worked(restoration__ionomer="demo resin-modified ionomer")
    dark = {
        **LARGE,
        **RESIN_MODIFIED,
        "stock__1__manufacturer": {"seconds": 240, "at_irradiance_mw_cm2": 1200},
    }
    with pytest.raises(NotFeasible) as caught:
        worked(**dark)
    assert caught.value.code == "ionomer.too_dark"


def test_nothing_is_lit_but_a_coat_and_nothing_beveled_or_bonded() -> None:
    made = worked().plan
    assert [step.id for step in made.steps if step.light] == ["finish.coat_cure"]
    assert not {"bond", "adhesive"} & {want.kind for want in made.wants}
    assert not any(
        word in step.title.lower() for step in made.steps for word in ("bevel", "etch", "adhesive")
    )
    assert {"shade"}.isdisjoint(stage.id for stage in made.stages)
    assert [s.name for s in made.stages if s.id in ("bond", "build")] == ["Conditioning", "Placement"]


def test_without_stock_the_handbook_s_ionomer_is_placed_and_said_to_be_assumed() -> None:
    made = worked(stock=[]).plan
    assert {"restoration.ionomer.volume_mm3", "restoration.ionomer.mix_s"} <= {
        a.path for a in made.assumptions
    }
    assert made.wants == []
    assert made.increments[0].detail.kind == "set"


@pytest.mark.parametrize(
    ("values", "line"),
    [
        ({"stock__0__set_s": 100}, "stock[0].set_s: got 100, allowed more than its working time, 100"),
        ({"stock__0__volume_mm3": 0}, "stock[0].volume_mm3: got 0, allowed more than 0"),
        ({"restoration__ionomer": "none such"}, "restoration.ionomer: got 'none such', allowed demo capsule ionomer"),
        ({"restoration__coat": "none such"}, "restoration.coat: got 'none such', allowed demo clear coat"),
        ({"restoration__technique": "oblique"}, "restoration.technique: got an unknown key, allowed one of coat"),
        ({"restoration__material": "putty"}, "restoration: got"),
    ],
)  # fmt: skip
def test_bad_input_is_named(values: dict[str, Any], line: str) -> None:
    with pytest.raises(InputError) as caught:
        worked(**values)
    assert line in str(caught.value)


def test_a_reduced_cusp_and_a_heavy_load_are_refused_with_what_would_do() -> None:
    covered = {**LARGE["preparation"], "parts": [*LARGE["preparation"]["parts"], {"kind": "cusp_reduction", "cusps": ["distolingual"], "tip_mm": 2.0}]}  # type: ignore[dict-item]  # fmt: skip
    for values in ({**LARGE, "preparation": covered}, {**LARGE, "findings__load": "heavy"}):
        refusal = plan(read_case(told(**values)))
        assert isinstance(refusal, NoPlan)
        assert refusal.requirement.code == "ionomer.load"
        assert "composite" in refusal.requirement.text
        assert [stage.name for stage in refusal.stages if stage.id == "bond"] == ["Conditioning"]


def test_a_cervical_lesion_is_out_of_load_whatever_the_bite() -> None:
    assert isinstance(plan(read_case(told(findings__load="heavy"))), Plan)
    with pytest.raises(NotFeasible):
        worked(**{**LARGE, "findings__load": "heavy"})


def test_every_rule_of_it_acts() -> None:
    """A rule that is cited is one that moves its figure."""
    rules = load_rulebook()
    more = worked(**LARGE, practice_settings={"ionomer.surplus_share": 0.6}).plan
    assert len(more.increments) > len(worked(**LARGE).plan.increments)
    denser = worked(practice_settings={"ionomer.density_g_cm3": 3.0}).plan
    ratio = denser.geometry.mass_g / worked().plan.geometry.mass_g
    assert ratio == pytest.approx(3.0 / rules.value("ionomer.density_g_cm3"))
