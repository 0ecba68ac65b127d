"""The whole of a server's data in one file, taken while it runs, and brought back into an empty folder.

A file of ours is a zip: the database, the server's key, and what it was when it was taken.
"""

from __future__ import annotations

import hashlib
import json
import os
import sqlite3
import tempfile
import zipfile
from contextlib import closing
from pathlib import Path
from typing import Any

from django.utils import timezone

from mallet import ENGINE
from practice.accounts.owned import Refused

FORMAT = "mallet-backup/1"
DATABASE, KEY, TOLD = "mallet.sqlite3", "secret_key", "backup.json"
CHUNK = 1 << 20


def take_backup(database: Path, key: str, file: Path) -> dict[str, Any]:
    """Write a backup of a database and the server's key to a file, which must not be there yet, and return what it tells of
    itself."""
    if file.exists():
        raise Refused("backup.there", f"{file} is there already: take another name")
    with tempfile.TemporaryDirectory(dir=file.parent) as folder:
        copy = Path(folder) / DATABASE
        # SQLite's own online backup: whole, though others write meanwhile.
        with (
            closing(sqlite3.connect(database)) as source,
            closing(sqlite3.connect(copy)) as out,
        ):
            source.backup(out)
        seals = _check_database(copy)
        told = {
            "format": FORMAT,
            "engine": ENGINE,
            "taken_at": timezone.now().isoformat(),
            "sha256": {
                DATABASE: _digest(copy),
                KEY: hashlib.sha256(key.encode()).hexdigest(),
            },
            "seals": seals,
        }
        whole = Path(folder) / file.name
        with zipfile.ZipFile(whole, "w", zipfile.ZIP_DEFLATED) as packed:
            packed.write(copy, DATABASE)
            packed.writestr(KEY, key)
            packed.writestr(TOLD, json.dumps(told, indent=2))
        os.chmod(whole, 0o600)
        whole.replace(file)
    return told


def unpack_backup(file: Path, folder: Path) -> dict[str, Any]:
    """Bring a backup's data into an empty folder, and return what it tells of itself.

    Raises Refused where there is a database already, and for a file that is none, cut short or altered.
    """
    database = folder / DATABASE
    if database.exists():
        raise Refused("restore.there", f"{database} is there already: a backup goes into an empty folder")
    try:
        with tempfile.TemporaryDirectory(dir=folder) as unpacked, zipfile.ZipFile(file) as packed:
            told: dict[str, Any] = json.loads(packed.read(TOLD))
            if told.get("format") != FORMAT:
                raise Refused("restore.other", f"{file} is of another format: {told.get('format')}")
            for name in (DATABASE, KEY):
                packed.extract(name, unpacked)
                if _digest(Path(unpacked) / name) != told["sha256"][name]:
                    raise Refused("restore.altered", f"{name} in {file} was altered since it was taken")
            _check_database(Path(unpacked) / DATABASE)
            (Path(unpacked) / KEY).chmod(0o600)
            (Path(unpacked) / KEY).replace(folder / KEY)
            (Path(unpacked) / DATABASE).replace(database)
    except (OSError, KeyError, ValueError, zipfile.BadZipFile, sqlite3.DatabaseError) as error:
        raise Refused("restore.broken", f"{file} is no whole backup: {error}") from None
    return told


def _check_database(file: Path) -> int:
    """Return how many seals a database holds; raise Refused where it is not whole."""
    with closing(sqlite3.connect(file)) as data:
        (said,) = data.execute("PRAGMA integrity_check").fetchone()
        if said != "ok":
            raise Refused("backup.broken", f"the database is not whole: {said}")
        (count,) = data.execute("SELECT count(*) FROM records_seal").fetchone()
    return int(count)


def _digest(file: Path) -> str:
    digest = hashlib.sha256()
    with file.open("rb") as data:
        while chunk := data.read(CHUNK):
            digest.update(chunk)
    return digest.hexdigest()
