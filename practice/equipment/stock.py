"""What can be done with stock: things and their lots, what of it a plan gets, and a file of it."""

from __future__ import annotations

import csv
import datetime as dt
import io
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from django.db import transaction
from pydantic import ValidationError

from mallet.terms.errors import InputError, Problem
from mallet.terms.problems import problems_of
from mallet.terms.restoration import Composite
from mallet.terms.stock import KINDS, LASTING, FieldSpec, fields_of
from mallet.terms.stock import Item as StockItem
from mallet.terms.table import read_rows
from practice.accounts.models import Practice, User, audit
from practice.devices.barcode import Package
from practice.equipment.models import MASS, Item, Lot
from practice.equipment.services import Flag
from practice.once import once

MODELS: dict[str, type[Composite] | type[StockItem]] = {MASS: Composite, **KINDS}
OWN_FIELDS = frozenset({"name", "lot", "kind"})
# What the planner chooses from by itself; masses are chosen for a restoration.
PLANNED = (
    "adhesive", "ionomer", "sealant", "coat", "base", "liner", "capsule", "carrier", "varnish", "pin", "band", "crown_form",
    "wedge", "ring", "bur", "condenser", "gold", "mallet", "annealer", "abrasive",
)  # fmt: skip
SOON_DAYS = 30
FIXED_COLUMNS = ("kind", "name", "manufacturer", "gtin", "lot", "expires_on", "count")


@dataclass(frozen=True)
class Stocked:
    """A thing as it is to stand in stock, and packages of one of its lots, if any came."""

    kind: str
    name: str
    manufacturer: str = ""
    gtin: str = ""
    properties: Mapping[str, Any] = field(default_factory=dict)
    lot: str = ""
    expires_on: dt.date | None = None
    count: int | None = None


def nested(properties: Mapping[str, Any]) -> dict[str, Any]:
    """Return properties as a thing has them: `manufacturer.seconds` within `manufacturer`."""
    found: dict[str, Any] = {}
    for path, value in properties.items():
        name, _, inner = path.partition(".")
        if inner:
            found.setdefault(name, {})[inner] = value
        else:
            found[name] = value
    return found


def flattened(properties: Mapping[str, Any]) -> dict[str, Any]:
    """Return properties as forms and files have them, each by its path."""
    found: dict[str, Any] = {}
    for name, value in properties.items():
        inner = value if isinstance(value, dict) else None
        found |= {f"{name}.{key}": one for key, one in inner.items()} if inner is not None else {name: value}
    return found


def specs_of(kind: str) -> list[FieldSpec]:
    """Return the properties that a kind of thing has."""
    return fields_of(MODELS[kind], OWN_FIELDS)


def is_usable(item: Item, today: dt.date) -> bool:
    """Return whether something is left of a thing that may still be used."""
    return item.kind in LASTING or any(not lot.is_over(today) for lot in item.lots_left())


@once
def planned_stock(practice: Practice, today: dt.date) -> list[dict[str, Any]]:
    """Return what the planner may choose from, as a case takes it."""
    rows = Item.objects.owned_by(practice).filter(kind__in=PLANNED).prefetch_related("lots")
    return [row.case_part(today) for row in rows if is_usable(row, today)]


def flags_of(item: Item, today: dt.date) -> list[Flag]:
    """Return what is to be said of a thing: nothing left, gone over, going over soon."""
    if item.kind in LASTING:
        return []
    left = item.lots_left()
    if not left:
        return [Flag("shelf.none", f"{item.name}: none left", "stop")]
    first = left[0]
    lot = f" lot {first.number}" if first.number else ""
    if all(one.is_over(today) for one in left):
        return [Flag("shelf.over", f"{item.name}{lot} expired on {_day(first.expires_on)}", "stop")]
    if first.is_over(today):
        return [
            Flag(
                "shelf.some_over",
                f"{item.name}{lot} expired on {_day(first.expires_on)}: throw it out",
                "caution",
            )
        ]
    if first.expires_on and first.expires_on <= today + dt.timedelta(days=SOON_DAYS):
        return [Flag("shelf.soon", f"{item.name}{lot} expires on {_day(first.expires_on)}", "caution")]
    return []


def _day(day: dt.date | None) -> str:
    return f"{day:%-d %B %Y}" if day else ""


@once
def _on_stock(practice: Practice) -> dict[tuple[str, str], Item]:
    rows = Item.objects.owned_by(practice).prefetch_related("lots")
    return {(row.kind, row.name): row for row in rows}


def want_flags(practice: Practice, wants: Iterable[Mapping[str, Any]], today: dt.date) -> list[Flag]:
    """Return what is missing of what a plan wants from stock (`Want` as JSON). A house that keeps nothing
    of a kind there has it elsewhere."""
    items = _on_stock(practice)
    kept = {kind for kind, _ in items}
    found: list[Flag] = []
    for want in wants:
        item = items.get((want["kind"], want["name"]))
        if item:
            found += flags_of(item, today)
        elif want["name"]:
            found.append(Flag("shelf.gone", f"{want['name']} is not in stock", "stop"))
        elif want["kind"] in kept:
            found.append(Flag("shelf.missing", f"Not in stock: {want['text']}", "caution"))
    return list(dict.fromkeys(found))


NOT_IN_ROWS = ("optics",)


def keep(practice: Practice, rows: Sequence[Stocked], who: User) -> list[Item]:
    """Put things and lots in stock, all or none: what is there by kind and name is changed, a known lot
    has its packages counted again.

    Raises InputError, by `rows[i].field`.
    """
    problems = [p for i, row in enumerate(rows) for p in problems_with(row, f"rows[{i}].")]
    problems += _numbers_taken(practice, rows)
    if problems:
        raise InputError(*problems)
    with transaction.atomic():
        kept = [_keep(practice, row) for row in rows]
        for row in rows:
            audit(who, "equipment.stock.kept", f"{row.kind} {row.name}"[:60], lot=row.lot, count=row.count)
    return kept


def _numbers_taken(practice: Practice, rows: Sequence[Stocked]) -> list[Problem]:
    """Return a problem for each GTIN that is another thing's: a scanned code must name one."""
    owner = {item.gtin: (item.kind, item.name) for item in Item.objects.owned_by(practice).exclude(gtin="")}
    found = []
    for i, row in enumerate(rows):
        own, number = (row.kind, row.name), row.gtin.zfill(14)
        if row.gtin and owner.setdefault(number, own) != own:
            allowed = f"another number: this one is that of {owner[number][1]}"
            found.append(Problem(f"rows[{i}].gtin", row.gtin, allowed))
    return found


def _keep(practice: Practice, row: Stocked) -> Item:
    before = Item.objects.filter(practice=practice, kind=row.kind, name=row.name).first()
    # No row tells how a composite looks: what was measured of it stays.
    looks = (
        {name: before.properties[name] for name in NOT_IN_ROWS if name in before.properties} if before else {}
    )
    values = {
        "manufacturer": row.manufacturer,
        "gtin": row.gtin.zfill(14) if row.gtin else "",
        "properties": {**nested(row.properties), **looks},
    }
    item: Item
    item, _ = Item.objects.update_or_create(practice=practice, kind=row.kind, name=row.name, defaults=values)
    if row.count is not None:
        Lot.objects.update_or_create(
            practice=practice,
            item=item,
            number=row.lot,
            defaults={"count": row.count, "expires_on": row.expires_on},
        )
    return item


def problems_with(row: Stocked, path: str) -> list[Problem]:
    """Return what is wrong with a row, each at its field behind a path."""
    model = MODELS.get(row.kind)
    if model is None:
        return [Problem(f"{path}kind", repr(row.kind), f"one of {', '.join(MODELS)}")]
    tag = {} if row.kind == MASS else {"kind": row.kind}
    data = {**tag, "name": row.name, **nested(row.properties)}
    found = []
    try:
        model.model_validate(data)
    except ValidationError as error:
        found = [Problem(path + p.path, p.got, p.allowed) for p in problems_of(error, data, model)]
    if row.gtin and not (row.gtin.isdigit() and len(row.gtin) <= 14 and _check_fits(row.gtin)):
        found.append(Problem(f"{path}gtin", row.gtin, "up to 14 digits, the last a check digit that fits"))
    if (row.lot or row.expires_on) and row.count is None:
        found.append(Problem(f"{path}count", "nothing", "how many packages of the lot there are"))
    return found


def _check_fits(gtin: str) -> bool:
    digits = [int(digit) for digit in gtin.zfill(14)]
    return sum(digit * (3 if i % 2 == 0 else 1) for i, digit in enumerate(digits)) % 10 == 0


def known_by(practice: Practice, package: Package) -> Item | None:
    """Return the thing that a package's number names."""
    found: Item | None = Item.objects.owned_by(practice).filter(gtin=package.gtin).first()
    return found


def stock_file(practice: Practice) -> str:
    """Return stock as CSV: a row a lot, properties in columns of their own."""
    rows = list(Item.objects.owned_by(practice).prefetch_related("lots"))
    names = list(dict.fromkeys(spec.name for row in rows for spec in specs_of(row.kind)))
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow([*FIXED_COLUMNS, *names])
    for row in rows:
        told = flattened(row.properties)
        properties = [_written(told.get(name)) for name in names]
        for lot in list(row.lots.all()) or [None]:
            stock = [lot.number, _written(lot.expires_on), lot.count] if lot else ["", "", ""]
            table.writerow([row.kind, row.name, row.manufacturer, row.gtin, *stock, *properties])
    return out.getvalue()


def _written(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float) else str(value)


def read_stock_file(text: str) -> tuple[list[Stocked], list[Problem]]:
    """Return the good rows of a file of stock, and what is wrong with the others, by line and column.

    Raises InputError where the columns `kind` and `name` are missing or one is not known.
    """
    columns, table = read_rows(_with_names_of_today(text), ("kind", "name"), " and properties")
    properties = {spec.name for kind in MODELS for spec in specs_of(kind)}
    if unknown := [name for name in columns if name not in properties and name not in FIXED_COLUMNS]:
        allowed = ", ".join([*FIXED_COLUMNS, *sorted(properties)])
        raise InputError.at("line 1", ", ".join(unknown), f"columns among {allowed}")
    good, problems = [], []
    for line, cells in table:
        path = f"line {line}, "
        row, wrong = _stocked(cells, path)
        wrong = wrong or problems_with(row, path)
        problems += wrong
        if not wrong:
            good.append(row)
    return good, problems


def _with_names_of_today(text: str) -> str:
    """Return a file with what its columns were called before as they are called today."""
    head, newline, rows = text.partition("\n")
    return re.sub(r"\bmaker\b", "manufacturer", head) + newline + rows


def _stocked(cells: Mapping[str, str], path: str) -> tuple[Stocked, list[Problem]]:
    """Return a row of the file as it is meant, and what cannot be read of it."""
    kind = cells["kind"]
    specs = specs_of(kind) if kind in MODELS else []
    known = {spec.name for spec in specs}
    problems = [
        Problem(f"{path}{name}", repr(text), f"nothing: a {kind} has no such property")
        for name, text in cells.items()
        if kind in MODELS and text and name not in known and name not in FIXED_COLUMNS
    ]
    properties = {spec.name: _meant(cells[spec.name], spec) for spec in specs if cells.get(spec.name)}
    expires_on, count = None, None
    try:
        expires_on = dt.date.fromisoformat(cells["expires_on"]) if cells.get("expires_on") else None
    except ValueError:
        problems.append(Problem(f"{path}expires_on", repr(cells["expires_on"]), "a day as 2027-01-31"))
    if stock := cells.get("count", ""):
        if stock.isdigit() and int(stock) < 100_000:
            count = int(stock)
        else:
            problems.append(Problem(f"{path}count", repr(stock), "a whole number from 0"))
    elif cells.get("lot") and kind in MODELS:
        count = 1
    fixed = {name: cells.get(name, "") for name in ("name", "manufacturer", "gtin", "lot")}
    return Stocked(kind, properties=properties, expires_on=expires_on, count=count, **fixed), problems


def _meant(text: str, spec: FieldSpec) -> object:
    """Return a cell as the property takes it; what cannot be read stays text, for its check to name."""
    if spec.options == ["yes", "no"]:
        return {"yes": True, "no": False}.get(text.lower(), text)
    if spec.options:
        return text
    try:
        number = float(text.replace(",", "."))
    except ValueError:
        return text
    return int(number) if spec.is_whole and number.is_integer() else number
