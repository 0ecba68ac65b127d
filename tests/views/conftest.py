"""The real server on demo data, and Debian's Chromium."""

import fcntl
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tools.server import CHROMIUM, CHROMIUM_ARGS, Server

# Two tests at a time share a slow machine with their servers.
expect.set_options(timeout=20_000)


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args: dict[str, Any]) -> dict[str, Any]:
    return {**browser_type_launch_args, "executable_path": CHROMIUM, "args": CHROMIUM_ARGS}


@pytest.fixture(scope="session")
def browser_context_args(browser_context_args: dict[str, Any]) -> dict[str, Any]:
    return {**browser_context_args, "viewport": {"width": 1280, "height": 800}, "locale": "en-GB"}


@pytest.fixture(scope="session")
def filled(tmp_path_factory: pytest.TempPathFactory, testrun_uid: str) -> Path:
    """Return the database of the demo practice, filled once for all workers."""
    shared = tmp_path_factory.getbasetemp().parent / f"filled-{testrun_uid}"
    shared.mkdir(exist_ok=True)
    with (shared / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        done, var = shared / "done", shared / "var"
        if not done.exists():
            var.mkdir()
            Server(var).fill()
            done.touch()
    return Server(var).database


@pytest.fixture(scope="session")
def served(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """Return the server of a worker; every test gives it the demo practice as it was filled."""
    running = Server(tmp_path_factory.mktemp("var"))
    yield running
    running.kill()


@pytest.fixture
def server(served: Server, filled: Path) -> Server:
    served.take_over(filled)
    if not served.is_running:
        served.start()
    return served


def sign_in(page: Page, server: Server, name: str = "Ines Okafor-Lind") -> None:
    page.goto(server.url)
    page.get_by_role("button", name=name).click()
    expect(page.get_by_text("8 restorations")).to_be_visible()
