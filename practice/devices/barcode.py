"""A barcode reader: the interface that a driver serves, what a package's code says, and the simulated
reader that ships with the application."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Protocol

from mallet.terms.errors import InputError

GTIN, LOT, EXPIRY = "01", "10", "17"
LONGEST = 200


class BarcodeReader(Protocol):
    """What a driver must do: name itself, and give the text of the code that is held before it."""

    name: str

    def read(self) -> str: ...


@dataclass(frozen=True)
class Package:
    """What the code on a package says: the trade item's number, its lot, and the last day of use."""

    gtin: str
    lot: str = ""
    expires_on: dt.date | None = None

    @property
    def text(self) -> str:
        """Return the element string, as a printer writes it: the lot last, since its length varies."""
        expiry = f"{EXPIRY}{self.expires_on:%y%m%d}" if self.expires_on else ""
        return f"{GTIN}{self.gtin.zfill(14)}{expiry}{f'{LOT}{self.lot}' if self.lot else ''}"


def read_package(text: str) -> Package:
    """Return what a GS1 text says; a bare GTIN will do.

    Raises InputError for anything else, with what the code lacks.
    """
    from biip import ParseError, parse  # slow to load: not before it is needed

    text = text.strip()
    if len(text) > LONGEST:
        raise InputError.at("text", f"{len(text)} characters", f"{LONGEST} at most")
    allowed = "a GS1 code with a GTIN (01) whose check digit fits"
    try:
        found = parse(text)
    except ParseError:
        raise InputError.at("text", text, allowed) from None
    if not found.gtin:
        raise InputError.at("text", text, allowed)
    message = found.gs1_message
    lot = message.element_strings.get(ai=LOT) if message else None
    expiry = message.element_strings.get(ai=EXPIRY) if message else None
    return Package(
        gtin=found.gtin.as_gtin_14(),
        lot=lot.value if lot else "",
        expires_on=expiry.date if expiry else None,
    )


@dataclass(frozen=True)
class SimulatedBarcodeReader:
    """Reads a package without one; a smudged code comes with a wrong digit, as a worn label does."""

    package: Package
    is_smudged: bool = False
    name: str = "Simulated barcode reader"

    def read(self) -> str:
        text = self.package.text
        if not self.is_smudged:
            return text
        at = len(GTIN) + 6
        return text[:at] + str((int(text[at]) + 1) % 10) + text[at + 1 :]
