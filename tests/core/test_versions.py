"""What older versions say is read as it would be said today: cases, plans and drawings, kept as they were made."""

import json
from pathlib import Path
from typing import Any

import pytest

from mallet.drawing import Drawing
from mallet.terms.case import Case, get_path, read_case
from mallet.terms.errors import InputError
from mallet.terms.plan import NoPlan
from mallet.terms.upgrade import KEYS, VALUES, path_in_1, path_in_2, upgrade_case
from mallet.terms.upgrade_plan import upgrade_drawing, upgrade_plan
from tests.core.conftest import first_case, with_values
from tests.core.planned import plan

KEPT = sorted((Path(__file__).parents[1] / "versions").glob("*_1.json"))


# Enamel over the face of an edge was thicker, and its contour was not held against the twin's.
OF_THEN = {"shade.enamel_front_mm": 1.0, "chair.contour_s": 0.0}


def kept(path: Path) -> dict[str, Any]:
    read: dict[str, Any] = json.loads(path.read_text())
    return read


@pytest.mark.parametrize("path", KEPT, ids=lambda path: path.stem)
def test_a_case_of_version_1_is_planned_and_says_what_its_plan_said(path: Path) -> None:
    """The plan of before, upgraded, tells the same increments, decisions, checks and steps as today's plan of the case."""
    before, now = upgrade_plan(kept(path)["plan"]), plan(read_case({**kept(path)["case"], "house": OF_THEN}))
    told = json.loads(now.model_dump_json(by_alias=True))
    if isinstance(now, NoPlan):
        # Sentences may be said in other words by now, never for another reason.
        for key in ("code", "params"):
            assert before["requirement"][key] == told["requirement"][key]
        assert before["nearest"] == told["nearest"]
        return
    assert before["format"] == told["format"]
    assert [one["id"] for one in before["increments"]] == [one["id"] for one in told["increments"]]
    for then, today in zip(before["increments"], told["increments"], strict=True):
        for key in ("product", "volume_mm3", "measures"):
            assert then[key] == pytest.approx(today[key]) if key == "volume_mm3" else then[key] == today[key]
        assert then["detail"].keys() == today["detail"].keys()
    # A notch comes before its bevel by now.
    of_edge = ("prepare.bevel", "prepare.notch", "finish.contour")
    then, today = ([s["id"] for s in one["steps"] if s["id"] not in of_edge] for one in (before, told))
    assert then == today
    assert [c["topic"] for c in before["checks"]] == [c["topic"] for c in told["checks"]]
    assert before["totals"] == told["totals"]


@pytest.mark.parametrize("path", [one for one in KEPT if "drawing" in kept(one)], ids=lambda path: path.stem)
def test_a_drawing_of_version_1_names_sizes_that_its_case_has_today(path: Path) -> None:
    case = read_case(kept(path)["case"])
    drawing = Drawing.model_validate(upgrade_drawing(kept(path)["drawing"]))
    sizes = [one.case_path for sheet in drawing.sheets for one in sheet.dimensions]
    assert sizes
    for size in sizes:
        get_path(case, size)


@pytest.mark.parametrize("path", KEPT, ids=lambda path: path.stem)
def test_upgrading_changes_nothing_that_is_of_today_and_nothing_that_was_kept(path: Path) -> None:
    told = kept(path)
    once = upgrade_case(told["case"])
    assert upgrade_case(once) == once
    assert upgrade_plan(upgrade_plan(told["plan"])) == upgrade_plan(told["plan"])
    assert told == kept(path)


def test_every_key_has_its_way_there_and_back() -> None:
    for old, new in KEYS:
        if old == "bonding":
            old, new = "bonding.adhesive", "restoration.adhesive"
        at = (old.replace("[]", "[3]"), new.replace("[]", "[3]"))
        assert path_in_2(at[0]) == at[1]
        assert path_in_1(at[1]) == at[0]
    assert path_in_2("patient.weight_kg") == path_in_1("patient.weight_kg") == "patient.weight_kg"


def test_every_value_of_today_is_one_that_its_model_takes() -> None:
    schema = json.dumps(Case.model_json_schema())
    assert all(f'"{new}"' in schema for values in VALUES.values() for new in values.values())


@pytest.mark.parametrize(
    ("told", "line"),
    [
        ({"findings__pulp": "dead"}, "findings.pulp: got 'dead', allowed 'sound', 'reversible', 'in_doubt'"),
        ({"school__layerin": 1}, "school.layerin: got an unknown key, allowed one of anterior_dam, band, chlorhexidine, copper, dam_span, decay"),
        ({"masses__0__maker": {"seconds": -1, "at_irradiance_mw_cm2": 1}}, "masses[0].maker.seconds: got -1"),
    ],
)  # fmt: skip
def test_what_is_wrong_with_a_file_is_named_as_the_file_has_it(told: dict[str, Any], line: str) -> None:
    with pytest.raises(InputError) as caught:
        plan(read_case(with_values(first_case(), **told)))
    assert line in str(caught.value)
