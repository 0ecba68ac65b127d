"""The server's process is killed at random moments of a run: what it acknowledged is there, once."""

import http.client
import json
import os
import random
import sqlite3
import threading
import urllib.request
import uuid
from typing import Any

from tests.views.conftest import SESSIONS
from tools.server import Server

# Two in every run; `make soak` takes fifty.
KILLS = int(os.environ.get("MALLET_KILLS", "2"))
# So many events are acknowledged before the blow falls, within so long.
EVENTS, WITHIN_S = (2, 8), 0.2
AWAY = (OSError, http.client.HTTPException)


class Device:
    """A device that speaks to the server, its user signed in beforehand: checking a password takes long."""

    def __init__(self, server: Server, name: str = "Ines Okafor-Lind") -> None:
        self.url = f"{server.url}/api"
        token = uuid.uuid4().hex
        self.headers = {
            "Content-Type": "application/json",
            "X-CSRFToken": token,
            "Cookie": f"sessionid={SESSIONS[name]}; csrftoken={token}",
        }

    def __call__(self, method: str, path: str, body: object = None) -> Any:
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(f"{self.url}/{path}", data, self.headers, method=method)
        with urllib.request.urlopen(request, timeout=30) as answer:
            return json.loads(answer.read())


def next_event(draw: random.Random, run: dict[str, Any], state: dict[str, Any]) -> dict[str, Any]:
    """Return some event that fits; the run wanders to and fro and never ends."""
    step = next(s for s in run["steps"] if s["id"] == state["step_id"])
    kinds = ["check_passed", "check_failed"] if step["check"] else ["step_done"]
    kinds = [*kinds * 4, "got_wet", "paused"] + ["step_back"] * (state["index"] > 0)
    near_end = state["index"] >= state["count"] - 2
    kind = "resumed" if state["paused_at"] else "step_back" if near_end else draw.choice(kinds)
    return {
        "client_id": str(uuid.UUID(int=draw.getrandbits(128), version=4)),
        "kind": kind,
        "step_id": state["step_id"],
        "expected_revision": state["revision"],
        "device": "test",
        "device_sequence": 1,
        "client_wall": "2026-11-25T10:20:00Z",
        "client_monotonic_ms": 0,
        "detail": {"reason": run["pause_reasons"][0]} if kind == "paused" else {},
    }


def test_no_acknowledged_event_is_lost_and_none_doubled(server: Server) -> None:
    draw = random.Random(36)
    device = Device(server)
    run_id = device("POST", "restorations/2/runs")["id"]
    run = device("GET", f"runs/{run_id}")
    state, sent, pending, unanswered = run["state"], [], None, 0
    for _ in range(KILLS):
        killing = threading.Timer(draw.uniform(0, WITHIN_S), server.kill)
        at = len(sent) + draw.randint(*EVENTS)
        while True:
            if len(sent) == at:
                killing.start()
            event = pending or next_event(draw, run, state)
            try:
                state = device("POST", f"runs/{run_id}/events", event)
            except AWAY:
                unanswered += 1
                pending = event
                break
            pending = None
            sent.append(event["client_id"])
            assert state["revision"] == len(sent)
        killing.join()
        server.start()
    assert len(sent) >= EVENTS[0] * KILLS
    assert unanswered == KILLS
    server.kill()
    with sqlite3.connect(server.database) as database:
        rows = database.execute(
            "SELECT client_id FROM runs_runevent WHERE run_id = ? ORDER BY revision", [run_id]
        ).fetchall()
    kept = [str(uuid.UUID(row[0])) for row in rows]
    # The last event may have been kept although its answer never came: it was never acknowledged.
    assert kept[: len(sent)] == sent
    assert kept[len(sent) :] in ([], [pending["client_id"]] if pending else [])
