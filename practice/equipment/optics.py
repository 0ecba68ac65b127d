"""How the composites in stock look: what was read of their specimens, and how far lots are apart."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from django.db import transaction
from pydantic import TypeAdapter

from mallet.color.shown import apart_de00, shown_of
from mallet.rulebook import Rulebook
from mallet.terms.color_plan import CompositeColor
from mallet.terms.errors import InputError, Problem
from mallet.terms.optics import Optics, SpectralOptics
from mallet.terms.table import read_table
from practice.accounts.models import Practice, User, audit
from practice.equipment.models import MASS, Item, Specimen
from practice.equipment.stock import is_usable
from practice.house.services import rules_of

READINGS = ("over_black", "over_white", "black", "white")
WAVELENGTHS_NM = tuple(range(400, 701, 10))
OPTICS: TypeAdapter[Optics] = TypeAdapter(Optics)


def color_of(item: Item) -> CompositeColor | None:
    """Return what a composite in stock looks like, None where nobody has measured it."""
    told = item.properties.get("optics")
    return shown_of(OPTICS.validate_python(told), rules_of(item.practice)) if told else None


def keep_optics(item: Item, optics: Optics, lot: str, who: User, reviews: int = 0) -> CompositeColor:
    """Keep what was read of a specimen of a composite, of a lot where that is told, or what so many reviews made of it; plans weigh it
    from now on.

    Raises InputError, by wavelength or band where no layer of this thickness can read so; then all stays as it was.
    """
    shown = shown_of(optics, rules_of(item.practice))
    told = optics.model_dump(mode="json")
    item.properties = {**item.properties, "optics": told}
    with transaction.atomic():
        item.save(update_fields=["properties"])
        Specimen.objects.create(
            practice=item.practice, item=item, lot=lot, optics=told, who=who, reviews=reviews
        )
        audit(who, "equipment.optics.kept", item.name[:60], kind=optics.kind, lot=lot, reviews=reviews)
    return shown


@dataclass(frozen=True)
class Reading:
    """What was read of one specimen, or was made of that by so many reviews: when, by whom, of which lot, and how far off the first one
    it is (dE00), none for that."""

    noted_at: dt.datetime
    who: str
    lot: str
    reviews: int
    color: CompositeColor
    off_first_de00: float | None


@dataclass(frozen=True)
class Shade:
    """A composite in stock: how it looks, where that is known, and its specimens, oldest first."""

    item: Item
    in_stock: bool
    color: CompositeColor | None
    readings: list[Reading]


def shades_of(practice: Practice, today: dt.date) -> list[Shade]:
    """Return the composites in stock, in the order of the stock."""
    rows = Item.objects.owned_by(practice).filter(kind=MASS).prefetch_related("lots", "specimens__who")
    rules = rules_of(practice)
    return [Shade(row, is_usable(row, today), color_of(row), _readings(row, rules)) for row in rows]


def _readings(item: Item, rules: Rulebook) -> list[Reading]:
    kept = [(one, OPTICS.validate_python(one.optics)) for one in item.specimens.all()]
    return [
        Reading(
            noted_at=one.noted_at,
            who=one.who.full_name,
            lot=one.lot,
            reviews=one.reviews,
            color=shown_of(optics, rules),
            off_first_de00=round(apart_de00(kept[0][1], optics, rules), 1) if i else None,
        )
        for i, (one, optics) in enumerate(kept)
    ]


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
