"""The state of a run, folded from its events. Pure: no database, no clock."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any, Protocol

from practice.accounts.owned import Refused

ASSISTANT = "assistant"


class Happened(Protocol):
    """What the fold reads of an event."""

    revision: int
    kind: str
    step_id: str
    at: dt.datetime


@dataclass(frozen=True)
class Visit:
    """One stay at a step: when, how it ended and whether its check passed."""

    step_id: str
    began: dt.datetime
    ended: dt.datetime
    outcome: str


@dataclass
class RunState:
    """Where a run stands. `steps` are those that are stepped through; the assistant's own run beside."""

    steps: Sequence[dict[str, Any]]
    revision: int
    index: int
    step_began: dt.datetime
    visits: list[Visit] = field(default_factory=list)
    remedy: str = ""
    finished: bool = False

    @property
    def step_id(self) -> str:
        return str(self.steps[self.index]["id"])

    @property
    def at_end(self) -> bool:
        return self.index == len(self.steps) - 1


def stepped(plan: dict[str, Any]) -> list[dict[str, Any]]:
    """Return the steps that the chairside view goes through one by one."""
    return [step for step in plan["steps"] if step["actor"] != ASSISTANT]


def fold(plan: dict[str, Any], started_at: dt.datetime, events: Iterable[Happened]) -> RunState:
    """Return the state after all events, in order of revision."""
    state = RunState(steps=stepped(plan), revision=0, index=0, step_began=started_at)
    for event in events:
        advance(state, event)
    return state


def advance(state: RunState, event: Happened) -> None:
    """Apply one event; raise Refused where it does not fit the state."""
    refuse_unfit(state, event.kind, event.step_id)
    state.visits.append(Visit(state.step_id, state.step_began, event.at, event.kind))
    state.revision = event.revision
    state.step_began = event.at
    state.remedy = ""
    if event.kind in ("step_done", "check_passed"):
        state.index = min(state.index + 1, len(state.steps) - 1)
    elif event.kind == "step_back":
        state.index -= 1
    elif event.kind == "check_failed":
        check = state.steps[state.index]["check"]
        state.remedy = check["remedy"]
        state.index = _place(state, check.get("back_to"))
    else:
        state.finished = True


def refuse_unfit(state: RunState, kind: str, step_id: str) -> None:
    """Raise Refused where an event of a kind, about a step, cannot happen now."""
    if state.finished:
        raise Refused("run.finished", "the run is finished")
    if step_id != state.step_id:
        raise Refused("run.other_step", f"the run stands at {state.step_id}, not at {step_id}")
    has_check = state.steps[state.index].get("check") is not None
    if kind in ("check_passed", "check_failed") and not has_check:
        raise Refused("run.no_check", f"{step_id} has no check")
    if kind == "step_done" and has_check:
        raise Refused("run.check_first", f"{step_id} ends with its check: passed or failed")
    if kind == "step_back" and state.index == 0:
        raise Refused("run.first_step", "this is the first step")
    if kind == "finished" and (not state.at_end or has_check):
        raise Refused("run.not_at_end", "steps are still to be done")
    if kind == "step_done" and state.at_end:
        raise Refused("run.at_end", "the last step ends with finishing the run")


def _place(state: RunState, step_id: str | None) -> int:
    """Return where a failed check leads: to the step named, else it stays."""
    for i, step in enumerate(state.steps):
        if step["id"] == step_id:
            return i
    return state.index
