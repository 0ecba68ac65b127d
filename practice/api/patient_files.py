"""Patients as a CSV file, out and in."""

from __future__ import annotations

import datetime as dt

from django.http import HttpRequest, HttpResponse
from ninja import Field, Router, Schema

from practice.api.access import user_of
from practice.api.errors import ErrorOut, ProblemOut
from practice.restorations.patient_file import keep_patients, patient_file, read_patient_file

router = Router(tags=["patients"])
# Of a file so much is shown.
SHOWN_ROWS, SHOWN_PROBLEMS = 12, 60


class PatientsFileIn(Schema):
    """The text of a file; `keep` adds its patients, else it is only read."""

    text: str = Field(max_length=20_000_000)
    keep: bool = False


class FileRow(Schema):
    full_name: str
    born_on: dt.date
    chart_number: str


class PatientsFileOut(Schema):
    """The first good rows of a file, how many there are, what is wrong with the others, and how many were kept."""

    rows: list[FileRow]
    count: int
    problems: list[ProblemOut]
    kept: int


@router.get("patients-file", response={200: None})
def patients_as_file(request: HttpRequest) -> HttpResponse:
    practice = user_of(request).practice
    assert practice
    response = HttpResponse(patient_file(practice), content_type="text/csv; charset=utf-8")
    name = f"patients-{practice.today().isoformat()}.csv"
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


@router.post("patients-file", response={200: PatientsFileOut, 422: ErrorOut})
def patients_in_file(request: HttpRequest, body: PatientsFileIn) -> PatientsFileOut:
    """Read a CSV file of patients; keep them all where asked, none where anything is wrong."""
    user = user_of(request)
    assert user.practice
    if body.keep:
        return PatientsFileOut(
            rows=[], count=0, problems=[], kept=keep_patients(user.practice, body.text, user)
        )
    rows, problems = read_patient_file(user.practice, body.text)
    return PatientsFileOut(
        rows=[
            FileRow(full_name=row["full_name"], born_on=row["born_on"], chart_number=row["chart_number"])
            for row in rows[:SHOWN_ROWS]
        ],
        count=len(rows),
        problems=[ProblemOut(path=p.path, got=p.got, allowed=p.allowed) for p in problems[:SHOWN_PROBLEMS]],
        kept=0,
    )
