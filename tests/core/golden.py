"""What plans and drawings of the worked cases say, in few numbers, so that moving code shows where it moves an answer.

Words are held exactly, numbers by sums that the last bits of another processor leave alone. `make golden` writes them
anew once an answer is meant to change.
"""

from __future__ import annotations

import hashlib
import json
import math
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from mallet.cavity.sections import area_mm2
from mallet.drawing import draw
from mallet.plan import no_plan
from mallet.terms.errors import NotFeasible
from mallet.terms.upgrade import VALUES, path_in_1
from mallet.worked import read_worked
from tests.core.planned import work

GOLDEN = Path(__file__).with_name("golden.json")
WORKED = sorted((Path(__file__).parents[2] / "examples" / "worked").glob("*.json"))
# What tells a version, not an answer.
VERSIONS = {"engine", "rulebook", "case_sha256", "format"}
NUMERAL = re.compile(r"\d+(?:\.\d+)?")
TURN = (math.sqrt(5) - 1) / 2


def golden_of(path: Path) -> dict[str, list[Any]]:
    """Return what a worked case's plan and drawing say: a digest of their words, how many numbers, and two sums."""
    case = read_worked(path)[1]
    try:
        worked = work(case)
    except NotFeasible as refusal:
        return {"refused": _told(as_told_before(no_plan(case, refusal).model_dump(mode="json")))}
    plan, drawing = worked.plan.model_dump(mode="json"), draw(worked).model_dump(mode="json")
    return {"plan": _told(as_told_before(plan)), "drawing": _told(as_told_before(drawing))}


# Where `mallet-plan/1` had what an increment says, in its order.
INCREMENT_1 = (
    "order", "id", "name", "mass", "lot", "role", "volume_mm3", "mass_g", "thickness_mm", "least_thickness_mm",
    "c_factor", "exposures", "dose_needed_j_cm2", "dose_at_worst_point_j_cm2", "worst_point", "touches", "sculpt",
    "reasons", "rules", "points",
)  # fmt: skip
PART_KINDS = {new: old for old, new in VALUES["preparation.parts[].kind"].items()}


# What steps and options say besides, by now.
ADDED = ("about", "can_be_planned", "deepens", "pieces", "window", "lasts", "device")


def as_told_before(said: dict[str, Any]) -> dict[str, Any]:
    """Return a plan, a refusal or a drawing as it was told in version 1, without what was added since."""
    told = _with_old_paths(said)
    for added in ("stages", "measurements", "comparisons", "brackets", "supplies", "later", "color"):
        told.pop(added, None)
    for caution in told.get("cautions", []):
        del caution["always"]
    if "nearest" in told:
        told["nearest"] = {path_in_1(path): value for path, value in told["nearest"].items()}
    for part in told.get("geometry", {}).get("parts", []):
        part["kind"] = PART_KINDS.get(part["kind"], part["kind"])
    if "increments" in told:
        told["increments"] = [_increment_1(one) for one in told["increments"]]
    return told


def _increment_1(one: dict[str, Any]) -> dict[str, Any]:
    if one["detail"]["kind"] != "cured":
        # There was none of it before.
        return one
    flat = {**one, **one["detail"], "mass": one["product"], "sculpt": one["shaping"]}
    return {key: flat[key] for key in INCREMENT_1}


def _with_old_paths(said: Any) -> Any:
    if isinstance(said, list):
        return [_with_old_paths(one) for one in said]
    if not isinstance(said, dict):
        return said
    told = {key: _with_old_paths(value) for key, value in said.items() if key not in ADDED}
    if "hold" in told:
        told.pop("role", None)
    for key in ("path", "case_path"):
        if isinstance(path := told.get(key), str):
            old = {new: old for old, new in VALUES.get(path, {}).items()}
            told[key] = path_in_1(path)
            if key == "path":
                told.pop("title", None)
            if isinstance(told.get("value"), str):
                told["value"] = old.get(told["value"], told["value"])
    return told


def _told(said: Any) -> list[Any]:
    numbers: list[float] = []
    words = hashlib.sha256("\n".join(_words(said, numbers)).encode()).hexdigest()[:16]
    # Small numbers count as much as large ones; places are told apart.
    sizes = [math.asinh(10 * number) for number in numbers]
    by_place = sum(size * (0.5 + (TURN * i) % 1) for i, size in enumerate(sizes))
    return [words, len(numbers), round(math.fsum(sizes), 4), round(by_place, 4)]


def _words(said: Any, numbers: list[float]) -> Iterator[str]:
    """Yield the words of what is said, in order, and note down its numbers, those within words too."""
    match said:
        case dict():
            for key, value in said.items():
                if key in VERSIONS:
                    continue
                yield key
                # Corners on a straight edge come and go with the last bits.
                yield from _words([_ring(ring) for ring in value] if key == "rings" else value, numbers)
        case list():
            yield f"[{len(said)}"
            for value in said:
                yield from _words(value, numbers)
        case bool() | None:
            yield str(said)
        case int() | float():
            numbers.append(said)
            yield "#"
        case str():
            numbers += map(float, NUMERAL.findall(said))
            yield NUMERAL.sub("#", said)


def _ring(ring: list[list[float]]) -> list[float]:
    """Return the area of a ring, its length and where it lies."""
    ends = [*ring[1:], ring[0]]
    length = math.fsum(math.dist(a, b) for a, b in zip(ring, ends, strict=True))
    xs, ys = zip(*ring, strict=True)
    return [area_mm2([ring]), length, min(xs), max(xs), min(ys), max(ys)]


if __name__ == "__main__":
    told = {path.stem: golden_of(path) for path in WORKED}
    lines = ",\n".join(f"{json.dumps(name)}: {json.dumps(said)}" for name, said in told.items())
    GOLDEN.write_text(f"{{\n{lines}\n}}\n")
