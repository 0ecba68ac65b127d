"""The real server on demo data, and Debian's Chromium."""

import shutil
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
def filled(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Return a data folder with the demo practice, filled once; every test copies it."""
    var = tmp_path_factory.mktemp("filled")
    Server(var).fill()
    return var


@pytest.fixture
def server(tmp_path: Path, filled: Path) -> Iterator[Server]:
    var = tmp_path / "var"
    shutil.copytree(filled, var)
    served = Server(var)
    served.start()
    yield served
    served.kill()


def sign_in(page: Page, server: Server, name: str = "Ines Okafor-Lind") -> None:
    page.goto(server.url)
    page.get_by_role("button", name=name).click()
    expect(page.get_by_text("8 restorations")).to_be_visible()
