"""The real server on demo data, and Debian's Chromium."""

import os
import shutil
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.filled import SETTINGS, filled_demo
from tools.server import CHROMIUM, CHROMIUM_ARGS, Server

# Two tests at a time share a slow machine with their servers.
expect.set_options(timeout=20_000)

LATEST_S = 900

SESSIONS: dict[str, str] = {}


@pytest.fixture(scope="session")
def browsable() -> None:
    """Wait for browser and interface, where `make test` still installs and builds them."""
    told = os.environ.get("MALLET_BROWSABLE")
    latest = time.monotonic() + LATEST_S
    while told and not Path(told).exists():
        assert time.monotonic() < latest, f"the interface was not built within {LATEST_S} s"
        time.sleep(0.2)


@pytest.fixture(scope="session")
def browser_type_launch_args(browsable: None, browser_type_launch_args: dict[str, Any]) -> dict[str, Any]:
    return {**browser_type_launch_args, "executable_path": CHROMIUM, "args": CHROMIUM_ARGS}


@pytest.fixture(scope="session")
def browser_context_args(browser_context_args: dict[str, Any]) -> dict[str, Any]:
    return {**browser_context_args, "viewport": {"width": 1280, "height": 800}, "locale": "en-GB"}


@pytest.fixture(scope="session")
def filled(tmp_path_factory: pytest.TempPathFactory, testrun_uid: str) -> Path:
    """Return the database of the demo practice, filled once for all workers."""
    database, sessions = filled_demo(tmp_path_factory, testrun_uid)
    SESSIONS.update(sessions)
    return database


@pytest.fixture(scope="session")
def served(browsable: None, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """Return the server of a worker; every test gives it the demo practice as it was filled."""
    running = Server(tmp_path_factory.mktemp("var"), SETTINGS)
    yield running
    running.kill()


@pytest.fixture
def server(served: Server, filled: Path) -> Server:
    served.take_over(filled)
    if not served.is_running:
        # Whoever is signed in there is signed in here.
        shutil.copy(filled.with_name("secret_key"), served.database.parent)
        served.start()
    return served


def type_day(field: Locator, day: str) -> None:
    """Type a day, told as 2027-01-31, into a field of its own."""
    field.get_by_role("spinbutton").first.click()
    field.page.keyboard.type("".join(reversed(day.split("-"))))


def type_time(field: Locator, time: str) -> None:
    """Type a time of day, told as 14:30, into a field of its own."""
    field.get_by_role("spinbutton").first.click()
    field.page.keyboard.type(time.replace(":", ""))


def bring_session(page: Page, server: Server, name: str = "Ines Okafor-Lind") -> None:
    """Make a page that of somebody who is signed in."""
    page.context.add_cookies([{"name": "sessionid", "value": SESSIONS[name], "url": server.url}])


def sign_in(page: Page, server: Server, name: str = "Ines Okafor-Lind") -> None:
    """Open Today as somebody who is signed in."""
    bring_session(page, server, name)
    page.goto(server.url)
    expect(page.get_by_text("12 restorations")).to_be_visible()
