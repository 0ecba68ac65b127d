"""What a fresh machine is told."""

import socket
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]


def test_a_busy_port_gets_one_clear_line() -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = str(taken.getsockname()[1])
        said = subprocess.run([sys.executable, ROOT / "tools/port.py", port], capture_output=True, text=True)
    assert said.returncode == 1
    assert said.stderr.strip().splitlines() == [
        f"apt-mallet: port {port} is taken: stop what uses it, or run `make demo PORT={int(port) + 1}`."
    ]
    free = subprocess.run([sys.executable, ROOT / "tools/port.py", port], capture_output=True, text=True)
    assert free.returncode == 0


def run_install(path: Path) -> subprocess.CompletedProcess[str]:
    """Run the installer where only the programs of one folder are found."""
    return subprocess.run(
        ["/bin/bash", str(ROOT / "tools/install.sh")],
        env={"PATH": str(path), "HOME": str(path)},
        capture_output=True,
        text=True,
    )


def program(folder: Path, name: str, script: str) -> None:
    file = folder / name
    file.write_text(f"#!/bin/bash\n{script}\n")
    file.chmod(0o755)


def test_a_missing_or_old_node_and_python_are_named(tmp_path: Path) -> None:
    program(tmp_path, "sed", 'exec /bin/sed "$@"')
    program(tmp_path, "python3", '[ "$1" = --version ] && { echo Python 3.9.2; exit 0; }; exit 1')
    said = run_install(tmp_path)
    assert said.returncode == 1
    assert said.stderr.strip().splitlines() == [
        "apt-mallet: Python 3.11 is needed (Python 3.9.2 found): install it and run this again."
    ]
    program(tmp_path, "python3.11", "exit 0")
    program(tmp_path, "uv", "exit 0")
    said = run_install(tmp_path)
    assert "Node 20 or newer is needed: install it" in said.stderr
    program(tmp_path, "node", "echo v18.19.0")
    said = run_install(tmp_path)
    assert "Node 20 or newer is needed (v18.19.0 found)" in said.stderr
    assert said.returncode == 1
    program(tmp_path, "node", "echo v22.1.0")
    assert run_install(tmp_path).returncode == 0
