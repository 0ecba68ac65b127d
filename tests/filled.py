"""The demo practice's database, filled once for all workers of a test run."""

import fcntl
from collections.abc import Mapping
from pathlib import Path

import pytest

from tools.server import Server

# Everybody is signed in beforehand, once for all tests. Signing in has tests of its own.
SETTINGS = "tests.views.settings"
SIGN_IN_ALL = """
from django.conf import settings
from django.test import Client
from practice.accounts.models import User
for user in User.objects.all():
    client = Client()
    client.force_login(user)
    print(user.full_name, client.cookies[settings.SESSION_COOKIE_NAME].value, sep="\\t")
"""


def filled_demo(tmp_path_factory: pytest.TempPathFactory, testrun_uid: str) -> tuple[Path, Mapping[str, str]]:
    """Return the database file, and everybody's session by their name."""
    shared = tmp_path_factory.getbasetemp().parent / f"filled-{testrun_uid}"
    shared.mkdir(exist_ok=True)
    with (shared / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        done, var = shared / "done", shared / "var"
        if not done.exists():
            var.mkdir()
            server = Server(var, SETTINGS)
            server.fill()
            done.write_text(server.manage("shell", "-c", SIGN_IN_ALL).stdout)
        lines = [line.split("\t") for line in done.read_text().splitlines() if "\t" in line]
    return Server(var).database, dict(lines)
