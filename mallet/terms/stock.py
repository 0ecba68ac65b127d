"""What stands in stock, with the properties that planning needs.

Lengths in mm, times in s, masses in mg, forces in N. Everything but masses of composite, which have
models of their own in the case.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field, ValidationInfo, field_validator

from mallet.terms.mouth import Strict

Seconds = Annotated[float, Field(gt=0, le=3600)]


class Item(Strict):
    """Base of all things in stock; `lot` is the package that would be opened."""

    name: str = Field(min_length=1, max_length=80)
    lot: str | None = Field(default=None, max_length=40)


class ManufacturerCure(Strict):
    """The manufacturer's cure time at a stated curing light output."""

    seconds: Annotated[float, Field(gt=0, le=240)]
    at_irradiance_mw_cm2: Annotated[float, Field(gt=0, le=5000)]

    @property
    def exposure_j_cm2(self) -> float:
        """Return what the manufacturer has the surface given."""
        return self.seconds * self.at_irradiance_mw_cm2 / 1000


class Adhesive(Item):
    """An adhesive as its manufacturer has it used; pH where it etches by itself, and the exposure that gels its film where
    that was measured."""

    kind: Literal["adhesive"]
    strategy: Literal["etch_and_rinse", "self_etch", "universal"]
    bottles: Annotated[int, Field(ge=1, le=3)]
    solvent: Literal["acetone", "ethanol", "water"]
    ph: Annotated[float, Field(ge=0, le=7)] | None = None
    coats: Annotated[int, Field(ge=1, le=5)] = 1
    scrub_s: Seconds
    air_s: Seconds
    critical_exposure_j_cm2: Annotated[float, Field(ge=0.01, le=20)] | None = None
    manufacturer: ManufacturerCure | None = None


class Ionomer(Item):
    """A restorative glass ionomer in capsules; `working_s` and `set_s`, until it may be cut, count from the end of mixing. Of
    one that light sets `depth_mm` is its largest layer and `manufacturer` its light."""

    kind: Literal["ionomer"]
    resin_modified: bool
    high_viscosity: bool = False
    mix_s: Annotated[float, Field(gt=0, le=60)] | None = None
    volume_mm3: Annotated[float, Field(gt=0, le=1000)] | None = None
    conditioner: Literal["polyacrylic", "phosphoric", "none"]
    condition_s: Annotated[float, Field(ge=0, le=60)]
    working_s: Seconds
    set_s: Seconds
    needs_coat: bool = True
    depth_mm: Annotated[float, Field(ge=0.5, le=4)] | None = None
    manufacturer: ManufacturerCure | None = None

    @field_validator("set_s")
    @classmethod
    def after_working(cls, value: float, info: ValidationInfo) -> float:
        """Raise ValueError where it would set while it is still worked."""
        working_s = info.data.get("working_s")
        if working_s is not None and value <= working_s:
            raise ValueError(f"more than its working time, {working_s:g}")
        return value


class Sealant(Item):
    """A resin for pits and fissures: how deep it cures, and the manufacturer's light."""

    kind: Literal["sealant"]
    depth_mm: Annotated[float, Field(ge=0.3, le=6)] | None = None
    density_g_cm3: Annotated[float, Field(ge=1, le=3)] = 1.2
    manufacturer: ManufacturerCure | None = None


class Coat(Item):
    """What is brushed over set glass ionomer; a tinted one lowers its value. `cure_s` where light cures it."""

    kind: Literal["coat"]
    tint: Literal["clear", "tinted"] = "clear"
    light_cured: bool = True
    cure_s: Annotated[float, Field(gt=0, le=120)] | None = None


class Base(Item):
    """What rebuilds lost dentin below a restoration; `soft_until_s` is when a probe still marks it."""

    kind: Literal["base"]
    substance: Literal["calcium_silicate", "resin_modified_ionomer", "zinc_phosphate"]
    set_s: Seconds
    soft_until_s: Annotated[float, Field(ge=0, le=3600)] = 0.0
    least_above_mm: Annotated[float, Field(ge=0, le=3)] = 1.0


class Liner(Item):
    """A thin cover of the deepest dentin."""

    kind: Literal["liner"]
    substance: Literal["calcium_hydroxide", "resin_modified_ionomer"]
    most_mm: Annotated[float, Field(gt=0, le=2)]
    set_s: Seconds


class Capsule(Item):
    """A capsule of alloy and mercury; `mercury_share` by mass of the mix."""

    kind: Literal["capsule"]
    alloy_mg: Annotated[float, Field(ge=100, le=2000)]
    mercury_share: Annotated[float, Field(ge=0.3, le=0.6)]
    particle: Literal["spherical", "admixed", "lathe_cut"]
    trituration_s: Annotated[float, Field(gt=0, le=60)]
    working_s: Seconds


class Carrier(Item):
    """An amalgam carrier by its bore and by how long a load it takes."""

    kind: Literal["carrier"]
    bore_mm: Annotated[float, Field(ge=0.8, le=5)]
    length_mm: Annotated[float, Field(ge=1, le=15)]


class Varnish(Item):
    """A cavity varnish: how many coats, and how long each dries."""

    kind: Literal["varnish"]
    coats: Annotated[int, Field(ge=1, le=5)] = 2
    dry_s: Seconds


class RetentionPin(Item):
    """A threaded pin with the drill that goes with it: the hole is narrower than the pin."""

    kind: Literal["pin"]
    diameter_mm: Annotated[float, Field(ge=0.3, le=1.2)]
    drill_mm: Annotated[float, Field(ge=0.25, le=1.1)]

    @field_validator("drill_mm")
    @classmethod
    def _is_narrower(cls, drill_mm: float, info: ValidationInfo) -> float:
        pin_mm = info.data.get("diameter_mm", drill_mm + 1)
        if drill_mm >= pin_mm:
            raise ValueError(f"less than the pin, {pin_mm:g}")
        return drill_mm


class Gold(Item):
    """Direct gold in pieces; `density_g_cm3` and the ground that a piece covers once condensed."""

    kind: Literal["gold"]
    form: Literal["foil", "mat", "powdered"]
    piece_mg: Annotated[float, Field(gt=0, le=300)]
    density_g_cm3: Annotated[float, Field(ge=10, le=19.3)]
    spread_mm2: Annotated[float, Field(ge=0.1, le=20)] | None = None


class MatrixBand(Item):
    """A band of one height."""

    kind: Literal["band"]
    form: Literal["sectional", "clear", "circumferential", "copper", "strip"]
    height_mm: Annotated[float, Field(ge=2, le=15)]
    thickness_mm: Annotated[float, Field(ge=0.02, le=0.2)]


class CrownForm(Item):
    """A clear strip crown form for one tooth: its width at the contacts, and its height, uncut."""

    kind: Literal["crown_form"]
    tooth: Literal[
        "11", "12", "13", "21", "22", "23", "31", "32", "33", "41", "42", "43",
        "51", "52", "53", "61", "62", "63", "71", "72", "73", "81", "82", "83",
    ]  # fmt: skip
    width_mm: Annotated[float, Field(ge=3, le=12)]
    height_mm: Annotated[float, Field(ge=3, le=15)]


class WedgeItem(Item):
    """A wedge, measured at its widest, and the force with which it parts teeth."""

    kind: Literal["wedge"]
    width_mm: Annotated[float, Field(ge=0.5, le=5)]
    height_mm: Annotated[float, Field(ge=0.5, le=5)]
    force_n: Annotated[float, Field(gt=0, le=60)] | None = None


class Ring(Item):
    """A separating ring and its force."""

    kind: Literal["ring"]
    force_n: Annotated[float, Field(gt=0, le=60)]


class Bur(Item):
    """A rotary instrument by its cutting head."""

    kind: Literal["bur"]
    shape: Literal["round", "pear", "straight_fissure", "inverted_cone", "needle", "flame"]
    coating: Literal["carbide", "steel", "diamond"]
    head_mm: Annotated[float, Field(ge=0.3, le=3)]
    length_mm: Annotated[float, Field(ge=0.3, le=12)]


class Condenser(Item):
    """A condenser by its nib, for gold a plugger: its face, and by how much its shank is bent."""

    kind: Literal["condenser"]
    use: Literal["amalgam", "gold"]
    nib_mm: Annotated[float, Field(ge=0.3, le=4)]
    face: Literal["flat", "convex", "serrated"] = "serrated"
    angle_deg: Annotated[float, Field(ge=0, le=120)] = 0.0


class Mallet(Item):
    """A mallet for direct gold; one with a motor taps by itself, so many times a minute."""

    kind: Literal["mallet"]
    drive: Literal["hand", "pneumatic", "electric"]
    blows_per_minute: Annotated[float, Field(ge=30, le=6000)] | None = None


class Annealer(Item):
    """What cleans direct gold by heat: a flame for pellet after pellet, or electric in bulk."""

    kind: Literal["annealer"]
    heat: Literal["flame", "electric"]


class HandInstrument(Item):
    kind: Literal["hand_instrument"]
    use: Literal[
        "excavator", "hatchet", "margin_trimmer", "carver", "burnisher", "probe", "brush", "band_retainer"
    ]


class Abrasive(Item):
    """A step of finishing, from coarse to finest."""

    kind: Literal["abrasive"]
    form: Literal["disc", "strip", "point", "cup", "stone", "paste"]
    grit: Literal["coarse", "medium", "fine", "finest"]


StockItem = Annotated[
    Adhesive | Ionomer | Sealant | Coat | Base | Liner | Capsule | Carrier | Varnish | RetentionPin | Gold | MatrixBand | CrownForm | WedgeItem | Ring | Bur | Condenser | Mallet | Annealer
    | HandInstrument | Abrasive,
    Field(discriminator="kind"),
]  # fmt: skip
KINDS: dict[str, type[Item]] = {
    "adhesive": Adhesive,
    "ionomer": Ionomer,
    "sealant": Sealant,
    "coat": Coat,
    "base": Base,
    "liner": Liner,
    "capsule": Capsule,
    "carrier": Carrier,
    "varnish": Varnish,
    "pin": RetentionPin,
    "gold": Gold,
    "band": MatrixBand,
    "crown_form": CrownForm,
    "wedge": WedgeItem,
    "ring": Ring,
    "bur": Bur,
    "condenser": Condenser,
    "mallet": Mallet,
    "annealer": Annealer,
    "hand_instrument": HandInstrument,
    "abrasive": Abrasive,
}
# What is cleaned and used again comes without a lot.
LASTING = frozenset({"ring", "bur", "carrier", "condenser", "mallet", "annealer", "hand_instrument"})


class FieldSpec(BaseModel):
    """A property of a kind of item, for whoever asks for it: a number within bounds, or one of `options`."""

    name: str
    is_needed: bool
    is_whole: bool = False
    low: float | None = None
    high: float | None = None
    options: list[str] | None = None


def fields_of(model: type[BaseModel], without: frozenset[str]) -> list[FieldSpec]:
    """Return the plain properties of a model, but for some; those of a nested one by its name, a point and theirs."""
    schema = model.model_json_schema()
    return [spec for spec in _fields(schema, schema, "") if spec.name.partition(".")[0] not in without]


def _fields(schema: dict[str, Any], whole: dict[str, Any], path: str) -> Iterator[FieldSpec]:
    needed = set(schema.get("required", ()))
    for name, described in schema["properties"].items():
        nested = next((o["$ref"] for o in described.get("anyOf", [described]) if "$ref" in o), None)
        if nested:
            # What is nested is needed only once any of it is told.
            inner = whole["$defs"][nested.rpartition("/")[2]]
            yield from (s.model_copy(update={"is_needed": False}) for s in _fields(inner, whole, f"{name}."))
        elif spec := _spec(f"{path}{name}", described, name in needed):
            yield spec


def _spec(name: str, described: dict[str, Any], is_needed: bool) -> FieldSpec | None:
    """Return a property as its JSON Schema describes it; of one that may be null, what else it may be."""
    for option in described.get("anyOf", [described]):
        if option.get("type") in ("number", "integer"):
            return FieldSpec(
                name=name,
                is_needed=is_needed,
                is_whole=option["type"] == "integer",
                low=option.get("minimum", option.get("exclusiveMinimum")),
                high=option.get("maximum"),
            )
        if option.get("type") == "boolean":
            return FieldSpec(name=name, is_needed=is_needed, options=["yes", "no"])
        if "enum" in option:
            return FieldSpec(name=name, is_needed=is_needed, options=option["enum"])
    return None
