"""Older records, as they are read today: what was sealed is never rewritten."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

RECORD = "mallet-record/2"
RECORD_1 = "mallet-record/1"


def upgrade_record(content: Mapping[str, Any]) -> dict[str, Any]:
    """Return what a record of any version says as `mallet-record/2` does. Records of before packages could be scanned
    have no lots, nor those of before there were hold points any holds, nor older ones any scrap or figures."""
    told = {
        "lots": [],
        "holds": [],
        "scrap": None,
        "measured": [],
        "mixes": [],
        "visit": {"purpose": "place", "name": ""},
        **content,
    }
    told["plan"] = {"assumptions": [], **content["plan"]}
    if content["format"] == RECORD_1:
        told["format"] = RECORD
        told["placed"] = [_placed(row) for row in told.pop("masses")]
    return told


def _placed(row: Mapping[str, Any]) -> dict[str, Any]:
    return {
        **{key: row[key] for key in ("order", "name", "mass_g")},
        "product": row["mass"],
        "lot": row.get("lot"),
        "measures": [
            {"id": "thickness", "title": "thickness", "value": row["thickness_mm"], "unit": "mm"},
            {
                "id": "received",
                "title": "received over required",
                "value": row["dose_over_need"],
                "unit": "\u00d7",
            },
        ],
        "planned_s": row["planned_light_s"],
        "recorded_s": row["recorded_light_s"],
    }
