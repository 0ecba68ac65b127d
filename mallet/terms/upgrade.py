"""Older cases and plans, as they are read today: pure functions over parsed JSON; what is kept is never rewritten."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise
from typing import Any

from mallet.terms.errors import ONE_OF, UNKNOWN_KEY, Problem

CASE = "mallet-case/2"
CASE_1 = "mallet-case/1"
PIECES = re.compile(r"[^.\[\]]+|\[\d+\]")

# What a key of `mallet-case/1` is called today; what stands behind it goes with it. The longest one holds.
KEYS: tuple[tuple[str, str], ...] = (
    ("masses", "restoration.composites"),
    ("masses[].maker", "restoration.composites[].manufacturer"),
    ("light", "restoration.light"),
    ("bonding", "restoration"),
    ("school", "techniques"),
    ("school.layering", "restoration.technique"),
    ("school.etch", "restoration.etch"),
    ("school.chlorhexidine", "restoration.chlorhexidine"),
    ("school.decay", "techniques.caries"),
    ("school.neck_margin", "techniques.cervical_margin"),
    ("neighbours", "adjacent"),
    ("findings.surely_this_tooth", "findings.tooth_confirmed"),
    ("findings.bite_marked", "findings.occlusion_marked"),
    ("findings.seen_beside", "findings.seen_on_other_teeth"),
    ("findings.decay_risk", "findings.caries_risk"),
    ("findings.shows", "findings.esthetic_zone"),
    ("findings.below_gum", "findings.subgingival"),
    ("findings.caved_in", "findings.cavitated"),
    ("findings.strict_need", "findings.clinical_justification"),
    ("findings.need_decided_by", "findings.justified_by"),
    ("heights", "reference_heights"),
    ("shelf", "stock"),
    ("shelf[].maker", "stock[].manufacturer"),
    ("house", "practice_settings"),
    ("preparation.parts[].above_cervical_mm", "preparation.parts[].above_cej_mm"),
    ("preparation.parts[].under_ridge_mm", "preparation.parts[].below_ridge_mm"),
    ("preparation.parts[].inside_mm", "preparation.parts[].inset_mm"),
    ("preparation.parts[].reach_mm", "preparation.parts[].faciolingual_mm"),
    ("preparation.parts[].stands_mm", "preparation.parts[].above_floor_mm"),
    ("preparation.parts[].edge_mm", "preparation.parts[].incisal_reduction_mm"),
    ("preparation.parts[].around_mm", "preparation.parts[].axial_reduction_mm"),
)
# What a value of `mallet-case/1` is called today, by today's path.
VALUES: dict[str, dict[str, str]] = {
    "tooth.vitality": {"non_vital": "necrotic", "root_filled": "root_canal_treated"},
    "findings.cause": {
        "decay": "caries",
        "decay_beside_filling": "caries_adjacent",
        "wish": "patient_request",
    },
    "findings.cold": {"no_answer": "no_response"},
    "findings.pulp": {"sound": "normal", "in_doubt": "pending"},
    "findings.load": {"ordinary": "normal"},
    "findings.caries_risk": {"ordinary": "moderate"},
    "techniques.copper": {"as_drawn": "hard"},
    "protection.exposure": {"root_treatment": "root_canal_treatment"},
    "preparation.parts[].kind": {
        "saucer": "saucer_lesion",
        "notch": "wedge_lesion",
        "crown_stump": "strip_crown_preparation",
        "dovetail_notch": "lingual_dovetail",
    },
}
# Keys of a case under which stands what is taken as a whole, and no path goes on.
WHOLE = ("house", "practice_settings")


def upgrade_case(data: Mapping[str, Any]) -> dict[str, Any]:
    """Return a case of any version as `mallet-case/2` says it; what cannot be told stays where it is, for its check to
    name."""
    if data.get("format") != CASE_1:
        return dict(data)
    told: dict[str, Any] = {}
    for path, value in _leaves(data):
        now = path_in_2(path)
        _put(told, now, value_in_2(now, value))
    told["format"] = CASE
    if isinstance(restoration := told.setdefault("restoration", {}), dict):
        restoration.setdefault("material", "composite")
    if isinstance(known := told.get("provenance"), dict):
        told["provenance"] = {path_in_2(path): how for path, how in known.items()}
    return told


def path_in_2(path: str) -> str:
    """Return what a path in `mallet-case/1` is today."""
    return _renamed(path, KEYS)


def value_in_2(path: str, value: Any) -> Any:
    """Return what the value at a path of today is called today."""
    return VALUES.get(_anywhere(path), {}).get(value, value) if isinstance(value, str) else value


def path_in_1(path: str) -> str:
    """Return what a path of today was in `mallet-case/1`."""
    return _renamed(path, [(new, old) for old, new in KEYS if old != "bonding"] + [ADHESIVE])


ADHESIVE = ("restoration.adhesive", "bonding.adhesive")


def problem_in_1(problem: Problem) -> Problem:
    """Return what is wrong with a case as a reader of `mallet-case/1` knows it."""
    path, allowed = path_in_1(problem.path), problem.allowed
    if problem.got == UNKNOWN_KEY:
        parent, names = problem.path.rpartition(".")[0], allowed.removeprefix(ONE_OF).split(", ")
        allowed = ONE_OF + ", ".join(_names_in_1(parent, names))
    for old, new in VALUES.get(_anywhere(problem.path), {}).items():
        allowed = allowed.replace(f"'{new}'", f"'{old}'")
    return Problem(path, problem.got, allowed)


def _names_in_1(parent: str, names: Sequence[str]) -> list[str]:
    """Return the keys that stood below a path of today in `mallet-case/1`."""
    was = path_in_1(parent)
    told = [path_in_1(f"{parent}.{name}" if parent else name) for name in names]
    # What stands elsewhere today.
    told += [old for old, new in KEYS if new.rpartition(".")[0] != _anywhere(parent)]
    return sorted(
        {path.rpartition(".")[2] for path in told if path.rpartition(".")[0] in (was, _anywhere(was))}
    )


def _anywhere(path: str) -> str:
    return re.sub(r"\[\d+\]", "[]", path)


def _renamed(path: str, table: Sequence[tuple[str, str]]) -> str:
    fitting = [row for row in table if _fits(_anywhere(path), row[0])]
    if not fitting:
        return path
    old, new = max(fitting, key=lambda row: len(row[0]))
    places = iter(re.findall(r"\[\d+\]", path))
    start = re.sub(r"\[\]", lambda _: next(places), new)
    rest = _anywhere(path)[len(old) :]
    return start + re.sub(r"\[\]", lambda _: next(places), rest)


def _fits(path: str, start: str) -> bool:
    return path.startswith(start) and path[len(start) :][:1] in ("", ".", "[")


def _leaves(value: object, path: str = "") -> Iterator[tuple[str, object]]:
    """Yield what a case says by path: single values, lists of those, and what is empty or taken as a whole."""
    if isinstance(value, Mapping) and value and path not in (*WHOLE, "provenance"):
        for key, inner in value.items():
            yield from _leaves(inner, f"{path}.{key}" if path else str(key))
    elif isinstance(value, list) and any(isinstance(inner, Mapping) for inner in value):
        for i, inner in enumerate(value):
            yield from _leaves(inner, f"{path}[{i}]")
    else:
        yield path, value


def _put(told: dict[str, Any], path: str, value: object) -> None:
    """Set a value at a path; objects and lists that lack are made. An empty object makes room and says nothing."""
    *way, last = PIECES.findall(path)
    here: Any = told
    for piece, following in pairwise([*way, last]):
        room: Any = [] if following.startswith("[") else {}
        here = _step(here, piece, room)
        if here is None:
            return
    if isinstance(here, dict) and value == {} and isinstance(here.get(last), dict):
        return
    _step(here, last, value, replace=True)


def _step(here: Any, piece: str, room: Any, *, replace: bool = False) -> Any:
    if piece.startswith("["):
        if not isinstance(here, list):
            return None
        at = int(piece[1:-1])
        while len(here) <= at:
            here.append(room if len(here) == at else None)
        if replace or here[at] is None:
            here[at] = room
        return here[at]
    if not isinstance(here, dict):
        return None
    if replace or not isinstance(here.get(piece), dict | list):
        here[piece] = room
    return here[piece]
