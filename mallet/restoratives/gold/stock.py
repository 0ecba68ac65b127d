"""What direct gold is placed with: pieces, pluggers, mallet, varnish; from stock, else by the handbook."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from mallet.rulebook import Rulebook
from mallet.terms.case import Case
from mallet.terms.errors import InputError
from mallet.terms.plan import Assumption
from mallet.terms.restoration import GoldRestoration
from mallet.terms.stock import Annealer, Condenser, Gold, Mallet, Varnish

# What a sheet is divided into; the spread of a pellet goes by that of 1/64.
FRACTIONS = (128, 64, 43, 32, 16)
SPREAD_OF = 64
NIBS_MM = (0.5, 0.75, 1.0)
IN_BULK = {"electric_low": "gold.heat_electric_low_s", "electric_high": "gold.heat_electric_high_s"}
DENSITY = {"foil": "gold.density_foil", "mat": "gold.density_mat", "powdered": "gold.density_powdered"}


def asked_of(case: Case) -> GoldRestoration:
    """Return what a case asks of gold."""
    assert isinstance(case.restoration, GoldRestoration)
    return case.restoration


@dataclass(frozen=True)
class Piece:
    """One size of gold: its mass (mg), the ground that it covers (mm2), its density once condensed (g/cm3), its place in stock
    and its lot; without a place it is the handbook's fraction of a sheet."""

    name: str
    form: str
    mg: float
    spread_mm2: float
    density_g_cm3: float
    at: int | None = None
    lot: str | None = None


@dataclass(frozen=True)
class Kit:
    """The pieces of the gold that fills the cavity, by size, those of the foil that covers it where that is of another form,
    the pluggers' nibs, and what else is at hand; what was assumed where something is not in stock."""

    pieces: Sequence[Piece]
    cover: Sequence[Piece]
    nibs_mm: Sequence[float]
    mallet: str | None
    annealer: str | None
    varnish: Varnish
    assumed: Sequence[Assumption]

    @property
    def form(self) -> str:
        return self.pieces[0].form

    @property
    def is_covered(self) -> bool:
        """Tell whether another gold than foil is covered with it."""
        return self.form != "foil"

    @property
    def rules(self) -> list[str]:
        """Return the rules that stand in for what no package says."""
        golds = {piece.form: piece for piece in (*self.pieces, *self.cover)}
        return [DENSITY[form] for form, piece in golds.items() if piece.at is None]


def kit_of(case: Case, rules: Rulebook) -> Kit:
    """Return what a case is filled with; raise InputError for gold or a plugger that it names and that is not in stock, or
    that is not for gold."""
    assumed: list[Assumption] = []
    pieces = _pieces(case, rules)
    if pieces[0].at is None:
        why = "no gold in stock: fractions of a sheet by its weight"
        assumed.append(_assumption("restoration.gold", rules.value("gold.sheet_mg"), "mg", why))
    cover: Sequence[Piece] = []
    if pieces[0].form != "foil":
        cover = _of_form(case, "foil", rules) or _handbook(rules)
    nibs = _nibs(case)
    if not nibs:
        nibs = NIBS_MM
        assumed.append(_assumption("stock", NIBS_MM[0], "mm", "no plugger for gold in stock: the usual nibs"))
    varnish = next((one for one in case.stock if isinstance(one, Varnish)), None)
    if varnish is None:
        varnish = Varnish(
            kind="varnish", name="cavity varnish", coats=2, dry_s=rules.value("gold.varnish_dry_s")
        )
    asked = asked_of(case)
    mallets = [one.name for one in case.stock if isinstance(one, Mallet) and one.drive == asked.mallet]
    heat = "flame" if asked.heat == "flame" else "electric"
    annealers = [one.name for one in case.stock if isinstance(one, Annealer) and one.heat == heat]
    return Kit(pieces, cover, nibs, next(iter(mallets), None), next(iter(annealers), None), varnish, assumed)


def _pieces(case: Case, rules: Rulebook) -> list[Piece]:
    """Return the pieces that fill the cavity: those of the form of the one that is named, else foil, else what there is."""
    golds = [one for one in case.stock if isinstance(one, Gold)]
    named = asked_of(case).gold
    if named is None:
        form = next((form for form in DENSITY if any(one.form == form for one in golds)), "foil")
        return _of_form(case, form, rules) or _handbook(rules)
    found = next((one for one in golds if one.name == named), None)
    if found is None:
        names = ", ".join(one.name for one in golds) or "none: there is no gold"
        raise InputError.at("restoration.gold", named, names)
    return _of_form(case, found.form, rules)


def _of_form(case: Case, form: str, rules: Rulebook) -> list[Piece]:
    """Return the pieces of a form in stock, the lightest first; one of a mass."""
    per_mg = rules.value("gold.spread_mm2") / (rules.value("gold.sheet_mg") / SPREAD_OF)
    found: dict[float, Piece] = {}
    for at, one in enumerate(case.stock):
        if isinstance(one, Gold) and one.form == form:
            spread = one.spread_mm2 or per_mg * one.piece_mg
            piece = Piece(one.name, form, one.piece_mg, spread, one.density_g_cm3, at, one.lot)
            found.setdefault(one.piece_mg, piece)
    return [found[mg] for mg in sorted(found)]


def _handbook(rules: Rulebook) -> list[Piece]:
    sheet, per_64 = rules.value("gold.sheet_mg"), rules.value("gold.spread_mm2")
    density = rules.value("gold.density_foil")
    return [
        Piece(f"1/{of} sheet of foil", "foil", sheet / of, per_64 * SPREAD_OF / of, density)
        for of in FRACTIONS
    ]


def _nibs(case: Case) -> Sequence[float]:
    """Return the nibs for gold in stock, that of the named plugger alone; raise InputError for one that is not for gold."""
    pluggers = [one for one in case.stock if isinstance(one, Condenser) and one.use == "gold"]
    named = asked_of(case).plugger
    if named is None:
        return sorted({one.nib_mm for one in pluggers})
    found = [one.nib_mm for one in pluggers if one.name == named]
    if not found:
        names = ", ".join(one.name for one in pluggers) or "none: there is no plugger for gold"
        raise InputError.at("restoration.plugger", named, f"a plugger for gold: {names}")
    return found


def _assumption(path: str, value: float, unit: str, why: str) -> Assumption:
    return Assumption(path=path, value=value, unit=unit, provenance="handbook", why=why)
