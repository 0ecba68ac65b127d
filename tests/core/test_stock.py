"""What is in stock: read, described, and taken by the plan where it would do."""

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.terms.plan import Plan
from mallet.terms.restoration import Composite
from mallet.terms.stock import KINDS, fields_of
from tests.core.conftest import first_case, with_values
from tests.core.planned import plan
from tests.core.test_amalgam import occlusal
from tests.core.test_amalgam import told as worked_told

OWN = frozenset({"name", "lot", "kind"})


def band(height: float, form: str = "sectional", thickness: float = 0.04, **more: Any) -> dict[str, Any]:
    name = f"{form} {height:g}"
    return {
        "kind": "band",
        "name": name,
        "form": form,
        "height_mm": height,
        "thickness_mm": thickness,
        **more,
    }


def wedge(width: float) -> dict[str, Any]:
    return {"kind": "wedge", "name": f"wedge {width:g}", "width_mm": width, "height_mm": 0.7 * width}


def planned(*shelf: dict[str, Any]) -> Plan:
    made = plan(read_case(with_values(first_case(), shelf=list(shelf))))
    assert isinstance(made, Plan)
    return made


def wanted(made: Plan, kind: str) -> str | None:
    (want,) = [w for w in made.wants if w.kind == kind]
    return want.name


@settings(max_examples=12, deadline=None)
@given(
    heights=st.lists(st.sampled_from([3.5, 4.5, 5.5, 6.0, 6.5, 7.5]), min_size=1, max_size=4, unique=True),
    widths=st.lists(st.sampled_from([1.0, 1.6, 2.2, 2.8]), min_size=1, max_size=4, unique=True),
)
def test_the_least_that_would_do_is_taken_from_the_shelf(heights: list[float], widths: list[float]) -> None:
    bare, made = planned(), planned(*map(band, heights), *map(wedge, widths))
    (usual,) = [c for c in bare.checks if c.topic == "band.mesial"]
    span = float(usual.title.split()[1]) - usual.measured
    parted = parting(bare)
    high, wide = [h for h in heights if h >= span], [w for w in widths if w >= parted]
    assert wanted(made, "band") == (f"sectional {min(high):g}" if high else None)
    assert wanted(made, "wedge") == (f"wedge {min(wide):g}" if wide else None)
    (check,) = [c for c in made.checks if c.topic == "wedge.mesial"]
    assert ("matrix.wedge_step_mm" in {r.rule for r in check.rules}) == (not wide)
    assert check.measured == min(wide, default=check.measured)


def parting(made: Plan) -> float:
    """Return how wide a wedge has to be: the gap and the separation wanted."""
    (why,) = [r for d in made.decisions for r in d.reasons if r.code == "wedge.by_gap"]
    return float(why.params["gap_mm"] + why.params["separation_mm"])


def test_without_a_shelf_sizes_go_by_their_steps_and_the_plan_says_what_it_wants() -> None:
    made = planned()
    assert [w.kind for w in made.wants] == ["band", "wedge", "ring", "mass"]
    assert [w.name for w in made.wants][:3] == [None, None, None]
    assert made.wants[0].text == "sectional metal band, 6.0 mm"
    (check,) = [c for c in made.checks if c.topic == "band.mesial"]
    assert "matrix.band_step_mm" in {r.rule for r in check.rules}


def test_a_band_of_another_form_is_not_taken_and_its_lack_is_told() -> None:
    made = planned(band(6.0, "clear"))
    assert wanted(made, "band") is None
    decision = next(d for d in made.decisions if d.topic == "matrix.mesial")
    assert "shelf.none" in {r.code for r in decision.reasons}


def test_a_thicker_band_wants_more_separation() -> None:
    thin, thick = (planned(band(6.0, thickness=t)) for t in (0.03, 0.09))
    assert parting(thick) - parting(thin) == pytest.approx(0.06)


def test_a_bad_thing_on_the_shelf_is_named() -> None:
    with pytest.raises(InputError, match=r"shelf\[0\].height_mm: got 40, allowed 15 or less"):
        read_case(with_values(first_case(), shelf=[band(40)]))
    with pytest.raises(InputError, match=r"shelf\[0\]: got .*, allowed a kind among"):
        read_case(with_values(first_case(), shelf=[{"kind": "spoon", "name": "x"}]))


@pytest.mark.parametrize(("kind", "model"), [*KINDS.items(), ("mass", Composite)])
def test_the_properties_of_a_kind_are_told_with_their_bounds(kind: str, model: Any) -> None:
    told = {f.name: f for f in fields_of(model, OWN)}
    nested = (
        {"manufacturer.seconds", "manufacturer.at_irradiance_mw_cm2"}
        if "manufacturer" in model.model_fields
        else set()
    )
    # How a composite looks is read over black and white, no property to be typed.
    assert set(told) == (set(model.model_fields) - OWN - {"manufacturer", "optics"}) | nested
    for field in told.values():
        assert field.options or field.high is not None
        # What is nested is needed only once any of it is told.
        own = model.model_fields.get(field.name)
        assert field.is_needed == (own.is_required() if own else False)


def pins(depth_mm: float, *shelf: dict[str, Any]) -> Plan:
    """Return the plan of a lost cusp with a pin of 0.6 mm, as the practice has pins or has none."""
    hole = {"kind": "pin_hole", "at": "facial", "diameter_mm": 0.6, "depth_mm": depth_mm, "inset_mm": 0.6}
    cover = {"kind": "cusp_reduction", "cusps": ["facial"], "tip_mm": 2.5, "groove_mm": 2.0}
    case = worked_told(
        tooth__code="14",
        restoration__surfaces="O",
        adjacent={},
        preparation__parts=[occlusal(2, 2, 3), cover, hole],
    )
    made = plan(read_case({**case, "stock": [*case["stock"], *shelf]}))
    assert isinstance(made, Plan)
    return made


def test_a_pin_comes_with_its_drill_and_its_hole_is_probed() -> None:
    """Published pairs of pin and drill (operative textbooks, from memory): 0.61 mm goes with 0.53."""
    own = {"kind": "pin", "name": "ours 0.61", "diameter_mm": 0.61, "drill_mm": 0.53, "lot": "L1"}
    other = {"kind": "pin", "name": "ours 0.79", "diameter_mm": 0.79, "drill_mm": 0.69}
    for shelf, pin, drill, wants in (
        ((), "pin 0.6 mm", "0.53 mm", []),
        ((own, other), "ours 0.61", "0.53 mm", [("ours 0.61", "L1")]),
        ((other,), "pin 0.6 mm", "0.53 mm", [(None, None)]),
    ):
        made = pins(2.0, *shelf)
        (step,) = (step for step in made.steps if step.id.startswith("prepare.pin_hole"))
        assert step.tray[:2] == [pin, f"depth-limiting drill {drill}"]
        assert [(want.name, want.lot) for want in made.wants if want.kind == "pin"] == wants
        (depth,) = step.targets
        assert (depth.value, depth.low, depth.high) == (2.0, 1.8, 2.2)
    with pytest.raises(
        InputError, match=r"stock\[\d+\]\.drill_mm: got 0\.7, allowed less than the pin, 0\.61"
    ):
        pins(2.0, {**own, "drill_mm": 0.7})
