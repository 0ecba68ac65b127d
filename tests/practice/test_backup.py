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

from practice.accounts.models import User
from practice.accounts.owned import Refused
from practice.records.backup import take_backup, unpack_backup
from practice.records.services import seal_restore
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

    restored = manage(there, "restore", str(file), "--by", "ines")
    assert "signed by Ines Okafor-Lind" in restored.stdout, restored.stderr
    for table in ("restorations_patient", "runs_runevent", "restorations_planbody"):
        assert counted(there / database.name, table) == counted(database, table) > 0
    assert (there / "secret_key").read_text() == (demo_folder / "secret_key").read_text()
    # The restore stands in the chain: altered, it is told.
    with closing(sqlite3.connect(there / database.name)) as data:
        data.execute("UPDATE records_seal SET text = 'restored as of never' WHERE kind = 'restored'")
        data.commit()
    told = manage(there, "verify_records").stderr
    assert told.strip().endswith("seal 2 on a restore: what it seals was altered")


def test_what_is_cut_short_altered_or_none_is_refused_and_leaves_the_folder_empty(
    demo_folder: Path, tmp_path: Path
) -> None:
    file, there = tmp_path / "whole.mallet", tmp_path / "there"
    there.mkdir()
    assert take_backup(demo_folder / "mallet.sqlite3", "key", file)["seals"] == 1
    with pytest.raises(Refused, match="is there already"):
        take_backup(demo_folder / "mallet.sqlite3", "key", file)
    cut, other, altered = (tmp_path / name for name in ("cut.mallet", "other.mallet", "altered.mallet"))
    cut.write_bytes(file.read_bytes()[: file.stat().st_size // 2])
    other.write_text("no backup at all")
    with zipfile.ZipFile(file) as packed, zipfile.ZipFile(altered, "w") as out:
        for name in packed.namelist():
            text = packed.read(name)
            out.writestr(name, text[:-1] + b"!" if name == "mallet.sqlite3" else text)
    wrongs = (
        (cut, "no whole backup"),
        (other, "no whole backup"),
        (altered, "was altered"),
        (tmp_path / "none", "no whole backup"),
    )
    for wrong, said in wrongs:
        with pytest.raises(Refused, match=said):
            unpack_backup(wrong, there)
        assert list(there.iterdir()) == []
    unpack_backup(file, there)
    assert (there / "secret_key").read_text() == "key"
    with pytest.raises(Refused, match="goes into an empty folder"):
        unpack_backup(file, there)
    with pytest.raises(Refused, match="password"):
        seal_restore(User(username="nobody"), "guessed", "never")
