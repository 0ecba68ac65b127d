"""Lines that a cusp's height is held against: through two cusps that stay, of our tooth or of those beside it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations, product

from mallet.rulebook import Rulebook
from mallet.terms.case import AdjacentTooth, Case
from mallet.terms.errors import InputError
from mallet.terms.parts import Side
from mallet.tooth import ToothName, loft_crown, read_tooth

SIDES: tuple[Side, ...] = ("mesial", "distal")
# Its tip is one that a line may run through.
CANINE = 3


@dataclass(frozen=True)
class End:
    """One end of a line: the cusp of the tooth on a side, or of our `own`; on which face it lies."""

    where: str
    cusp: str
    name: str
    is_facial: bool

    @property
    def key(self) -> str:
        return f"{self.where}.{self.cusp}"


Line = tuple[End, End]


def key_of(line: Line) -> str:
    """Return a line as a case tells it."""
    return f"{line[0].key} {line[1].key}"


def name_of(line: Line) -> str:
    return f"{line[0].name} to {line[1].name}"


def lines_for(case: Case, cusp: str, rules: Rulebook) -> list[Line]:
    """Return the lines that a cusp may be held against, the most usual first: along its own face, then along the other,
    from tooth to tooth and from one of its own cusps to a tooth beside it; last between two of its own. None for a cusp that the tooth has not."""
    held = cusps_of(case, "own", rules).get(cusp)
    if held is None:
        return []
    ends = list(_ends(case, rules))
    own = [end for end in ends if end.where == "own"]
    lines: list[Line] = []
    for is_facial in (held.is_facial, not held.is_facial):
        mesial, distal = ([e for e in ends if e.where == side and e.is_facial == is_facial] for side in SIDES)
        lines += product(mesial, distal)
        lines += product([e for e in own if e.is_facial == is_facial], [*mesial, *distal])
    return [*lines, *combinations(own, 2)]


def line_of(case: Case, cusp: str, rules: Rulebook) -> Line | None:
    """Return the line that a cusp was held against, else the most usual; None where there is none.

    Raises InputError where one is told through a cusp that is taken down, or that there is not.
    """
    lines = lines_for(case, cusp, rules)
    told = getattr(case.reference_heights.by_cusp, cusp).line
    if told is None:
        return lines[0] if lines else None
    for line in lines:
        if key_of(line) == told:
            return line
    allowed = ", ".join(f"'{key_of(line)}' ({name_of(line)})" for line in lines) or "none: no cusp stays"
    raise InputError.at(f"reference_heights.by_cusp.{cusp}.line", told, allowed)


def _ends(case: Case, rules: Rulebook) -> Iterator[End]:
    """Yield what stays, of each tooth the cusps that are nearer to us first."""
    for where in ("mesial", "own", "distal"):
        for end in cusps_of(case, where, rules).values():
            if where != "own" or end.cusp not in case.covered_cusps:
                yield end


def cusps_of(case: Case, where: str, rules: Rulebook) -> dict[str, End]:
    """Return the cusps of our own tooth or of the one on a side, those that are nearer to us first; none of a tooth that is
    missing, or has an edge instead."""
    own = read_tooth(case.tooth.code)
    tooth = own if where == "own" else own.neighbour(where)
    if tooth is None or tooth.position < CANINE or (where != "own" and _is_missing(case, where)):
        return {}
    tips = loft_crown(tooth, rules).cusps
    ordered = sorted(tips, key=lambda cusp: tips[cusp][0], reverse=where == "distal")
    name = _tooth(case, where, tooth)
    return {cusp: End(where, cusp, f"{name} {cusp}", tips[cusp][1] >= 0) for cusp in ordered}


def _is_missing(case: Case, side: str) -> bool:
    given = getattr(case.adjacent, side)
    return given is not None and given.missing


def _tooth(case: Case, where: str, tooth: ToothName) -> str:
    """Return a tooth's code as the case tells it."""
    if where == "own":
        return case.tooth.code
    given: AdjacentTooth | None = getattr(case.adjacent, where)
    return (given and given.tooth) or tooth.iso
