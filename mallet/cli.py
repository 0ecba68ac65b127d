"""The heart on the command line: `mallet plan | shape | schema | facts | light | curve | examples`."""

from __future__ import annotations

import argparse
import base64
import json
import os
import sys
from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from mallet.light.beam import fit_beam, read_readings_csv
from mallet.light.working_curve import fit_curve, read_depths_csv
from mallet.plan import plan, work
from mallet.rulebook import load_rulebook, where_used
from mallet.studies.shapes import shape_file
from mallet.terms.canonical import canonical_json
from mallet.terms.case import Case, as_told, read_case, set_path
from mallet.terms.errors import InputError, NotFeasible, Problem
from mallet.terms.plan import NoPlan, Plan
from mallet.worked import STRENGTH, WORKED_FORMAT, Verdict, judge_folder, read_worked

OK, OTHERWISE, BAD_INPUT, NO_PLAN = 0, 1, 2, 3
TABLE_MM = range(11)


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command; return 0, 2 for bad input (one line a problem on stderr), 3 for no plan."""
    arguments = _parser().parse_args(argv)
    try:
        return int(arguments.run(arguments))
    except InputError as error:
        print(error, file=sys.stderr)
        return BAD_INPUT
    except BrokenPipeError:
        # Whoever reads has seen enough; what is left in the buffer has nowhere to go.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return OK


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="mallet", description="Plans direct dental restorations.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    planning = commands.add_parser("plan", help="plan a case and print it as canonical JSON")
    planning.add_argument("case", type=Path, metavar="CASE.json")
    planning.add_argument(
        "--scan",
        type=Path,
        nargs=2,
        metavar=("BEFORE", "AFTER"),
        help="the tooth before and after cutting, STL or PLY: what lies between is the cavity",
    )
    planning.add_argument(
        "--points",
        nargs="?",
        const="dimmest",
        choices=("dimmest", "all"),
        help="with irradiance at the points of lowest radiant exposure of each increment, or at 200 and more all over it",
    )
    planning.set_defaults(run=_plan)
    shape = commands.add_parser("shape", help="write a solid of a planned case as STL or PLY")
    shape.add_argument("case", type=Path, metavar="CASE.json")
    shape.add_argument(
        "shape", metavar="SHAPE", help="before, after, restoration, dentin, pulp or an increment's id"
    )
    shape.add_argument("out", type=Path, metavar="OUT.stl|OUT.ply")
    shape.set_defaults(run=_shape)
    schema = commands.add_parser("schema", help="print the JSON Schema of a case or a plan")
    schema.add_argument("what", choices=("case", "plan"))
    schema.set_defaults(run=_schema)
    facts = commands.add_parser("facts", help="print the rulebook with its sources")
    facts.set_defaults(run=_facts)
    light = commands.add_parser("light", help="fit a curing light's beam to radiometer readings")
    light.add_argument("readings", type=Path, metavar="READINGS.csv")
    light.add_argument("--tip-diameter-mm", type=float, required=True)
    light.set_defaults(run=_light)
    curve = commands.add_parser("curve", help="fit a composite's working curve to depths of cure")
    curve.add_argument("depths", type=Path, metavar="DEPTHS.csv")
    curve.set_defaults(run=_curve)
    worked = commands.add_parser("examples", help="plan worked cases and print what differs")
    worked.add_argument("folder", type=Path, nargs="?", default=Path("examples/worked"), metavar="FOLDER")
    worked.set_defaults(run=_examples)
    return parser


def _plan(arguments: argparse.Namespace) -> int:
    data = _case_data(arguments.case)
    if arguments.scan:
        before, after = (base64.b64encode(_bytes(path)).decode() for path in arguments.scan)
        set_path(data, "preparation.scan", {"before": before, "after": after})
    with as_told(data) as told:
        made = plan(read_case(told), points=arguments.points or "none")
    print(canonical_json(made.model_dump(mode="json", by_alias=True, exclude_none=True)))
    return OK if made.feasible else NO_PLAN


def _shape(arguments: argparse.Namespace) -> int:
    try:
        with as_told(_case_data(arguments.case)) as told:
            worked = work(read_case(told))
    except NotFeasible as refusal:
        print(refusal.text, file=sys.stderr)
        return NO_PLAN
    made = shape_file(worked, arguments.shape, arguments.out.suffix.removeprefix(".").lower())
    try:
        arguments.out.write_bytes(made)
    except OSError as error:
        raise InputError.at(str(arguments.out), type(error).__name__, "a file that can be written") from None
    return OK


def _examples(arguments: argparse.Namespace) -> int:
    verdicts = judge_folder(arguments.folder)
    if not verdicts:
        raise InputError.at("FOLDER", str(arguments.folder), "a folder with worked cases")
    width = max(len(verdict.name) for verdict in verdicts)
    for verdict in verdicts:
        print(
            f"{verdict.name:{width}}  {'otherwise' if verdict.otherwise else 'as expected':11}  {verdict.title}"
        )
        told = [f"by {verdict.authority}", *verdict.otherwise]
        if verdict.is_ordinary:
            told.append(f"alarms: {'; '.join(verdict.alarms) or 'none'}")
        for line in told:
            print(f"{'':{width}}  {'':11}  {line}")
    if ordinary := [verdict for verdict in verdicts if verdict.is_ordinary]:
        print(_alarms(ordinary))
    return OTHERWISE if any(verdict.otherwise for verdict in verdicts) else OK


def _alarms(verdicts: Sequence[Verdict]) -> str:
    """Say how many of some cavities raise an alarm, and of what kind."""

    def raising(*topics: str, verdict: str = "") -> int:
        return sum(any(a.startswith(topics) and verdict in a for a in v.alarms) for v in verdicts)

    return (
        f"{len(verdicts)} ordinary cavities: {raising(*STRENGTH)} with a caution on strength,"
        f" {raising('pulp.warmth')} on pulp temperature, {raising('', verdict=' fail:')} with a failure"
    )


def _schema(arguments: argparse.Namespace) -> int:
    adapter: TypeAdapter[Any] = TypeAdapter(Case if arguments.what == "case" else Plan | NoPlan)
    print(json.dumps(adapter.json_schema(), indent=2, sort_keys=True))
    return OK


def _facts(arguments: argparse.Namespace) -> int:
    book = load_rulebook()
    used = where_used()
    rows = [
        {
            **book.use(rule_id).model_dump(exclude_none=True),
            **{name: getattr(rule, name) for name in ("low", "high", "note")},
            "used": used[rule_id],
        }
        for rule_id, rule in sorted(book.rules.items())
    ]
    disputes = [asdict(dispute) for dispute in book.disputes]
    crowns = {"source": book.sources[book.crowns["source"]], "table": dict(book.crowns)}
    print(canonical_json({"version": book.version, "rules": rows, "disputes": disputes, "crowns": crowns}))
    return OK


def _light(arguments: argparse.Namespace) -> int:
    diameter = arguments.tip_diameter_mm
    if not 3 <= diameter <= 20:
        raise InputError.at("--tip-diameter-mm", diameter, "3 to 20")
    beam = fit_beam(read_readings_csv(_text(arguments.readings)), diameter, "readings")
    table = [{"distance_mm": z, "irradiance_mw_cm2": beam.on_axis_mw_cm2(z)} for z in TABLE_MM]
    print(
        canonical_json(
            {
                "contact_mw_cm2": beam.contact_mw_cm2,
                "exponent": beam.exponent,
                "tip_diameter_mm": diameter,
                "residuals": [vars(r) for r in beam.residuals],
                "by_distance": table,
            }
        )
    )
    return OK


def _curve(arguments: argparse.Namespace) -> int:
    readings = read_depths_csv(_text(arguments.depths), load_rulebook())
    fit = fit_curve(readings)
    rows = [
        {"exposure_j_cm2": r.exposure_j_cm2, "depth_mm": r.depth_mm, "off_the_curve_mm": off}
        for r, off in zip(readings, fit.residuals_mm, strict=True)
    ]
    print(canonical_json({**vars(fit.curve), "readings": rows}))
    return OK


def _text(path: Path) -> str:
    try:
        return path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise InputError.at(str(path), type(error).__name__, "a readable UTF-8 file") from None


def _bytes(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as error:
        raise InputError.at(str(path), type(error).__name__, "a readable file") from None


def _case_data(path: Path) -> dict[str, Any]:
    """Return the case in a file; of a worked case what it means: its base with its changes."""
    data = _object(path)
    if data.get("format") != WORKED_FORMAT:
        return data
    _, case = read_worked(path)
    return case.model_dump(mode="json", exclude_unset=True)


def _object(path: Path) -> dict[str, Any]:
    text = _text(path)
    try:
        data = json.loads(text, parse_constant=_refuse_constant)
    except json.JSONDecodeError as error:
        where = f"{path}, line {error.lineno}"
        raise InputError.at(where, error.msg, "JSON") from None
    if not isinstance(data, dict):
        raise InputError(Problem(str(path), type(data).__name__, "a JSON object"))
    return data


def _refuse_constant(name: str) -> float:
    raise InputError.at("case", name, "finite numbers")


if __name__ == "__main__":
    sys.exit(main())
