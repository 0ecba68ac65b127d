"""The command line: exit codes, canonical bytes, schema, bad files."""

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from jsonschema import Draft202012Validator

from mallet.cli import main
from mallet.terms.upgrade import upgrade_case
from tests.core.conftest import EXAMPLE, first_case, with_values


def run(capsys: pytest.CaptureFixture[str], *words: str) -> tuple[int, str, str]:
    code = main(words)
    out = capsys.readouterr()
    return code, out.out, out.err


def written(path: Path, case: Any) -> str:
    path.write_text(case if isinstance(case, str) else json.dumps(case))
    return str(path)


def test_same_case_same_bytes_in_other_processes_and_orders(
    capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    code, here, _ = run(capsys, "plan", str(EXAMPLE), "--points")
    other = written(tmp_path / "other.json", with_values(first_case(), tooth__code="16", neighbours={}))
    assert code == 0
    run(capsys, "plan", other)
    assert run(capsys, "plan", str(EXAMPLE), "--points")[1] == here
    elsewhere = subprocess.run(
        [sys.executable, "-m", "mallet.cli", "plan", str(EXAMPLE), "--points"],
        capture_output=True,
        text=True,
        check=True,
    )
    assert elsewhere.stdout == here
    turned = dict(reversed(first_case().items()))
    assert run(capsys, "plan", written(tmp_path / "turned.json", turned), "--points")[1] == here


def test_plan_has_the_contract_s_names_and_meets_its_schema(capsys: pytest.CaptureFixture[str]) -> None:
    _, text, _ = run(capsys, "plan", str(EXAMPLE), "--points")
    made = json.loads(text)
    _, schema, _ = run(capsys, "schema", "plan")
    Draft202012Validator(json.loads(schema)).validate(made)
    _, schema, _ = run(capsys, "schema", "case")
    Draft202012Validator(json.loads(schema)).validate(upgrade_case(first_case()))
    assert made["feasible"] is True
    assert {"engine", "rulebook", "case_sha256", "assumptions", "geometry", "decisions", "checks",
            "cautions", "totals", "steps", "increments"} <= made.keys()  # fmt: skip
    parts = {p["kind"]: p["nominal_volume_mm3"] for p in made["geometry"]["parts"]}
    assert parts["occlusal_box"] == 26.60153
    one = made["increments"][0]
    assert {"order", "id", "name", "product", "volume_mm3", "mass_g", "measures", "detail"} <= one.keys()
    assert {"kind", "role", "thickness_mm", "least_thickness_mm", "c_factor", "exposures", "dose_needed_j_cm2",
            "dose_at_worst_point_j_cm2", "worst_point", "touches", "points"} <= one["detail"].keys()  # fmt: skip
    assert one["detail"]["exposures"][0]["from"] == "occlusal"
    assert one["detail"]["dose_needed_j_cm2"] == pytest.approx(2.0)
    assert text == json.dumps(made, sort_keys=True, ensure_ascii=False, separators=(",", ":")) + "\n"


def test_no_plan_exits_3_with_the_requirement(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    case = with_values(first_case(), masses__0__critical_exposure_j_cm2=9.0)
    code, text, _ = run(capsys, "plan", written(tmp_path / "c.json", case))
    made = json.loads(text)
    assert code == 3
    assert made["feasible"] is False
    assert made["requirement"]["code"] == "cure.too_long"
    assert made["nearest"]


BAD = {
    "two problems": (
        with_values(first_case(), preparation__parts__1__height_mm=-2, tooth__colour="red"),
        ["tooth.colour: got an unknown key, allowed one of code, vitality",
         "preparation.parts[1].height_mm: got -2, allowed more than 0"],
    ),
    "infinite": ('{"format": NaN}', ["case: got 'NaN', allowed finite numbers"]),
    "not JSON": ("{", ["line 1: got"]),
    "a list": ("[1]", ["got list, allowed a JSON object"]),
    "text for a number": (
        with_values(first_case(), light__tip_diameter_mm="wide"),
        ["light.tip_diameter_mm: got 'wide', allowed a number"],
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", BAD)
def test_a_bad_case_exits_2_with_one_line_a_problem(
    name: str, capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    case, lines = BAD[name]
    code, out, err = run(capsys, "plan", written(tmp_path / "c.json", case))
    assert (code, out) == (2, "")
    assert len(err.strip().splitlines()) == len(lines)
    assert all(line in err for line in lines)
    assert "Traceback" not in err


def test_light_prints_fit_residuals_and_table(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    good = written(tmp_path / "r.csv", "distance_mm,irradiance_mw_cm2\n0,1150\n4,810\n8,390\n")
    code, text, _ = run(capsys, "light", good, "--tip-diameter-mm", "9")
    fit = json.loads(text)
    assert code == 0
    assert fit["exponent"] == pytest.approx(2.0, abs=0.05)
    assert len(fit["residuals"]) == 3
    assert [row["distance_mm"] for row in fit["by_distance"]] == list(range(11))
    bad = written(tmp_path / "b.csv", "distance_mm,irradiance_mw_cm2\n0,500\n4,700\n")
    code, _, err = run(capsys, "light", bad, "--tip-diameter-mm", "9")
    assert code == 2
    assert "readings that fall with distance" in err


def test_facts_print_every_rule_with_its_citation(capsys: pytest.CaptureFixture[str]) -> None:
    _, text, _ = run(capsys, "facts")
    facts = json.loads(text)
    assert len(facts["rules"]) > 40
    assert all(r["citation"] and r["unit"] and r["sureness"] and r["used"] for r in facts["rules"])
    assert all(len(d["sides"]) > 1 and d["why"] for d in facts["disputes"])


def test_a_shape_is_written_and_what_cannot_be_is_told(
    capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    out = tmp_path / "restoration.ply"
    assert run(capsys, "shape", str(EXAMPLE), "restoration", str(out))[0] == 0
    assert out.read_bytes().startswith(b"ply\nformat binary")
    code, _, told = run(capsys, "shape", str(EXAMPLE), "restoration", str(tmp_path / "restoration.txt"))
    assert (code, told.strip()) == (2, "format: got 'txt', allowed stl or ply")
    code, _, told = run(capsys, "shape", str(EXAMPLE), "pulp", str(tmp_path / "none" / "pulp.stl"))
    assert code == 2
    assert "a file that can be written" in told
    readings = [{"distance_mm": z, "irradiance_mw_cm2": e} for z, e in ((0, 190), (4, 130), (8, 65))]
    weak = written(tmp_path / "weak.json", with_values(first_case(), light__readings=readings))
    code, _, told = run(capsys, "shape", weak, "restoration", str(out))
    assert code == 3
    assert "233" in told
