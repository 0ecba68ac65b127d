"""The demo practice and signed-in clients."""

import copy
import json
import sqlite3
import uuid
from collections.abc import Iterator
from contextlib import closing
from typing import Any

import pytest
from django.db import connection
from django.test import Client, override_settings

from practice.accounts.demo import PASSWORD
from practice.accounts.models import Practice, User
from practice.restorations.models import Restoration
from tests.filled import filled_demo


@pytest.fixture(scope="session")
def quick_passwords() -> Iterator[None]:
    """Hash passwords quickly: how slow they are to guess is the framework's."""
    with override_settings(PASSWORD_HASHERS=["django.contrib.auth.hashers.MD5PasswordHasher"]):
        yield


@pytest.fixture(scope="session")
def django_db_use_migrations() -> bool:
    """Tables come with the demo practice: what made them is the migrations, as everywhere."""
    return False


@pytest.fixture(scope="session")
def django_db_setup(
    quick_passwords: None,
    django_db_setup: None,
    django_db_blocker: Any,
    tmp_path_factory: pytest.TempPathFactory,
    testrun_uid: str,
) -> None:
    """Bring the demo practice, filled once for all workers; every test rolls back to it."""
    database, _ = filled_demo(tmp_path_factory, testrun_uid)
    with django_db_blocker.unblock(), closing(sqlite3.connect(database)) as source:
        connection.ensure_connection()
        source.backup(connection.connection)


@pytest.fixture
def demo(db: None) -> Practice:
    return Practice.objects.get(is_demo=True)


@pytest.fixture
def dentist(demo: Practice) -> User:
    return User.objects.get(username="ines")


@pytest.fixture
def assistant(demo: Practice) -> User:
    return User.objects.get(username="tomas")


class Caller:
    """A signed-in client that speaks JSON."""

    def __init__(self, user: User | None = None) -> None:
        self.client = Client()
        if user:
            self.client.force_login(user)

    def __call__(self, method: str, path: str, body: object = None) -> tuple[int, Any]:
        extra = {} if body is None else {"data": json.dumps(body), "content_type": "application/json"}
        response = self.client.generic(
            method.upper(), f"/api/{path}", *([extra["data"], extra["content_type"]] if extra else [])
        )
        return response.status_code, (response.json() if response.content else None)


@pytest.fixture
def call(dentist: User) -> Caller:
    return Caller(dentist)


@pytest.fixture
def molar(demo: Practice) -> Restoration:
    """The lower first molar that the demo practice is about to treat."""
    return Restoration.objects.get(draft__tooth__code="36")


def event(state: dict[str, Any], kind: str, **changes: Any) -> dict[str, Any]:
    """Return an event that fits a run's state."""
    return {
        "client_id": str(uuid.uuid4()),
        "kind": kind,
        "step_id": state["step_id"],
        "expected_revision": state["revision"],
        "device": "test",
        "device_sequence": state["revision"],
        "client_wall": "2026-11-25T10:20:00Z",
        "client_monotonic_ms": 1000,
        **changes,
    }


def play_to_end(call: Caller, run_id: int) -> dict[str, Any]:
    """Send the event that fits until a run is finished; return its last state."""
    _, run = call("get", f"runs/{run_id}")
    steps = {s["id"]: s for s in run["steps"]}
    state = run["state"]
    while not state["finished"]:
        at_end = state["index"] == state["count"] - 1
        has_check = steps[state["step_id"]].get("check")
        kind = "finished" if at_end else "check_passed" if has_check else "step_done"
        status, state = call("post", f"runs/{run_id}/events", event(state, kind))
        assert status == 200, state
    return state


def deep(value: Any) -> Any:
    return copy.deepcopy(value)


__all__ = ["PASSWORD"]
