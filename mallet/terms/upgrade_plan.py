"""Older plans and drawings, as they are read today: pure functions over parsed JSON; what is kept is never rewritten."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from mallet.terms.increments import Cured, measures_of
from mallet.terms.upgrade import path_in_2, value_in_2

PLAN = "mallet-plan/2"
PLAN_1 = "mallet-plan/1"
# What of an increment is told by what makes it set.
OF_CURED = (
    "role", "thickness_mm", "least_thickness_mm", "c_factor", "exposures", "dose_needed_j_cm2",
    "dose_at_worst_point_j_cm2", "worst_point", "touches", "points",
)  # fmt: skip


def upgrade_plan(data: Mapping[str, Any]) -> dict[str, Any]:
    """Return a plan, or a refusal, of any version as `mallet-plan/2` says it."""
    if data.get("format", PLAN_1) != PLAN_1:
        return _headed(data)
    told: dict[str, Any] = {**_with_paths(data), "format": PLAN}
    if "increments" in told:
        told["increments"] = [_increment(one) for one in told["increments"]]
    for part in told.get("geometry", {}).get("parts", []):
        part["kind"] = value_in_2("preparation.parts[].kind", part["kind"])
    if "nearest" in told:
        told["nearest"] = {
            path_in_2(path): value_in_2(path_in_2(path), value) for path, value in told["nearest"].items()
        }
    return _headed(told)


# What a decision was about, by the first word of its topic, before it said so itself.
HEADINGS = {
    "assess": "Treated for",
    "shade": "Shades layered",
    "choose": "Restorative",
    "isolate": "Field",
    "prepare": "Preparation",
    "protect": "Over the dentin",
    "matrix": "Matrix",
    "bond": "Adhesion",
    "build": "Layering",
    "lamp": "Curing light",
    "finish": "Finishing",
}


def _headed(plan: Mapping[str, Any]) -> dict[str, Any]:
    """Return a plan with what each of its decisions is about."""
    decisions = [
        {"about": HEADINGS.get(one["topic"].partition(".")[0], ""), **one}
        for one in plan.get("decisions", [])
    ]
    return {**plan, **({"decisions": decisions} if "decisions" in plan else {})}


def upgrade_drawing(data: Mapping[str, Any]) -> dict[str, Any]:
    """Return a drawing of any version, the sizes in it by their paths of today."""
    told: dict[str, Any] = _with_paths(data)
    for size in (size for sheet in told.get("sheets", []) for size in sheet["dimensions"]):
        size.setdefault("deepens", _deepened(size["case_path"], size["title"]))
    return told


def _deepened(case_path: str, title: str) -> bool:
    """Tell whether a size took the cavity further in, where a drawing did not say so: of a box its height did."""
    return case_path.endswith(".depth_mm") or (case_path.endswith(".height_mm") and " box," in title)


def _increment(one: Mapping[str, Any]) -> dict[str, Any]:
    detail = {"kind": "cured", **{key: one[key] for key in OF_CURED if key in one}}
    own = {key: value for key, value in one.items() if key not in (*OF_CURED, "mass", "sculpt")}
    measures = measures_of(Cured.model_validate(detail))
    return {
        **own,
        "product": one["mass"],
        "shaping": one.get("sculpt", ""),
        "measures": [measure.model_dump(mode="json") for measure in measures],
        "detail": detail,
    }


def _with_paths(said: Any) -> Any:
    """Return what is said with the paths in it, and the values at them, as they are today."""
    if isinstance(said, list):
        return [_with_paths(one) for one in said]
    if not isinstance(said, Mapping):
        return said
    told = {key: _with_paths(value) for key, value in said.items()}
    for key in ("path", "case_path"):
        if isinstance(path := told.get(key), str):
            told[key] = path_in_2(path)
            if "value" in told:
                told["value"] = value_in_2(told[key], told["value"])
    return told
