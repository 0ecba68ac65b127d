"""All data in one file while the server writes, brought back elsewhere, its records verified; what is not whole is refused."""

import os
import shutil
import sqlite3
import subprocess
import sys
import threading
import zipfile
from contextlib import closing
from pathlib import Path

import pytest

from tests.filled import SETTINGS, filled_demo
from tools.server import ROOT

PASSWORD = "gannet-sound-demo"


@pytest.fixture
def demo_folder(tmp_path: Path, tmp_path_factory: pytest.TempPathFactory, testrun_uid: str) -> Path:
    """A folder with a server's data of its own."""
    database, _ = filled_demo(tmp_path_factory, testrun_uid)
    folder = tmp_path / "here"
    folder.mkdir()
    shutil.copy(database.with_name("secret_key"), folder)
    with (
        closing(sqlite3.connect(database)) as source,
        closing(sqlite3.connect(folder / database.name)) as out,
    ):
        source.backup(out)
    return folder


def manage(folder: Path, *words: str, password: str = PASSWORD) -> subprocess.CompletedProcess[str]:
    folder.mkdir(exist_ok=True)
    own = {
        "MALLET_VAR": str(folder),
        "MALLET_PASSWORD": password,
        "DJANGO_SETTINGS_MODULE": SETTINGS,
    }
    return subprocess.run(
        [sys.executable, "manage.py", *words],
        cwd=ROOT,
        env={**os.environ, **own},
        capture_output=True,
        text=True,
    )


def counted(database: Path, table: str) -> int:
    with closing(sqlite3.connect(database)) as data:
        return int(data.execute(f"SELECT count(*) FROM {table}").fetchone()[0])


def test_a_backup_is_taken_under_load_and_brought_back_whole_elsewhere(
    demo_folder: Path, tmp_path: Path
) -> None:
    database, file, there = demo_folder / "mallet.sqlite3", tmp_path / "night.mallet", tmp_path / "there"
    done = threading.Event()

    def write() -> None:
        with closing(sqlite3.connect(database, timeout=20)) as data:
            while not done.is_set():
                data.execute("UPDATE accounts_practice SET lamp_check_days = 30 + abs(random()) % 9")
                data.commit()

    writing = threading.Thread(target=write)
    writing.start()
    try:
        taken = manage(demo_folder, "backup", str(file))
    finally:
        done.set()
        writing.join()
    assert taken.returncode == 0, taken.stderr
    assert file.stat().st_mode & 0o077 == 0
    assert manage(demo_folder, "backup", str(file)).returncode == 1

    restored = manage(there, "restore", str(file), "--by", "ines")
    assert restored.returncode == 0, restored.stderr
    assert "signed by Ines Okafor-Lind" in restored.stdout
    verified = manage(there, "verify_records")
    assert "2 seals whole" in verified.stdout, verified.stderr
    for table in ("restorations_patient", "runs_runevent", "restorations_planbody"):
        assert counted(there / database.name, table) == counted(database, table) > 0
    assert (there / "secret_key").read_text() == (demo_folder / "secret_key").read_text()
    # The restore stands in the chain: altered, it is told.
    with closing(sqlite3.connect(there / database.name)) as data:
        data.execute("UPDATE records_seal SET text = 'restored as of never' WHERE kind = 'restored'")
        data.commit()
    assert "seal 2 on a restore: what it seals was altered" in manage(there, "verify_records").stderr
    assert "is there already" in manage(there, "restore", str(file), "--by", "ines").stderr


def test_what_is_cut_short_altered_or_none_is_refused_and_leaves_the_folder_empty(
    demo_folder: Path, tmp_path: Path
) -> None:
    file = tmp_path / "whole.mallet"
    assert manage(demo_folder, "backup", str(file)).returncode == 0
    cut, other, altered = (tmp_path / name for name in ("cut.mallet", "other.mallet", "altered.mallet"))
    cut.write_bytes(file.read_bytes()[: file.stat().st_size // 2])
    other.write_text("no backup at all")
    with zipfile.ZipFile(file) as packed, zipfile.ZipFile(altered, "w") as out:
        for name in packed.namelist():
            out.writestr(
                name, packed.read(name)[:-1] + b"!" if name == "mallet.sqlite3" else packed.read(name)
            )
    there = tmp_path / "there"
    for wrong, said in (
        (cut, "no whole backup"),
        (other, "no whole backup"),
        (altered, "was altered"),
        (tmp_path / "none", "no whole backup"),
    ):
        refused = manage(there, "restore", str(wrong), "--by", "ines")
        assert refused.returncode == 1
        assert said in refused.stderr
        assert not (there / "mallet.sqlite3").exists()
    wrong_password = manage(there, "restore", str(file), "--by", "ines", password="guessed")
    assert "password" in wrong_password.stderr


def test_a_server_without_a_screen_is_set_up_by_a_command(tmp_path: Path) -> None:
    there = tmp_path / "there"
    assert manage(there, "migrate", "--verbosity", "0").returncode == 0
    words = (
        "set_up",
        "Skerry Lane Dental",
        "Ragna Vestergaard-Obi",
        "ragna",
        "--zone",
        "Europe/Oslo",
        "--chairs",
        "left, right",
    )
    assert "password" in manage(there, *words, password="short").stderr
    assert "signs in as ragna" in manage(there, *words, password="a long enough phrase").stdout
    assert "has a practice already" in manage(there, *words, password="a long enough phrase").stderr
