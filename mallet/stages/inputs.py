"""The inputs that a figure rests on, with where each is from."""

from __future__ import annotations

from mallet.stages.asks import title_of
from mallet.terms.case import Case, get_path
from mallet.terms.parts import sizes_of
from mallet.terms.plan import InputUse


def input_of(case: Case, path: str, unit: str) -> InputUse:
    """Return a value of the case by its path, measured or not."""
    known = case.provenance_of(path)
    return InputUse(
        path=path, title=title_of(case, path), value=get_path(case, path), unit=unit, provenance=known
    )


def part_inputs(case: Case) -> list[InputUse]:
    """Return the sizes of all parts of a preparation; one that nobody has told is estimated."""
    return [
        input_of(case, path, unit) if name in part.model_fields_set else _untold(case, path, unit)
        for i, part in enumerate(case.preparation.parts)
        for name, unit in sizes_of(part).items()
        for path in [f"preparation.parts[{i}].{name}"]
    ]


def _untold(case: Case, path: str, unit: str) -> InputUse:
    return input_of(case, path, unit).model_copy(update={"provenance": "estimated"})
