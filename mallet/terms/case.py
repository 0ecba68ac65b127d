"""The case: everything that is known about one restoration before it is planned.

Lengths in mm, irradiance in mW/cm2, exposure in J/cm2, angles in degrees. Names follow the
published case format `mallet-case/2`; an unknown key is an error.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from mallet.terms.errors import InputError, Problem
from mallet.terms.mouth import Anesthetic, Findings, Patient, Place, ReferenceHeights, Requests, Strict, Twin
from mallet.terms.parts import CervicalLesion, CuspReduction, FacePart, GoldPit, IncisalFracture, Part, Pit
from mallet.terms.problems import problems_of
from mallet.terms.restoration import Composite, CompositeRestoration, Light, Restoration
from mallet.terms.shade import FirstShade
from mallet.terms.stock import StockItem
from mallet.terms.upgrade import CASE, CASE_1, problem_in_1, upgrade_case

Provenance = Literal["measured", "estimated", "handbook"]


class Tooth(Strict):
    """Tooth code in two-digit (ISO 3950), 1-32 or right-angle notation."""

    code: str
    vitality: Literal["vital", "necrotic", "root_canal_treated"] = "vital"


class Scan(Strict):
    """The tooth before and after cutting, each a file of STL or PLY in base64: millimeters, the tooth's frame."""

    before: str = Field(min_length=1, max_length=12_000_000)
    after: str = Field(min_length=1, max_length=12_000_000)


class Preparation(Strict):
    """Parts as they were measured. With a scanned pair the cavity is what lies between the two; the parts tell
    what it is made of."""

    remaining_dentin_mm: Annotated[float, Field(ge=0, le=6)] | None = None
    parts: list[Part] = Field(min_length=1, max_length=12)
    scan: Scan | None = None


class AdjacentTooth(Strict):
    """The tooth beside a box; the offset is its marginal ridge above (+) or below (-) ours. `contact` is how
    it met our tooth before cutting, `gap_mm` how wide the embrasure was measured at the gingival floor. Where its contact is
    smoothed, `smooth_mm` is what comes off, `enamel_mm` what there is, measured on a radiograph, and `agreed` that the patient
    has consented."""

    tooth: str | None = None
    ridge_offset_mm: Annotated[float, Field(ge=-4, le=4)] = 0.0
    rotated: bool = False
    missing: bool = False
    contact: Literal["sound", "open", "tight", "concave", "too_high"] = "sound"
    gap_mm: Annotated[float, Field(ge=0, le=5)] | None = None
    smooth_mm: Annotated[float, Field(gt=0, le=1)] | None = None
    enamel_mm: Annotated[float, Field(ge=0.2, le=2.5)] | None = None
    agreed: bool = False


class AdjacentTeeth(Strict):
    mesial: AdjacentTooth | None = None
    distal: AdjacentTooth | None = None


class Techniques(Strict):
    """Which way is gone where practice and publication, or one technique and another, differ."""

    silicate: Literal["by_enamel", "same_visit", "two_visits"] = "by_enamel"
    hydroxide: Literal["deepest_spot", "whole_floor"] = "deepest_spot"
    dam_span: Literal["to_opposite_lateral", "two_in_front"] = "to_opposite_lateral"
    anterior_dam: Literal["premolars", "canines"] = "premolars"
    caries: Literal["by_depth", "to_hard"] = "by_depth"
    cervical_margin: Literal["roughen", "roughen_and_bevel"] = "roughen"
    incisal: Literal["bevel", "bevel_and_notch"] = "bevel"
    copper: Literal["annealed", "hard"] = "annealed"
    band: Literal["by_cavity", "sectional", "circumferential", "clear"] = "by_cavity"


class Isolation(Strict):
    """When the dam goes on, what was given to numb the tooth, and whether old amalgam comes out. `last_contacts` are those
    outside an anterior dam: they tell what keeps it there."""

    dam_on: Literal["before_cutting", "after_preparation"] = "before_cutting"
    last_contacts: Literal["tight", "open"] = "tight"
    anesthetics: list[Anesthetic] = Field(default=[], max_length=4)
    given: str = Field(default="", max_length=200)
    old_amalgam: bool = False


class Protection(Strict):
    """What goes between dentin and restoration; `material` is the name of a base or liner in stock.

    `base_mm` is how thick the base is, `walls` which it covers: of a base that is asked for, floor and axial walls. `exposure` is what was decided once the pulp showed.
    `placed_days_ago` tells of a base that has filled the cavity since an earlier visit, `months_to_shedding` of a primary
    tooth how long it has still to serve.
    """

    what: Literal["by_depth", "nothing", "liner", "base"] = "by_depth"
    walls: Literal["nearest", "floor", "floor_and_axial"] | None = None
    material: str | None = Field(default=None, max_length=80)
    base_mm: Annotated[float, Field(ge=0.3, le=3)] | None = None
    exposure: Literal["none", "undecided", "cap", "pulpotomy", "root_canal_treatment"] = "none"
    placed_days_ago: Annotated[int, Field(ge=0, le=365)] | None = None
    months_to_shedding: Annotated[int, Field(ge=0, le=150)] | None = None


class Case(Strict):
    format: Literal["mallet-case/2"]
    tooth: Tooth
    restoration: Restoration
    preparation: Preparation
    adjacent: AdjacentTeeth = AdjacentTeeth()
    techniques: Techniques = Techniques()
    patient: Patient = Patient()
    requests: Requests = Requests()
    findings: Findings = Findings()
    reference_heights: ReferenceHeights = ReferenceHeights()
    shade: FirstShade = FirstShade()
    twin: Twin = Twin()
    isolation: Isolation = Isolation()
    protection: Protection = Protection()
    place: Place = "elsewhere"
    pairs_of_hands: Literal["two", "one"] = "two"
    stock: list[StockItem] = Field(default=[], max_length=500)
    provenance: dict[str, Provenance] = {}
    practice_settings: dict[str, float] = {}

    @property
    def load(self) -> str:
        """Return the load that it bears; an incisal edge in an open bite bears little, unless more is told."""
        is_free = self.findings.overbite == "open" and isinstance(self.face_part, IncisalFracture)
        return "low" if is_free and "load" in self.findings.not_told else self.findings.load

    @property
    def option(self) -> str:
        """Return as which of the restoratives' options it is weighed."""
        covers = any(isinstance(part, CuspReduction) for part in self.preparation.parts)
        return self.restoration.option(covers_cusps=covers)

    @property
    def composite(self) -> CompositeRestoration:
        """Return what is asked of composite; raise ValueError for another restorative."""
        if not isinstance(self.restoration, CompositeRestoration):
            raise ValueError(f"{self.restoration.material} is no composite")
        return self.restoration

    @property
    def light(self) -> Light:
        """Return the curing light; raise ValueError where nothing is lit."""
        light = getattr(self.restoration, "light", None)
        if not isinstance(light, Light):
            raise ValueError(f"{self.restoration.material} is not lit")
        return light

    @property
    def composites(self) -> list[Composite]:
        """Return the composites that it may be built of; raise ValueError for another restorative."""
        return self.composite.composites

    @property
    def layered(self) -> list[Composite]:
        """Return the composites that increments may be of: all but tints."""
        return [mass for mass in self.composites if mass.consistency != "stain"]

    @property
    def face_part(self) -> FacePart | None:
        """Return the part that is entered from a face, if there is one."""
        return next((part for part in self.preparation.parts if isinstance(part, FacePart)), None)

    @property
    def has_living_pulp(self) -> bool:
        """Tell whether there is a pulp to be spared."""
        return self.tooth.vitality == "vital"

    @property
    def is_neck(self) -> bool:
        """Tell whether it is a lesion at the neck."""
        return isinstance(self.face_part, CervicalLesion)

    @property
    def has_shell(self) -> bool:
        """Tell whether a broken edge is layered behind an enamel face, on a shell."""
        return self.restoration.is_shaped_by_index and isinstance(self.face_part, IncisalFracture)

    @property
    def is_unbitten(self) -> bool:
        """Tell whether nothing bites on it."""
        part = self.face_part
        return isinstance(part, CervicalLesion | Pit) or (
            isinstance(part, GoldPit) and part.face != "occlusal"
        )

    @property
    def covered_cusps(self) -> list[str]:
        """Return the cusps that are taken down and rebuilt."""
        covers = [part for part in self.preparation.parts if isinstance(part, CuspReduction)]
        return [cusp for cover in covers for cusp in cover.cusps]

    @property
    def cusps_lost(self) -> int:
        """Return how many cusps are gone or taken down."""
        covers = [part for part in self.preparation.parts if isinstance(part, CuspReduction)]
        return max([self.findings.cusps_lost, *(len(cover.cusps) for cover in covers)])

    def provenance_of(self, path: str) -> Provenance:
        """Return how the value at a path is known; what is given counts as measured."""
        return self.provenance.get(path, "measured")


def read_case(data: Mapping[str, Any]) -> Case:
    """Return the case in a parsed JSON object of any version; raise InputError with one problem a field, by its path
    in that version."""
    if data.get("format") not in (CASE, CASE_1):
        raise InputError.at("format", data.get("format"), f"'{CASE}', or '{CASE_1}' of before")
    with as_told(data) as told:
        try:
            return Case.model_validate(told)
        except ValidationError as error:
            raise InputError(*problems_of(error, told, Case)) from None


@contextmanager
def as_told(data: Mapping[str, Any]) -> Iterator[dict[str, Any]]:
    """Give a case of any version as it is told today; what is found wrong with it is named as its version has it."""
    try:
        yield upgrade_case(data)
    except InputError as error:
        if data.get("format") != CASE_1:
            raise
        told = [problem_in_1(problem) for problem in error.problems]
        # In the order of the file, which had other things first.
        order = {key: at for at, key in enumerate(data)}
        told.sort(key=lambda problem: order.get(re.split(r"[.\[]", problem.path)[0], len(order)))
        raise InputError(*told) from None


def get_path(case: Case, path: str) -> object:
    """Return the value at a path such as `preparation.parts[1].height_mm`.

    Raises InputError where the path names nothing in the case.
    """
    here: object = case
    for piece in path.replace("[", ".[").split("."):
        try:
            here = here[int(piece[1:-1])] if piece.startswith("[") else getattr(here, piece)  # type: ignore[index]
        except (AttributeError, IndexError, TypeError, ValueError):
            raise InputError(Problem(f"provenance.{path}", path, "the path of a value in the case")) from None
    return here


def set_path(case: dict[str, Any], path: str, value: object) -> None:
    """Set the value at a path, as `get_path` reads it, in the JSON of a case; objects that lack are made."""
    *way, last = path.replace("]", "").replace("[", ".").split(".")
    here: Any = case
    for piece in way:
        here = here[int(piece)] if piece.isdigit() else here.setdefault(piece, {})
    here[last] = value
