"""The state of a run, folded from its events. Pure: no database, no clock.

The chairside view folds the same events in the same way while the server is away.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Protocol

from practice.accounts.owned import Refused

ASSISTANT = "assistant"
SAME_WORDS = ("title", "detail")
DAM = "isolate.dam"
# Where a step tells what an event undoes.
# What brings a new plan with it.
PLANS_ANEW = ("deeper", "other_matrix")
UNDONE_BY = {"got_wet": "wet", "mix_too_old": "stale"}


class Happened(Protocol):
    """What the fold reads of an event."""

    revision: int
    kind: str
    step_id: str
    detail: dict[str, Any]
    at: dt.datetime


@dataclass(frozen=True)
class Visit:
    """One stay at a step: when, how it ended, how long of it was paused, and what was said to it."""

    step_id: str
    began: dt.datetime
    ended: dt.datetime
    outcome: str
    paused_s: float = 0.0
    detail: dict[str, Any] = field(default_factory=dict)

    @property
    def worked_s(self) -> float:
        return (self.ended - self.began).total_seconds() - self.paused_s


@dataclass(frozen=True)
class Pause:
    step_id: str
    began: dt.datetime
    ended: dt.datetime
    reason: str


@dataclass
class RunState:
    """Where a run stands. `steps` are those that are stepped through; the assistant's own run beside.

    `detour` are steps done again after the field got wet, or for a fresh mix; they come before the one at `index`. `lots` are
    the packages that were scanned, each with its step and when. `dam_torn` until the dam is renewed, which it is before
    the next hold; `torn` tells at which step and when. `measured` has the last figure typed to each target of a step.
    `mixable` are the steps that mix something, whoever does them, `mixes` those that ended, each with when.
    `is_placed` from the start at a visit after placing.
    """

    plan_number: int
    steps: Sequence[dict[str, Any]]
    revision: int
    index: int
    step_began: dt.datetime
    visits: list[Visit] = field(default_factory=list)
    pauses: list[Pause] = field(default_factory=list)
    lots: list[dict[str, Any]] = field(default_factory=list)
    torn: list[dict[str, Any]] = field(default_factory=list)
    measured: dict[tuple[str, str], float] = field(default_factory=dict)
    mixable: frozenset[str] = frozenset()
    mixes: list[dict[str, Any]] = field(default_factory=list)
    dam_torn: bool = False
    is_placed: bool = False
    remedy: str = ""
    detour: tuple[str, ...] = ()
    detour_at: int = 0
    paused_at: dt.datetime | None = None
    paused_why: str = ""
    paused_s: float = 0.0
    finished: bool = False

    @property
    def step_id(self) -> str:
        return self.detour[self.detour_at] if self.detour else str(self.steps[self.index]["id"])

    @property
    def step(self) -> dict[str, Any]:
        return next(step for step in self.steps if step["id"] == self.step_id)

    @property
    def at_end(self) -> bool:
        return self.index == len(self.steps) - 1 and not self.detour

    @property
    def is_dammed(self) -> bool:
        """Tell whether a dam is on: placed, and not taken off yet."""
        done = [str(step["id"]) for step in self.steps[: self.index]]
        return DAM in done and f"{DAM}_off" not in done

    @property
    def has_placed(self) -> bool:
        """Tell whether any increment has been begun: from then on the cavity's depth is covered."""
        if self.is_placed:
            return True
        portions = {step["id"] for step in self.steps if step["increment"] is not None}
        return self.step_id in portions or any(v.step_id in portions for v in self.visits)


Plans = Mapping[int, dict[str, Any]]


def stepped(plan: dict[str, Any]) -> list[dict[str, Any]]:
    """Return the steps that the chairside view goes through one by one."""
    return [step for step in plan["steps"] if step["actor"] != ASSISTANT]


def mixing(plan: dict[str, Any]) -> frozenset[str]:
    """Return the ids of the steps that mix something."""
    return frozenset(step["id"] for step in plan["steps"] if step.get("role") == "mix")


def fold(
    plans: Plans, first: int, started_at: dt.datetime, events: Iterable[Happened], *, is_placed: bool = False
) -> RunState:
    """Return the state after all events, in order of revision; `plans` are those that it goes by, by
    number."""
    steps = stepped(plans[first])
    state = RunState(first, steps=steps, revision=0, index=0, step_began=started_at, is_placed=is_placed)
    state.mixable = mixing(plans[first])
    for event in events:
        advance(state, event, plans)
    return state


def advance(state: RunState, event: Happened, plans: Plans) -> None:
    """Apply one event; raise Refused where it does not fit the state."""
    refuse_unfit(state, event.kind, event.step_id)
    state.revision = event.revision
    if event.kind == "paused":
        state.paused_at, state.paused_why = event.at, event.detail.get("reason", "")
        return
    if event.kind == "resumed":
        _resume(state, event.at)
        return
    if event.kind == "lot_scanned":
        state.lots.append({**event.detail, "step_id": event.step_id, "at": event.at.isoformat()})
        return
    if event.kind == "dam_torn":
        state.torn.append({"step_id": event.step_id, "at": event.at.isoformat()})
        state.dam_torn = True
        return
    if event.kind == "measured":
        state.measured[event.step_id, event.detail["id"]] = event.detail["value"]
        return
    if event.kind == "mixed":
        if any(one["step_id"] == event.detail["id"] and not one["is_discarded"] for one in state.mixes):
            # Two devices saw the mixer end: the first of them told when.
            return
        mix = {"step_id": event.detail["id"], "at": event.at.isoformat(), "is_discarded": False}
        state.mixes.append(mix)
        return
    visit = Visit(state.step_id, state.step_began, event.at, event.kind, state.paused_s, event.detail)
    state.visits.append(visit)
    state.step_began, state.paused_s, state.remedy = event.at, 0.0, ""
    if event.kind in ("step_done", "check_passed"):
        _forward(state)
    elif event.kind == "step_back":
        _back(state)
    elif event.kind == "check_failed":
        state.remedy = state.step["check"]["remedy"]
        _again_from(state, state.step["check"].get("back_to"))
    elif event.kind in UNDONE_BY:
        undone = state.step[UNDONE_BY[event.kind]]
        if event.kind == "mix_too_old":
            _discard(state)
        state.remedy = undone["reason"]["text"]
        _detour(state, undone["redo"])
    elif event.kind in PLANS_ANEW:
        _replan(state, event.detail, plans, is_cut=event.kind == "deeper")
    else:
        state.finished = True


def refuse_unfit(state: RunState, kind: str, step_id: str) -> None:
    """Raise Refused where an event of a kind, about a step, cannot happen now."""
    if state.finished:
        raise Refused("run.finished", "the run is finished")
    if step_id != state.step_id:
        raise Refused("run.other_step", f"the run is at {state.step_id}, not at {step_id}")
    if (kind == "resumed") != (state.paused_at is not None):
        said = "the run is not paused" if kind == "resumed" else "the run is paused: resume it first"
        raise Refused("run.paused", said)
    has_check = state.step.get("check") is not None
    if kind in ("check_passed", "check_failed") and not has_check:
        raise Refused("run.no_check", f"{step_id} has no check")
    if kind == "step_done" and has_check:
        raise Refused("run.check_first", f"{step_id} ends with its check: passed or failed")
    if kind == "step_back" and state.index == 0 and not state.detour:
        raise Refused("run.first_step", "this is the first step")
    if kind == "finished" and (not state.at_end or has_check):
        raise Refused("run.not_at_end", "steps are still to be done")
    if kind == "step_done" and state.at_end:
        raise Refused("run.at_end", "the last step ends with finishing the run")
    if kind == "got_wet" and not state.step.get("wet"):
        raise Refused("run.no_wet", "this plan gives no contamination recovery for this step")
    if kind == "mix_too_old" and not state.step.get("stale"):
        raise Refused("run.no_mix", "no mix is in hand at this step")
    if kind == "dam_torn" and (state.dam_torn or not state.is_dammed):
        raise Refused("run.no_dam", "no dam is on that could tear")
    if kind == "measured" and not state.step.get("targets"):
        raise Refused("run.no_target", "nothing is measured at this step")
    if kind == "mixed" and not state.mixable:
        raise Refused("run.no_mixes", "nothing is mixed in this plan")
    if kind == "other_matrix" and state.has_placed:
        raise Refused("run.placed", "restoration has begun: take it out before the matrix is changed")
    if kind == "deeper" and state.has_placed:
        raise Refused("run.placed", "restoration has begun: the cavity can't be measured any more")


def _discard(state: RunState) -> None:
    """Note that the mix that is condensed at the step at hand is not used."""
    own = {window["step"] for window in state.step.get("within", [])}
    state.mixes = [
        {**mix, "is_discarded": mix["is_discarded"] or mix["step_id"] in own} for mix in state.mixes
    ]


def _resume(state: RunState, at: dt.datetime) -> None:
    began = state.paused_at
    assert began is not None
    state.pauses.append(Pause(state.step_id, began, at, state.paused_why))
    state.paused_s += (at - began).total_seconds()
    state.paused_at, state.paused_why = None, ""


def _forward(state: RunState) -> None:
    if not state.detour:
        state.index = min(state.index + 1, len(state.steps) - 1)
        if state.dam_torn and _renews_dam(state):
            state.dam_torn = False
            _detour(state, [DAM])
    elif state.detour_at + 1 < len(state.detour):
        state.detour_at += 1
    else:
        state.detour, state.detour_at = (), 0


def _renews_dam(state: RunState) -> bool:
    """Tell whether a torn dam is renewed before the step at hand: before it is looked over, or at once where the dam comes
    off before anything is."""
    ahead = state.steps[state.index :]
    ids = [step["id"] for step in ahead]
    on = ahead[: ids.index(f"{DAM}_off")] if f"{DAM}_off" in ids else ahead
    return bool(ahead[0].get("hold")) or not any(step.get("hold") for step in on)


def _back(state: RunState) -> None:
    """Go to the step before; back from a detour's first step takes the detour back."""
    if not state.detour:
        state.index -= 1
    elif state.detour_at:
        state.detour_at -= 1
    else:
        state.detour = ()


def _again_from(state: RunState, step_id: str | None) -> None:
    """Go back to where a failed check leads; without a place, or one that lies ahead, stay."""
    ids = [step["id"] for step in state.steps]
    here = ids.index(state.step_id)
    there = ids.index(step_id) if step_id in ids else here
    if there >= here:
        return
    if state.detour:
        _detour(state, ids[there:here])
    else:
        state.index = there


def _detour(state: RunState, redo: Sequence[str]) -> None:
    """Put steps before the one at hand and what is left of the detour."""
    if redo:
        state.detour = (*redo, *state.detour[state.detour_at :])
        state.detour_at = 0


def _replan(state: RunState, detail: dict[str, Any], plans: Plans, *, is_cut: bool) -> None:
    """Go by a new plan: what is done stays, unless it has to be done otherwise now; what follows a cut is done again."""
    done = {step["id"]: step for step in state.steps[: state.index]}
    state.plan_number = detail["plan"]
    state.steps, state.mixable = stepped(plans[state.plan_number]), mixing(plans[state.plan_number])
    state.detour, state.detour_at = (), 0
    ids = [step["id"] for step in state.steps]
    is_open = _is_open if is_cut else _is_changed
    state.index = next(i for i, step in enumerate(state.steps) if is_open(step, done.get(ids[i])))
    state.remedy = detail["text"]


def _is_open(step: dict[str, Any], done: dict[str, Any] | None) -> bool:
    """Tell whether a step of the new plan is still to be done; bonding never outlasts a cut, nor does what was
    passed of another preparation."""
    if done is None or step["stage"] == "bond" or step.get("hold"):
        return True
    if step["stage"] == "prepare" and not step.get("check"):
        # What is told to be deeper has been cut so.
        return False
    return _is_changed(step, done)


def _is_changed(step: dict[str, Any], done: dict[str, Any] | None) -> bool:
    """Tell whether a step is not done, or was done otherwise than it is asked for now."""
    return done is None or any(step[word] != done[word] for word in SAME_WORDS)
