"""Carving by reference heights: lines re-measured on the teeth's solids, targets by hand, lines that cannot be."""

import json
import re
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh

from mallet.cavity.neighbours import neighbour_at
from mallet.plan import Worked
from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.terms.plan import NoPlan, Target
from tests.core.conftest import with_values
from tests.core.planned import plan, work

EXAMPLES = Path(__file__).parents[2] / "examples"


def told(**heights: Any) -> dict[str, Any]:
    """Return a lower first molar whose facial cusps are taken down, with what was measured before."""
    base = json.loads((EXAMPLES / "upper_premolar_mo_amalgam.json").read_text())
    parts = [
        {
            "kind": "occlusal_box",
            "depth_mm": 2.0,
            "width_mm": 2.4,
            "length_mm": 4.0,
            "wall_divergence_deg": -4,
        },
        {
            "kind": "proximal_box",
            "side": "mesial",
            "height_mm": 4.2,
            "width_mm": 3.2,
            "axial_depth_mm": 1.5,
            "wall_divergence_deg": -4,
        },
        {"kind": "cusp_reduction", "cusps": ["mesiofacial"], "tip_mm": 2.2, "groove_mm": 2.0},
    ]
    changes = {"tooth__code": "46", "restoration__surfaces": "MOF", "preparation__parts": parts}
    return with_values(base, **changes, adjacent={"mesial": {"tooth": "45"}}, reference_heights=heights)


def done(**heights: Any) -> Worked:
    return work(read_case(told(**heights)))


def targets(made: Worked) -> dict[str, Target]:
    (carving,) = (step for step in made.plan.steps if step.id == "finish.trim")
    return {target.id: target for target in carving.targets}


def test_a_cusp_is_carved_short_of_its_height_over_a_line_measured_on_the_teeth() -> None:
    """The line's ends are the tips of the teeth's solids, met by rays of another library; the rest is by hand: 0.4 below
    the line before, 0.3 shorter now."""
    made = done(by_cusp={"mesiofacial": {"above_mm": -0.4, "inside_mm": 0.8}})
    target = targets(made)["cusp.mesiofacial"]
    assert target.detail.startswith("against 45 facial to 47 mesiofacial, its tip 0.8 mm inside")
    assert (target.before, target.value, target.low, target.high) == (-0.4, -0.7, -1.2, -0.4)
    tips = []
    for side, end in zip(("mesial", "distal"), target.ends, strict=True):
        beside = neighbour_at(made.case, made.cavity, side, made.rules)  # type: ignore[arg-type]
        assert beside is not None
        mesh = beside.solid.to_mesh()
        tooth = trimesh.Trimesh(mesh.vert_properties[:, :3], mesh.tri_verts)
        spots = [[end.x + dx, end.y + dy, 30.0] for dx in (-0.05, 0, 0.05) for dy in (-0.05, 0, 0.05)]
        hits, _, _ = tooth.ray.intersects_location(spots, np.tile([0.0, 0.0, -1.0], (9, 1)))
        assert end.z == pytest.approx(hits[:, 2].max(), abs=0.15)
        tips.append(np.array([end.x, end.y, end.z]))
    assert target.place is not None
    away = tips[1] - tips[0]
    share = np.dot(np.array([target.place.x, target.place.y]) - tips[0][:2], away[:2]) / np.dot(
        away[:2], away[:2]
    )
    assert target.place.z == pytest.approx(tips[0][2] + share * away[2] - 0.7)
    assert [use.path for use in target.inputs] == [
        "reference_heights.by_cusp.mesiofacial.above_mm",
        "reference_heights.by_cusp.mesiofacial.line",
    ]
    assert [use.provenance for use in target.inputs] == ["measured", "estimated"]


def test_ridge_and_groove_are_carved_as_they_were_and_the_groove_no_deeper_than_edges_bear() -> None:
    made = done(groove_mm=-1.8, mesial_ridge_mm=0.2, groove_from_facial_mm=2.5)
    found = targets(made)
    assert found["ridge.mesial"].value == 0.2
    (carving,) = (one for one in made.plan.decisions if one.topic == "finish.carving")
    flatter = re.search(r"groove (\d\.\d) mm shallower", carving.chosen)
    assert flatter is not None
    assert found["groove"].value == pytest.approx(-1.8 + float(flatter[1]), abs=0.06)
    assert "mesial ridge +0.2 mm" in carving.chosen
    assert "2.5 mm from the facial tips" in found["groove"].detail


def test_nobody_s_guess_becomes_a_height_to_carve_to() -> None:
    """A cusp that nobody measured has no target: a wrong one would be bitten on."""
    made = done()
    assert set(targets(made)) == {"ridge.mesial"}
    assert "assess.heights" in {step.id for step in made.plan.steps}
    (asked,) = [stage.asks for stage in made.plan.stages if stage.id == "assess"]
    lines = next(ask.options for ask in asked if ask.path.endswith("by_cusp.mesiofacial.line"))
    assert [one.name for one in lines][:2] == ["45 facial to 47 mesiofacial", "45 facial to 47 distofacial"]
    assert all("46 mesiofacial" not in one.name for one in lines)


def test_a_cusp_that_the_tooth_has_not_is_asked_no_line() -> None:
    """Where there is no plan the stages ask all the same."""
    case = told()
    case["preparation"]["parts"][2]["cusps"] = ["facial"]
    case["findings"] = {**case.get("findings", {}), "pulp": "pending"}
    refused = plan(read_case(case))
    assert isinstance(refused, NoPlan)
    asked = [ask for stage in refused.stages for ask in stage.asks if "by_cusp.facial.line" in ask.path]
    assert [ask.options for ask in asked] == [[]]


@pytest.mark.parametrize(
    ("height", "message"),
    [
        (
            {"line": "own.mesiofacial distal.mesiofacial", "above_mm": 0},
            r"by_cusp\.mesiofacial\.line: got 'own\.mesiofacial distal\.mesiofacial', allowed 'mesial\.facial",
        ),
        ({"line": "mesial.tip distal.mesiofacial", "above_mm": 0}, r"by_cusp\.mesiofacial\.line"),
        ({"above_mm": 4.5}, r"by_cusp\.mesiofacial\.above_mm: got 4\.5"),
        ({"line": "somewhere", "above_mm": 0}, r"by_cusp\.mesiofacial\.line: got 'somewhere'"),
    ],
)
def test_a_line_that_cannot_be_is_named_with_those_that_can(height: dict[str, Any], message: str) -> None:
    with pytest.raises(InputError, match=message):
        done(by_cusp={"mesiofacial": height})


def test_a_core_is_carved_to_its_stop_and_not_to_heights() -> None:
    base = json.loads((EXAMPLES / "worked" / "amalgam_core.json").read_text())["changes"]
    data = json.loads((EXAMPLES / "upper_premolar_mo_amalgam.json").read_text())
    changes = {path.replace(".", "__"): value for path, value in base.items()}
    heights = {"by_cusp": {"mesiofacial": {"above_mm": 0.0}}, "groove_mm": -1.5}
    assert targets(work(read_case(with_values(data, **{**changes, "reference_heights": heights})))) == {}
