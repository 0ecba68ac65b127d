"""What is remembered between plans must not be told where it does not hold."""

from typing import Any

import numpy as np
import pytest
from manifold3d import Manifold

from mallet.cavity.rays import Scene
from mallet.light.beam import Beam
from mallet.light.field import Tip, irradiance_mw_cm2
from mallet.plan import plan
from mallet.remembered import Remembered, forget
from mallet.terms.case import read_case
from tests.core.conftest import first_case, with_values


def test_the_last_few_are_known_and_reckoned_once() -> None:
    squares: Remembered[int] = Remembered(2)
    reckoned: list[int] = []

    def square(x: int) -> int:
        reckoned.append(x)
        return x * x

    for x in (3, 4, 3, 5, 3, 4):
        assert squares.get(x, lambda x=x: square(x)) == x * x  # type: ignore[misc]
    # Five came when room was for two: four was asked for longest ago.
    assert reckoned == [3, 4, 5, 4]
    forget()
    assert squares.get(3, lambda: square(3)) == 9
    assert reckoned[-1] == 3


@pytest.mark.parametrize(
    "changes",
    [
        {"masses__0__penetration_depth_mm": 1.1},
        {"light__tip_diameter_mm": 8.0},
        {"neighbours": {}},
        {"house": {"light.wall_return_share": 0.3}},
        {"preparation__parts__1__height_mm": 5.0},
        {"school__layering": "horizontal"},
        {"patient": {"weight_kg": 60}},
    ],
    ids=lambda changes: next(iter(changes)),
)
def test_a_plan_after_another_is_the_plan_from_nothing(changes: dict[str, Any]) -> None:
    changed = read_case(with_values(first_case(), **changes))
    # Twice: the first plan of a tooth may cut it into other triangles than those after it.
    for _ in range(2):
        plan(read_case(first_case()))
        after = plan(changed).model_dump_json()
    forget()
    assert plan(changed).model_dump_json() == after


def test_light_that_is_remembered_is_nobody_s_to_change() -> None:
    tip = Tip((0.0, 0.0, 4.0), Beam(4.5, 1000.0, 2.0))
    light = irradiance_mw_cm2(np.zeros((1, 3)), tip, Scene())
    with pytest.raises(ValueError, match="read-only"):
        light[0] = 0.0
    assert irradiance_mw_cm2(np.zeros((1, 3)), tip, Scene()) is light
    # The same place and tip, half of it behind a wall.
    wall = Scene(Manifold.cube([9.0, 18.0, 1.0]).translate([0.0, -9.0, 1.0]))
    assert irradiance_mw_cm2(np.zeros((1, 3)), tip, wall)[0] == pytest.approx(light[0] / 2, rel=0.01)
