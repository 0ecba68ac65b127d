"""What plans and drawings of the worked cases say, in few numbers, so that moving code shows where it moves an answer.

Words are held exactly, numbers by sums that the last bits of another processor leave alone. `make golden` writes them
anew once an answer is meant to change.
"""

from __future__ import annotations

import hashlib
import json
import math
import re
from pathlib import Path
from typing import Any

from mallet.cavity.sections import area_mm2
from mallet.drawing import draw
from mallet.plan import no_plan
from mallet.terms.errors import NotFeasible
from mallet.worked import read_worked
from tests.core.planned import work

GOLDEN = Path(__file__).with_name("golden.json")
WORKED = sorted((Path(__file__).parents[2] / "examples" / "worked").glob("*.json"))
# What tells a version, not an answer.
VERSIONS = {"engine", "rulebook", "case_sha256", "format"}
NUMERAL = re.compile(r"-?\d+(?:\.\d+)?(?:e-?\d+)?")
TURN = (math.sqrt(5) - 1) / 2


def golden_of(path: Path) -> dict[str, list[Any]]:
    """Return what a worked case's plan and drawing say: a digest of their words, how many numbers, and two sums."""
    case = read_worked(path)[1]
    try:
        worked = work(case)
    except NotFeasible as refusal:
        return {"refused": _told(no_plan(case, refusal).model_dump(mode="json"))}
    plan, drawing = worked.plan.model_dump(mode="json"), draw(worked).model_dump(mode="json")
    return {"plan": _told(plan), "drawing": _told(drawing)}


def _told(said: Any) -> list[Any]:
    text = json.dumps(_kept(said), ensure_ascii=False)
    numbers = [float(numeral) for numeral in NUMERAL.findall(text)]
    words = hashlib.sha256(NUMERAL.sub("#", text).encode()).hexdigest()[:16]
    # Small numbers count as much as large ones; places are told apart.
    sizes = [math.asinh(10 * number) for number in numbers]
    by_place = sum(size * (0.5 + (TURN * i) % 1) for i, size in enumerate(sizes))
    return [words, len(numbers), round(math.fsum(sizes), 4), round(by_place, 4)]


def _kept(said: Any) -> Any:
    """Return what is said without its versions; corners on a straight edge come and go with the last bits, so a ring is
    told by its size and place."""
    if isinstance(said, list):
        return [_kept(one) for one in said]
    if not isinstance(said, dict):
        return said
    return {
        key: [_ring(ring) for ring in value] if key == "rings" else _kept(value)
        for key, value in said.items()
        if key not in VERSIONS
    }


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
