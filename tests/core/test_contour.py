"""A rebuilt edge is compared with its twin: where line angles go, what is measured, what is refused."""

from typing import Any

import pytest

from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.terms.plan import Plan
from tests.core.conftest import first_case, with_values
from tests.core.planned import plan, steps_of
from tests.core.test_matched import case_of


def planned_by(**twin: float) -> Plan:
    case = case_of().model_dump(mode="json", exclude_unset=True)
    made = plan(read_case({**case, "twin": twin}))
    assert isinstance(made, Plan)
    return made


@pytest.mark.parametrize(
    ("own_mm", "angles", "chosen", "code", "says"),
    [
        (8.4, {"line_angles_mm": 5.8}, "line angles 5.8 mm apart", "finish.as_wide", "as wide"),
        (8.6, {}, "line angles as far apart as on 21", "finish.as_wide", "as wide"),
        (9.0, {"line_angles_mm": 5.8}, "line angles 5.8 mm apart", "finish.wider", "0.6 mm wider"),
        (7.9, {"line_angles_mm": 5.8}, "line angles 5.8 mm apart", "finish.narrower", "0.5 mm narrower"),
    ],
)
def test_a_tooth_looks_as_wide_as_its_line_angles_stand_apart(
    own_mm: float, angles: dict[str, float], chosen: str, code: str, says: str
) -> None:
    made = planned_by(width_mm=8.4, own_width_mm=own_mm, **angles)
    (told,) = (d for d in made.decisions if d.topic == "finish.contour")
    assert told.chosen == chosen
    assert [reason.code for reason in told.reasons] == [code]
    assert says in told.reasons[0].text


def test_what_was_measured_of_the_twin_is_measured_of_the_restoration() -> None:
    made = planned_by(length_mm=10.2, line_angles_mm=5.8)
    (step,) = (s for s in steps_of(made, "finish") if s.id == "finish.contour")
    assert "compare with 21" in step.detail
    assert {t.id: (t.low, t.value, t.high) for t in step.targets} == {
        "length": (9.9, 10.2, 10.5),
        "line_angles": (5.5, 5.8, 6.1),
    }
    for target in step.targets:
        assert [use.rule for use in target.rules] == ["composite.contour_off_mm"]
        assert [one.path for one in target.inputs] == [f"twin.{target.id}_mm"]
    ids = [s.id for s in made.steps]
    assert ids.index("finish.trim") < ids.index("finish.contour") < ids.index("finish.polish")
    assert {"twin.width_mm", "twin.own_width_mm"} <= {a.path for s in made.stages for a in s.asks}


def test_without_the_twin_s_sizes_it_is_compared_by_eye_and_no_back_tooth_is() -> None:
    (step,) = (s for s in steps_of(planned_by(), "finish") if s.id == "finish.contour")
    assert step.targets == []
    back = plan(read_case(with_values(first_case(), twin__width_mm=10.0)))
    assert isinstance(back, Plan)
    assert "finish.contour" not in {s.id for s in back.steps}


@pytest.mark.parametrize(
    ("twin", "path"),
    [
        ({"width_mm": 8.0, "line_angles_mm": 8.0}, "twin.line_angles_mm"),
        ({"length_mm": 30}, "twin.length_mm"),
        ({"widht_mm": 8}, "twin.widht_mm"),
    ],
)
def test_what_is_no_twin_is_refused_by_its_path(twin: dict[str, Any], path: str) -> None:
    with pytest.raises(InputError) as refused:
        planned_by(**twin)
    assert refused.value.problems[0].path == path
