"""Worked cases: each comes out as its authority has it, and one that does not is told."""

import json
from pathlib import Path
from typing import Any

import pytest

from mallet.cli import main
from mallet.terms.errors import InputError
from mallet.worked import judge, with_changes

EXAMPLES = Path(__file__).parents[2] / "examples"
WORKED = sorted((EXAMPLES / "worked").glob("*.json"))


@pytest.mark.parametrize("path", WORKED, ids=lambda path: path.stem)
def test_a_worked_case_comes_out_as_expected(path: Path) -> None:
    verdict = judge(path)
    assert verdict.authority
    assert verdict.otherwise == ()


def wrong(tmp_path: Path, *expects: dict[str, Any], **changes: Any) -> Path:
    (tmp_path / "base.json").write_text((EXAMPLES / "lower_first_molar_mo.json").read_text())
    data = {
        "format": "mallet-worked/1", "title": "t", "authority": "a", "base": "base.json",
        "changes": changes, "expects": list(expects),
    }  # fmt: skip
    folder = tmp_path / "worked"
    folder.mkdir(exist_ok=True)
    path = folder / "wrong.json"
    path.write_text(json.dumps({**data, "base": "../base.json"}))
    return path


@pytest.mark.parametrize(
    ("expected", "told"),
    [
        ({"refused": "choose.stopped"}, "expected no plan for choose.stopped, got one"),
        ({"caution": "alert.latex"}, "expected the caution alert.latex"),
        ({"step": "bond.etch_enamel", "seconds": 45}, "expected bond.etch_enamel to take 45 s, got 15"),
        ({"step": "bond.etch_dentin"}, "expected the step bond.etch_dentin"),
        ({"step": "bond.rinse", "says": "oil"}, "expected bond.rinse to say 'oil', got 'Water and"),
        ({"no_step": "bond.rinse"}, "expected no step bond.rinse"),
        ({"decision": "choose.material", "first": "amalgam"}, "expected amalgam first, got composite"),
        ({"decision": "choose.material", "stopped": ["amalgam"]}, "expected amalgam to be stopped"),
        ({"decision": "choose.material", "not_stopped": ["sealant"]}, "expected sealant not to be stopped"),
        ({"decision": "matrix.mesial", "chosen": "clear"}, "expected clear, got sectional"),
        ({"decision": "matrix.distal"}, "expected a decision on matrix.distal"),
    ],
)
def test_what_comes_otherwise_is_told(
    expected: dict[str, Any], told: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = wrong(tmp_path, expected)
    (said,) = judge(path).otherwise
    assert said.startswith(told)
    assert main(["examples", str(path.parent)]) == 1
    assert told in capsys.readouterr().out


def test_a_plan_that_is_refused_unasked_is_told_and_a_bad_file_named(tmp_path: Path) -> None:
    path = wrong(tmp_path, {"caution": "alert.latex"}, **{"findings.field": "wet"})
    assert judge(path).otherwise == ("expected a plan, got no plan: choose.stopped",)
    path.write_text(json.dumps({"format": "mallet-worked/1", "title": "t"}))
    with pytest.raises(InputError, match="authority: got nothing"):
        judge(path)
    assert main(["examples", str(tmp_path / "nowhere")]) == 2


def test_changes_go_in_by_path() -> None:
    case = {"preparation": {"parts": [{"height_mm": 1}]}}
    changed = with_changes(
        case, {"preparation.parts[0].height_mm": 2, "patient.age_years": 9, "house.bond.rinse_s": 5}
    )
    assert changed == {
        "preparation": {"parts": [{"height_mm": 2}]}, "patient": {"age_years": 9}, "house": {"bond.rinse_s": 5},
    }  # fmt: skip
    assert case == {"preparation": {"parts": [{"height_mm": 1}]}}
