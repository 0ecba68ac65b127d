"""Light from several sides together: found with few rays, held against all points measured finely."""

import math
import os
from collections.abc import Sequence
from typing import Any

import numpy as np
import pytest

from mallet.light.aims import Aim, Field
from mallet.light.cure import Body, Lit
from mallet.light.field import FINE
from mallet.light.presses import Button
from mallet.light.program import Program, least_rungs
from mallet.light.sides import hopes_from_sides_s, least_from_sides
from mallet.plan import plan, work
from mallet.remembered import forget
from mallet.rulebook import Rulebook
from mallet.terms.case import read_case
from mallet.worked import read_worked
from tests.core.conftest import EXAMPLE, first_case, with_values
from tests.core.test_light import behind_a_clear_band

WORKED = ["stump_in_form", "tunnel_ridge_stays"]
CASES = {
    "behind_a_clear_band": read_case(behind_a_clear_band()),
    **{name: read_worked(EXAMPLE.parent / "worked" / f"{name}.json")[1] for name in WORKED},
}


@pytest.mark.parametrize("name", CASES)
def test_presses_suffice_everywhere_and_an_unused_side_is_no_part_of_the_least(
    name: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    told: list[bool] = []

    def checked(
        body: Body,
        aims: Sequence[Aim],
        field: Field,
        dose_j_cm2: float,
        button: Button,
        rules: Rulebook,
        longest_s: float,
        under_s: float = math.inf,
    ) -> tuple[Lit, Program] | None:
        asked = body, aims, field, dose_j_cm2, button, rules, longest_s
        cap = rules.value("light.irradiance_cap_mw_cm2")
        points = body.with_depth().points
        exact = np.minimum(np.column_stack([field(points, aim, FINE) for aim in aims]), cap)
        found = least_from_sides(*asked, under_s)
        told.append(bool(found))
        if not found:
            return found
        lit, program = found
        full_s = np.array(program.full_s)
        assert (exact @ full_s / 1000).min() >= dose_j_cm2 * 0.999
        assert float(lit.irradiance_mw_cm2[0] @ full_s) / 1000 >= dose_j_cm2
        # Fewer places never want more than all that were looked at.
        few = least_rungs(exact, dose_j_cm2, button, rules.value("light.least_exposure_s"), longest_s)
        assert few
        assert sum(rung.seconds for rung in few) <= sum(program.seconds)
        # What is called the least reaches every place by the sides that are pressed alone.
        least_s = np.array(program.least_s)
        assert [s > 0 for s in full_s] == [s > 0 for s in least_s]
        assert (exact @ least_s / 1000).min() >= dose_j_cm2 * 0.99
        # Wherever the light is known beforehand, it tells of no more time than all places together take.
        some = Lit(points[::9], tuple(aims[:1]), exact[::9, :1], points[::9])
        hopes = list(hopes_from_sides_s(some, aims, *asked[2:]))
        assert hopes == sorted(hopes)
        assert hopes[-1] <= sum(program.seconds)
        return found

    monkeypatch.setattr("mallet.curing.portions.least_from_sides", checked)
    work(CASES[name])
    assert any(told)


def test_portions_lit_side_by_side_are_lit_as_one_by_one(monkeypatch: pytest.MonkeyPatch) -> None:
    def planned(threads: int, case: dict[str, Any]) -> str:
        monkeypatch.setattr(os, "cpu_count", lambda: threads)
        forget()
        return plan(read_case(case)).model_dump_json()

    box = {"kind": "occlusal_box", "depth_mm": 2.5, "width_mm": 3.0, "length_mm": 5.0}
    case = with_values(
        first_case(),
        school__layering="oblique",
        restoration__surfaces="O",
        preparation__parts=[box],
        provenance={},
    )
    assert len({planned(threads, case) for threads in (1, 5)}) == 1
    # What any of them is refused for is said as ever, the first one first.
    dark = with_values(case, masses__0__penetration_depth_mm=0.2, masses__0__critical_exposure_j_cm2=2.0)
    refused = {planned(threads, dark) for threads in (1, 5)}
    assert len(refused) == 1
    assert "cure.too_long" in refused.pop()
