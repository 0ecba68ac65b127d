"""How a composite in stock looks: spectra of a specimen over black and over white, read from a file."""

from __future__ import annotations

from django.db import transaction
from pydantic import TypeAdapter

from mallet.color.shown import shown_of
from mallet.terms.color_plan import CompositeColor
from mallet.terms.errors import InputError, Problem
from mallet.terms.optics import Optics, SpectralOptics
from mallet.terms.table import read_table
from practice.accounts.models import User, audit
from practice.equipment.models import Item
from practice.house.services import rules_of

READINGS = ("over_black", "over_white", "black", "white")
WAVELENGTHS_NM = tuple(range(400, 701, 10))
OPTICS: TypeAdapter[Optics] = TypeAdapter(Optics)


def color_of(item: Item) -> CompositeColor | None:
    """Return what a composite in stock looks like, None where nobody has measured it."""
    told = item.properties.get("optics")
    return shown_of(OPTICS.validate_python(told), rules_of(item.practice)) if told else None


def keep_spectra(item: Item, text: str, thickness_mm: float, who: User) -> CompositeColor:
    """Keep what a specimen of a composite reads, from CSV: a row a wavelength, 400 to 700 nm every 10 nm.

    Raises InputError, by line and column, or by wavelength where no layer of this thickness can read so; then all stays as it was.
    """
    optics = read_spectra(text, thickness_mm)
    shown = shown_of(optics, rules_of(item.practice))
    item.properties = {**item.properties, "optics": optics.model_dump(mode="json")}
    with transaction.atomic():
        item.save(update_fields=["properties"])
        audit(who, "equipment.optics.kept", item.name[:60], thickness_mm=thickness_mm)
    return shown


def read_spectra(text: str, thickness_mm: float) -> SpectralOptics:
    """Return the spectra of a CSV text; raise InputError by line and column."""
    shares = dict.fromkeys(READINGS, (0.0, 1.0))
    rows, problems = read_table(text, {"wavelength_nm": (300.0, 900.0), **shares})
    problems += [
        Problem(f"line {row.line}, over_white", f"{light:g}", f"more than over_black, {dark:g}")
        for row in rows
        if (light := row.numbers["over_white"]) <= (dark := row.numbers["over_black"])
    ]
    if problems:
        raise InputError(*problems)
    by_nm = {row.numbers["wavelength_nm"]: row.numbers for row in rows}
    if lacking := [nm for nm in WAVELENGTHS_NM if nm not in by_nm]:
        got = f"no row for {', '.join(str(nm) for nm in lacking)}"
        raise InputError.at("wavelength_nm", got, "400 to 700 nm, every 10 nm, each once")
    if len(rows) != len(by_nm):
        raise InputError.at("wavelength_nm", f"{len(rows)} rows", "each wavelength once")
    told = {name: [by_nm[nm][name] for nm in WAVELENGTHS_NM] for name in READINGS}
    return SpectralOptics(kind="spectral", thickness_mm=thickness_mm, **told)
