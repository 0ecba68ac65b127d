"""Holds the light of every worked case against a dense sample of places by another tracer, and prints the worst."""

from __future__ import annotations

import argparse
import json
import sys
import zlib
from collections.abc import Iterator
from pathlib import Path

from mallet.plan import work
from mallet.terms.case import Case, read_case
from mallet.terms.errors import NotFeasible
from mallet.worked import read_worked
from tools.dense_light import MOST_ERROR, dimmest_of

EXAMPLES = Path(__file__).resolve().parent.parent / "examples"
ENOUGH = 0.99


def cases() -> Iterator[tuple[str, Case]]:
    """Yield every worked case and the first example, by name."""
    first = EXAMPLES / "lower_first_molar_mo.json"
    yield first.stem, read_case(json.loads(first.read_text()))
    for path in sorted((EXAMPLES / "worked").glob("*.json")):
        yield path.stem, read_worked(path)[1]


def main() -> int:
    """Print each increment that lies under its need, and the worst of all; return 1 where one surely does."""
    parser = argparse.ArgumentParser()
    parser.add_argument("names", nargs="*", help="worked cases, all unless named")
    wanted = parser.parse_args().names
    worst, looked, failed = (float("inf"), 0.0, ""), 0, 0
    for name, case in cases():
        if wanted and name not in wanted:
            continue
        try:
            worked = work(case)
        except NotFeasible:
            continue
        # What sets without light has none to be held against.
        cured_here = worked.lit.cured if worked.built.curing else []
        for order, cured in enumerate(cured_here):
            seed = zlib.crc32(f"{name} {order}".encode())
            found, looked = dimmest_of(worked, order, seed), looked + 1
            planned = cured.worst_dose_j_cm2 / cured.need.dose_j_cm2
            is_dark = found.upper < ENOUGH
            failed += is_dark
            where = f"{name}, {cured.portion.name}"
            if is_dark or found.error > MOST_ERROR or found.ratio < min(1.0, planned):
                place = ", ".join(f"{c:.3f}" for c in found.place)
                mark = "TOO DARK" if is_dark else ""
                print(
                    f"{found.ratio:.4f} +- {found.error:.4f} (planned {planned:.4f}) {where} at {place} {mark}"
                )
            worst = min(worst, (found.ratio, found.error, where))
    ratio, error, where = worst
    print(f"{looked} increments, {failed} surely under {ENOUGH:g} of their need")
    print(f"least dose over need {ratio:.4f}, standard error {error:.4f}: {where}")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
