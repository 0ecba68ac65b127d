"""How a day, a patient's page, a search and the list of records fare with 100 000 restorations: in how many queries each
comes, as a ratio to the bare SQL that fetches the same rows, and to the time with 1 000 restorations."""

from __future__ import annotations

import json
import os
import sqlite3
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
# Kept from one run to the next: to fill it takes a quarter of an hour.
MANY = ROOT / "var" / "many"
SIZES = {"few": (200, 1_000), "many": (20_000, 100_000)}
PAGES = {
    "an empty answer": "/api/session",
    "a day": "/api/today",
    "a patient": "/api/patients/{patient}",
    "patients": "/api/patients",
    "search": "/api/patients?q=birk var",
    "records": "/api/records",
    "records of a patient": "/api/records?q=aune alder varn",
    "records to sign": "/api/records?unsigned=true",
}
RUNS = 15


def fill(folder: Path, patients: int, restorations: int) -> None:
    """Fill a data folder unless it is filled."""
    done = folder / "filled"
    if done.exists():
        return
    folder.mkdir(parents=True, exist_ok=True)
    for command in (
        ["migrate", "--verbosity", "0"],
        ["fill_many", "--patients", str(patients), "--restorations", str(restorations)],
    ):
        subprocess.run(
            [sys.executable, "manage.py", *command],
            cwd=ROOT,
            env={**os.environ, "MALLET_VAR": str(folder)},
            check=True,
            stdout=subprocess.DEVNULL,
        )
    done.touch()


def median_ms(call: Callable[[], object]) -> float:
    """Return the median of some runs after a warm-up, in ms."""
    call()
    took = []
    for _ in range(RUNS):
        began = time.perf_counter()
        call()
        took.append((time.perf_counter() - began) * 1000)
    return statistics.median(took)


def measure() -> dict[str, dict[str, float]]:
    """Return of each page its queries, its ms, and those of its bare SQL, on the data folder of this process."""
    os.environ["DJANGO_SETTINGS_MODULE"] = "practice.settings"
    import django

    django.setup()
    from django.conf import settings
    from django.db import connection
    from django.test import Client
    from django.test.utils import CaptureQueriesContext

    from practice.accounts.models import User
    from practice.restorations.models import Patient

    client = Client(HTTP_HOST="127.0.0.1")
    client.force_login(User.objects.get(username="ines"))
    patient = Patient.objects.filter(chart_number__startswith="M").first()
    assert patient
    found = {}
    with sqlite3.connect(settings.DATABASES["default"]["NAME"]) as bare:
        for name, url in PAGES.items():
            url = url.format(patient=patient.pk)
            client.get(url)
            with CaptureQueriesContext(connection) as captured:
                answer = client.get(url)
            assert answer.status_code == 200, (url, answer.content)
            queries = [one["sql"] for one in captured.captured_queries if one["sql"].startswith("SELECT")]

            def fetch(queries: list[str] = queries) -> None:
                for sql in queries:
                    bare.execute(sql).fetchall()

            found[name] = {
                "queries": len(captured),
                "ms": median_ms(partial(client.get, url)),
                "bare_ms": median_ms(fetch),
            }
    return found


def measured_on(folder: Path) -> dict[str, dict[str, float]]:
    """Return what another process measures on a data folder."""
    told = subprocess.run(
        [sys.executable, "-m", "tools.bench_many", "measure"],
        cwd=ROOT,
        env={**os.environ, "MALLET_VAR": str(folder)},
        check=True,
        capture_output=True,
        text=True,
    )
    result: dict[str, Any] = json.loads(told.stdout)
    return result


def main() -> None:
    """Print each page's queries, ms and ratios."""
    with tempfile.TemporaryDirectory() as folder:
        fill(Path(folder), *SIZES["few"])
        few = measured_on(Path(folder))
    fill(MANY, *SIZES["many"])
    many = measured_on(MANY)
    print(f"with {SIZES['many'][1]} restorations of {SIZES['many'][0]} patients")
    print("An answer without any rows takes as long as signing in is looked up: the least there is.")
    print(f"{'':22}queries      ms  of bare SQL  of {SIZES['few'][1]} restorations")
    for name, one in many.items():
        assert one["queries"] == few[name]["queries"], f"{name}: {few[name]['queries']} queries with few"
        ratios = one["ms"] / one["bare_ms"], one["ms"] / few[name]["ms"]
        print(f"{name:22}{one['queries']:7.0f} {one['ms']:7.1f}  {ratios[0]:11.1f}  {ratios[1]:8.2f}")


if __name__ == "__main__":
    if sys.argv[1:] == ["measure"]:
        print(json.dumps(measure()))
    else:
        main()
