"""Stock: what is in it, putting items there, a file of it, and packages that are scanned."""

from __future__ import annotations

import datetime as dt
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema

from mallet.color.corrected import Bias
from mallet.terms.color_plan import CompositeColor
from mallet.terms.optics import FamilyOptics, LabOptics
from mallet.terms.pieces import RuleUse
from mallet.terms.stock import LASTING, FieldSpec
from practice.accounts.models import Practice, User
from practice.accounts.owned import Refused
from practice.api.access import user_of
from practice.api.errors import ErrorOut, ProblemOut
from practice.api.rows import MissingOut
from practice.devices.barcode import LONGEST, Package, SimulatedBarcodeReader, read_package
from practice.equipment.models import MASS, Item, Lot
from practice.equipment.optics import color_of, keep_optics, read_spectra, shades_of
from practice.equipment.stock import (
    MODELS,
    NOT_IN_ROWS,
    Stocked,
    flags_of,
    flattened,
    keep,
    known_by,
    read_stock_file,
    specs_of,
    stock_file,
)
from practice.records.reviewed import put_right, taught

router = Router(tags=["stock"], by_alias=True)


class KindOut(Schema):
    """A kind of item and the properties that it has; a lasting one comes without lots."""

    kind: str
    is_lasting: bool
    fields: list[FieldSpec]


class LotOut(Schema):
    id: int
    number: str
    expires_on: dt.date | None
    count: int
    is_over: bool


class ItemOut(Schema):
    id: int
    kind: str
    name: str
    manufacturer: str
    gtin: str
    properties: dict[str, Any]
    lots: list[LotOut]
    flags: list[MissingOut]


class StockOut(Schema):
    today: dt.date
    barcode_reader: str | None
    kinds: list[KindOut]
    items: list[ItemOut]


class StockedIn(Schema):
    """An item to put in stock, and how many packages of a lot there are of it."""

    kind: str = Field(max_length=20)
    name: str = Field(max_length=80)
    manufacturer: str = Field("", max_length=80)
    gtin: str = Field("", max_length=14)
    properties: dict[str, Any] = {}
    lot: str = Field("", max_length=40)
    expires_on: dt.date | None = None
    count: int | None = Field(None, ge=0, lt=100_000)


class RowsIn(Schema):
    rows: list[StockedIn] = Field(min_length=1, max_length=2000)


class StockFileIn(Schema):
    text: str = Field(max_length=2_000_000)


class StockFileOut(Schema):
    """The good rows of a file, and what is wrong with each of the others."""

    rows: list[StockedIn]
    problems: list[ProblemOut]


class SpectraIn(Schema):
    """Spectra of a specimen as CSV, how thick it was and of which lot."""

    text: str = Field(max_length=20_000)
    thickness_mm: float = Field(ge=0.3, le=3)
    lot: str = Field("", max_length=40)


class OpticsIn(Schema):
    """A specimen in CIELAB over black and over white, or only its opacity and the color that it is sold as; of which lot."""

    optics: LabOptics | FamilyOptics = Field(discriminator="kind")
    lot: str = Field("", max_length=40)


class SpecimenOut(Schema):
    """What was read of one specimen, and how far off the first one it is (dE00)."""

    noted_at: dt.datetime
    who: str
    lot: str
    reviews: int
    color: CompositeColor
    off_first_de00: float | None


class ReviewedOut(Schema):
    """How restorations for whose color a composite answers were read at their reviews, over what was predicted (L*, a* and b*; dE00),
    whether they agree, and whether that is enough to put the composite right."""

    reviews: int
    off_lab: list[float]
    off_de00: float
    says: str
    agrees: bool
    is_enough: bool
    rules: list[RuleUse]


class ShadeOut(Schema):
    """A composite in stock: its lots, how it looks, where that is known, and what was read of it, oldest first."""

    item_id: int
    name: str
    role: str
    consistency: str
    in_stock: bool
    lots: list[str]
    color: CompositeColor | None
    readings: list[SpecimenOut]
    reviewed: ReviewedOut | None


class ColorOut(Schema):
    """How a composite looks, nothing where nobody has measured it."""

    color: CompositeColor | None


class CodeIn(Schema):
    text: str = Field(min_length=1, max_length=LONGEST)


class PackageOut(Schema):
    """What a scanned code says, and what of it stock knows."""

    gtin: str
    lot: str
    expires_on: dt.date | None
    is_over: bool
    item_id: int | None
    item_name: str | None
    lot_id: int | None


class HeldIn(Schema):
    """The package that is held before the simulated reader."""

    lot_id: int
    is_smudged: bool = False


class CodeOut(Schema):
    text: str
    reader: str


@router.get("stock", response=StockOut)
def stock(request: HttpRequest) -> StockOut:
    return _stock(user_of(request).practice)


@router.post("stock", response={200: StockOut, 422: ErrorOut})
def keep_rows(request: HttpRequest, body: RowsIn) -> StockOut:
    user = user_of(request)
    keep(user.practice, [Stocked(**row.model_dump()) for row in body.rows], user)
    return _stock(user.practice)


@router.get("stock/{int:item_id}/color", response={200: ColorOut, 404: ErrorOut})
def color(request: HttpRequest, item_id: int) -> ColorOut:
    """Tell how a composite looks by itself."""
    return ColorOut(color=color_of(_composite(request, item_id)))


@router.put("stock/{int:item_id}/color", response={200: ColorOut, 404: ErrorOut, 422: ErrorOut})
def keep_color(request: HttpRequest, item_id: int, body: SpectraIn) -> ColorOut:
    """Keep the spectra of a specimen; plans made from now on weigh them."""
    item, optics = _composite(request, item_id), read_spectra(body.text, body.thickness_mm)
    return ColorOut(color=keep_optics(item, optics, body.lot, user_of(request)))


@router.put("stock/{int:item_id}/optics", response={200: ColorOut, 404: ErrorOut, 422: ErrorOut})
def keep_optics_of(request: HttpRequest, item_id: int, body: OpticsIn) -> ColorOut:
    """Keep what was read of a specimen in CIELAB, or what a composite is sold as; plans made from now on weigh it."""
    item = _composite(request, item_id)
    return ColorOut(color=keep_optics(item, body.optics, body.lot, user_of(request)))


@router.post("stock/{int:item_id}/color/reviews", response={200: ColorOut, 404: ErrorOut, 409: ErrorOut})
def put_color_right(request: HttpRequest, item_id: int) -> ColorOut:
    """Move what is known of a composite by what its reviews teach; plans made from now on weigh it."""
    return ColorOut(color=put_right(_composite(request, item_id), user_of(request)))


def _reviewed(told: Bias | None) -> ReviewedOut | None:
    if told is None:
        return None
    return ReviewedOut(**{**vars(told), "off_lab": [round(float(one), 1) for one in told.off_lab]})


@router.get("shades", response=list[ShadeOut])
def shades(request: HttpRequest) -> list[ShadeOut]:
    """Tell of the composites in stock how they look, and how far their lots are apart."""
    practice = user_of(request).practice
    reviewed = taught(practice)
    return [
        ShadeOut(
            item_id=one.item.pk,
            name=one.item.name,
            role=one.item.properties["role"],
            consistency=one.item.properties.get("consistency", "paste"),
            in_stock=one.in_stock,
            lots=[lot.number for lot in one.item.lots_left() if lot.number],
            color=one.color,
            readings=[SpecimenOut(**vars(reading)) for reading in one.readings],
            reviewed=_reviewed(reviewed.get(one.item.name)),
        )
        for one in shades_of(practice, practice.today())
    ]


def _composite(request: HttpRequest, item_id: int) -> Item:
    mine = Item.objects.owned_by(user_of(request).practice)
    found: Item = get_object_or_404(mine, pk=item_id, kind=MASS)
    return found


@router.get("stock-file", response=str)
def file_of_stock(request: HttpRequest) -> HttpResponse:
    practice = user_of(request).practice
    response = HttpResponse(stock_file(practice), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="stock-{practice.today().isoformat()}.csv"'
    return response


@router.post("stock-file", response={200: StockFileOut, 422: ErrorOut})
def stock_in_file(request: HttpRequest, body: StockFileIn) -> StockFileOut:
    """Read a CSV file of items without keeping anything."""
    rows, problems = read_stock_file(body.text)
    return StockFileOut(
        rows=[StockedIn(**{**vars(row), "properties": dict(row.properties)}) for row in rows],
        problems=[ProblemOut(path=p.path, got=p.got, allowed=p.allowed) for p in problems],
    )


@router.post("packages", response={200: PackageOut, 422: ErrorOut})
def package(request: HttpRequest, body: CodeIn) -> PackageOut:
    """Tell what a scanned code says, without keeping anything."""
    practice = user_of(request).practice
    read = read_package(body.text)
    item = known_by(practice, read)
    lot = item.lots.filter(number=read.lot).first() if item else None
    return PackageOut(
        gtin=read.gtin,
        lot=read.lot,
        expires_on=read.expires_on,
        is_over=bool(read.expires_on and read.expires_on < practice.today()),
        item_id=item.pk if item else None,
        item_name=item.name if item else None,
        lot_id=lot.pk if lot else None,
    )


@router.post("packages/simulated", response={200: CodeOut, 404: ErrorOut, 409: ErrorOut})
def simulated_package(request: HttpRequest, body: HeldIn) -> CodeOut:
    """Have the simulated reader read a package of stock."""
    user: User = user_of(request)
    if not user.practice.is_demo:
        raise Refused("no_reader", "no simulated barcode reader outside the demo practice")
    lot = get_object_or_404(Lot.objects.owned_by(user.practice).select_related("item"), pk=body.lot_id)
    held = Package(lot.item.gtin, lot.number, lot.expires_on)
    reader = SimulatedBarcodeReader(held, body.is_smudged)
    return CodeOut(text=reader.read(), reader=reader.name)


def _stock(practice: Practice) -> StockOut:
    today = practice.today()
    rows = Item.objects.owned_by(practice).prefetch_related("lots")
    return StockOut(
        today=today,
        barcode_reader=SimulatedBarcodeReader.name if practice.is_demo else None,
        kinds=[KindOut(kind=kind, is_lasting=kind in LASTING, fields=specs_of(kind)) for kind in MODELS],
        items=[_item(row, today) for row in rows],
    )


def _item(row: Item, today: dt.date) -> ItemOut:
    return ItemOut(
        id=row.pk,
        kind=row.kind,
        name=row.name,
        manufacturer=row.manufacturer,
        gtin=row.gtin,
        properties=flattened({k: v for k, v in row.properties.items() if k not in NOT_IN_ROWS}),
        lots=[
            LotOut(
                id=lot.pk,
                number=lot.number,
                expires_on=lot.expires_on,
                count=lot.count,
                is_over=lot.is_over(today),
            )
            for lot in row.lots.all()
        ],
        flags=[MissingOut(code=f.code, text=f.text, level=f.level) for f in flags_of(row, today)],
    )
