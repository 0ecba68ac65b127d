"""What a record says, drawn from the plan and from what happened. Pure."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from practice.runs.state import Pause, RunState, Visit

LONGER_SHARE = 1.5
LONGER_SECONDS = 20
HAIR = 1e-6
# What somebody said of the case, to be kept beside what was decided.
SAID = frozenset(
    {
        "assess.booked", "assess.heights", "choose.needed", "isolate.given", "isolate.without_dam",
        "protect.capping", "protect.placed_before", "shade.read",
    }
)  # fmt: skip
# What tells of another restorative, or of an instrument as a gauge, was not decided for this one.
NOT_OF_THIS = ("prepare.otherwise", "prepare.gauge")


def decided(plan: dict[str, Any]) -> list[dict[str, str]]:
    """Return each decision of a plan, with what somebody said to it."""
    return [
        {
            "topic": d["topic"],
            "about": d["about"],
            "chosen": d["chosen"],
            "said": " ".join(r["text"] for r in d["reasons"] if r["code"] in SAID),
        }
        for d in plan["decisions"]
        if d["topic"] not in NOT_OF_THIS
    ]


def steps_done(state: RunState) -> list[dict[str, Any]]:
    """Return each step with planned and actual seconds, in order of the plan."""
    rows = []
    for step in state.steps:
        visits = [v for v in state.visits if v.step_id == step["id"]]
        actual = sum(v.worked_s for v in visits)
        rows.append(
            {
                "id": step["id"],
                "title": step["title"],
                "stage": step["stage"],
                "timed": step["timed"],
                "light": step["light"],
                "planned_s": step["seconds"],
                "actual_s": round(actual, 1),
                "visits": len(visits),
                "began": visits[0].began.isoformat() if visits else None,
                "ended": visits[-1].ended.isoformat() if visits else None,
            }
        )
    return rows


def deviations(state: RunState) -> list[dict[str, str]]:
    """Return what went otherwise than planned: failed checks, steps gone back to, wet, a new depth,
    pauses, lots that were over, times."""
    titles = {step["id"]: step["title"] for step in state.steps}
    found = [_of_visit(v, state, titles) for v in state.visits]
    events = [d for d in found if d] + [_of_pause(p, titles) for p in state.pauses]
    events += [_of_dam(one, titles) for one in state.torn]
    events += [_of_lot(lot) for lot in state.lots if lot["is_over"]]
    return sorted(events, key=lambda d: d["at"]) + list(_of_times(steps_done(state)))


def _of_visit(visit: Visit, state: RunState, titles: dict[str, str]) -> dict[str, str] | None:
    at = visit.ended.isoformat()
    if visit.outcome == "check_failed":
        check = next(s["check"] for s in state.steps if s["id"] == visit.step_id)
        text = f"{titles[visit.step_id]}: \u201c{check['question']}\u201d No. {check['remedy']}"
        return {"kind": "check_failed", "step_id": visit.step_id, "text": text, "at": at}
    if visit.outcome == "step_back":
        text = f"Went back from: {titles[visit.step_id]}"
        return {"kind": "step_back", "step_id": visit.step_id, "text": text, "at": at}
    if visit.outcome == "got_wet":
        wet = next(s["wet"] for s in state.steps if s["id"] == visit.step_id)
        again = f" Done again: {', '.join(titles[id] for id in wet['redo'])}." if wet["redo"] else ""
        text = f"The field was contaminated at: {titles[visit.step_id]}. {wet['reason']['text']}{again}"
        return {"kind": "got_wet", "step_id": visit.step_id, "text": text, "at": at}
    if visit.outcome == "mix_too_old":
        stale = next(s["stale"] for s in state.steps if s["id"] == visit.step_id)
        text = f"Mix discarded at: {titles[visit.step_id]}. {stale['reason']['text']}"
        return {"kind": "mix_too_old", "step_id": visit.step_id, "text": text, "at": at}
    if visit.outcome in ("deeper", "other_matrix"):
        text = f"{visit.detail['text']} Plan {visit.detail['plan']} from here on."
        return {"kind": visit.outcome, "step_id": visit.step_id, "text": text, "at": at}
    return None


def _of_pause(pause: Pause, titles: dict[str, str]) -> dict[str, str]:
    seconds = (pause.ended - pause.began).total_seconds()
    text = f"Paused for {seconds:.0f} s at: {titles[pause.step_id]} ({pause.reason})"
    return {"kind": "paused", "step_id": pause.step_id, "text": text, "at": pause.began.isoformat()}


def _of_dam(torn: dict[str, Any], titles: dict[str, str]) -> dict[str, str]:
    text = f"The dam tore at: {titles[torn['step_id']]}. Renewed before the next check."
    return {"kind": "dam_torn", "step_id": torn["step_id"], "text": text, "at": torn["at"]}


def _of_lot(lot: dict[str, Any]) -> dict[str, str]:
    name = lot["name"] or "a package"
    text = f"Used after its last day: {name} lot {lot['lot']}, expired on {lot['expires_on']}"
    return {"kind": "lot_over", "step_id": lot["step_id"], "text": text, "at": lot["at"]}


def _of_times(rows: Iterable[dict[str, Any]]) -> Iterable[dict[str, str]]:
    for row in rows:
        planned, actual = row["planned_s"], row["actual_s"]
        if row["light"] and row["visits"] and actual < planned - 1:
            text = f"{row['title']}: left after {actual:.0f} s of {planned:.0f} s"
            yield {"kind": "light_short", "step_id": row["id"], "text": text, "at": row["ended"]}
        elif actual > planned * LONGER_SHARE + LONGER_SECONDS:
            text = f"{row['title']}: {actual:.0f} s instead of {planned:.0f} s"
            yield {"kind": "longer", "step_id": row["id"], "text": text, "at": row["ended"]}


def scrap(plan: dict[str, Any], state: RunState) -> dict[str, Any] | None:
    """Return what was opened and what of it is scrap, where that is kept apart: capsules planned, one more for each mix that
    was discarded, and their mass less what was placed. None where nothing leaves such scrap."""
    opened = [one for one in plan.get("supplies", []) if one.get("mass_mg")]
    if not opened:
        return None
    discarded = sum(visit.outcome == "mix_too_old" for visit in state.visits)
    each_mg = sum(one["mass_mg"] for one in opened) / len(opened)
    all_mg = each_mg * (len(opened) + discarded)
    placed_mg = sum(one["mass_g"] for one in plan["increments"]) * 1000
    return {
        "names": sorted({one["name"] for one in opened}),
        "lots": sorted({one["lot"] for one in opened if one["lot"]}),
        "capsules": len(opened) + discarded,
        "discarded": discarded,
        "opened_mg": round(all_mg),
        "scrap_mg": round(max(all_mg - placed_mg, 0.0)),
    }


def mixed(state: RunState, plan: dict[str, Any]) -> list[dict[str, str]]:
    """Return when each mix was ready, where that was told."""
    titles = {step["id"]: step["title"] for step in plan["steps"]}
    return [
        {
            "title": titles.get(one["step_id"], one["step_id"])
            + (", discarded" if one["is_discarded"] else ""),
            "at": one["at"],
        }
        for one in state.mixes
    ]


def measured(state: RunState) -> list[dict[str, Any]]:
    """Return each figure that was wanted of a step: before, planned, and what was typed, with what it then asked for."""
    return [
        {
            **{key: target[key] for key in ("title", "detail", "unit", "before")},
            "step": step["title"],
            "is_height": target.get("is_height", True),
            "planned": target["value"],
            "measured": value,
            "text": "" if value is None else off_target(target, value),
        }
        for step in state.steps
        for target in step.get("targets", [])
        for value in [state.measured.get((step["id"], target["id"]))]
    ]


def off_target(target: dict[str, Any], value: float) -> str:
    """Return what a figure that is not as wanted asks for; nothing for a good one."""
    if value > target["high"] + HAIR:
        return str(target["over"])
    return str(target["under"]) if value < target["low"] - HAIR else ""


def _makes_set(step: dict[str, Any]) -> bool:
    """Tell whether an increment is lit, condensed, or left alone to set, at a step."""
    return bool(step["light"] or step.get("role") == "set" or step.get("rhythm"))


def placed(plan: dict[str, Any], state: RunState) -> list[dict[str, Any]]:
    """Return the increments: their numbers and light as planned, and the seconds that their light steps were worked at, as
    recorded. A lot that was scanned for a product stands for the one that was planned."""
    scanned: dict[str, list[str]] = {}
    for lot in state.lots:
        if lot["name"] and lot["lot"] not in scanned.setdefault(lot["name"], []):
            scanned[lot["name"]].append(lot["lot"])
    timed = {step["id"]: step["increment"] for step in state.steps if step["increment"] and _makes_set(step)}
    recorded: dict[int, float] = {}
    for visit in state.visits:
        if visit.step_id in timed:
            order = timed[visit.step_id]
            recorded[order] = recorded.get(order, 0.0) + visit.worked_s
    return [
        {
            "order": i["order"],
            "name": i["name"],
            "product": i["product"],
            "lot": ", ".join(scanned.get(i["product"], [])) or i.get("lot"),
            "mass_g": round(i["mass_g"], 3),
            "measures": [{key: m[key] for key in ("id", "title", "value", "unit")} for m in i["measures"]],
            "planned_s": sum(s["seconds"] for s in state.steps if timed.get(s["id"]) == i["order"]),
            "recorded_s": round(recorded[i["order"]], 1) if i["order"] in recorded else None,
        }
        for i in plan["increments"]
    ]
