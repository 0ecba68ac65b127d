"""Runs the real server on a data folder of its own, for browser tests and screenshots."""

from __future__ import annotations

import os
import signal
import socket
import sqlite3
import subprocess
import sys
import time
import urllib.request
from contextlib import closing
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
CHROMIUM = "/usr/bin/chromium-headless-shell"
CHROMIUM_ARGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
]


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Server:
    """The demo practice, served; it can be killed and started again on the same data and port."""

    def __init__(self, var: Path, settings: str = "practice.settings") -> None:
        self.port = free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        self.database = var / "mallet.sqlite3"
        self._env = {**os.environ, "MALLET_VAR": str(var), "DJANGO_SETTINGS_MODULE": settings}
        self._process: subprocess.Popen[bytes] | None = None

    def fill(self) -> None:
        """Make the database and fill the demo practice."""
        for command in (["migrate", "--verbosity", "0"], ["fill_demo"]):
            subprocess.run(
                [sys.executable, "manage.py", *command],
                cwd=ROOT,
                env=self._env,
                check=True,
                stdout=subprocess.DEVNULL,
            )

    @property
    def is_running(self) -> bool:
        return self._process is not None

    def take_over(self, database: Path) -> None:
        """Put another database's data in the place of the server's own, while it runs."""
        with closing(sqlite3.connect(database)) as source, closing(sqlite3.connect(self.database)) as own:
            source.backup(own)

    def manage(self, *words: str) -> subprocess.CompletedProcess[str]:
        """Run a management command on the server's data."""
        return subprocess.run(
            [sys.executable, "manage.py", *words], cwd=ROOT, env=self._env, capture_output=True, text=True
        )

    def start(self) -> None:
        command = [sys.executable, "-m", "gunicorn", "practice.wsgi", "--bind", f"127.0.0.1:{self.port}"]
        self._process = subprocess.Popen(
            [*command, "--workers", "1", "--threads", "4", "--log-level", "error"],
            cwd=ROOT,
            env=self._env,
            start_new_session=True,
        )
        for _ in range(150):
            try:
                urllib.request.urlopen(f"{self.url}/api/session", timeout=2)
                return
            except OSError:
                time.sleep(0.1)
        self.kill()
        raise RuntimeError("the server did not start")

    def kill(self) -> None:
        """Stop the server at once, as a power cut would."""
        if self._process:
            os.killpg(self._process.pid, signal.SIGKILL)
            self._process.wait()
            self._process = None
