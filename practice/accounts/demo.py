"""The demo practice: all names, manufacturers and product lines are made up.

Gannet Sound Dental, two chairs on a ferry island. Filled once; a filled one is left as it is.
"""

from __future__ import annotations

import datetime as dt
import json
import uuid
import zoneinfo
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from django.contrib.auth.hashers import make_password
from django.db import transaction
from django.utils import timezone

from mallet.terms.optics import SpectralOptics
from practice.accounts.models import Practice, User
from practice.equipment.models import Item, Light, Reading
from practice.equipment.optics import keep_optics
from practice.equipment.stock import keep, read_stock_file
from practice.records.services import sign_record
from practice.restorations.models import Patient, Restoration, Visit, VisitPart
from practice.restorations.services import case_of, save_plan
from practice.runs.services import Sent, add_event, start_run, state_of

NAME = "Gannet Sound Dental"
ZONE = "Atlantic/Reykjavik"
PASSWORD = "gannet-sound-demo"
PEOPLE = (
    ("ines", "Ines Okafor-Lind", User.Role.DENTIST),
    ("tomas", "Tomas Verhallen", User.Role.ASSISTANT),
    ("runa", "Runa Castellane", User.Role.TRAINEE),
    ("osk", "Oskar Dunmore-Hale", User.Role.TEACHER),
)
FIRST_CHART = 2211
# Of these, who runs the practice.
OWNER = "ines"


@dataclass(frozen=True)
class Booked:
    patient: str
    born: dt.date
    hour: int
    minute: int
    chair: str
    reason: str
    tooth: str
    surfaces: str
    parts: list[dict[str, Any]]
    layering: str
    neighbours: dict[str, Any]
    allergies: tuple[str, ...] = ()
    weight_kg: float | None = None
    saved: bool = True
    done: bool = False
    remaining_dentin_mm: float | None = 1.5
    estimated: tuple[str, ...] = ()
    history_checked: bool = True
    findings: dict[str, Any] = field(default_factory=dict)
    confirmed: bool = True
    heights: dict[str, Any] = field(default_factory=dict)
    material: str = "composite"
    # How the tooth looks, and what is chosen besides to match it.
    shade: dict[str, Any] = field(default_factory=dict)
    besides: tuple[str, ...] = ()


def box(side: str, height: float, width: float, depth: float, opens: float = 3) -> dict[str, Any]:
    return {
        "kind": "proximal_box",
        "side": side,
        "height_mm": height,
        "width_mm": width,
        "axial_depth_mm": depth,
        "wall_divergence_deg": opens,
    }


def occlusal(depth: float, width: float, length: float, opens: float = 3) -> dict[str, Any]:
    return {
        "kind": "occlusal_box",
        "depth_mm": depth,
        "width_mm": width,
        "length_mm": length,
        "wall_divergence_deg": opens,
    }


def neck(depth: float, width: float, height: float, above_cervical: float) -> dict[str, Any]:
    return {
        "kind": "wedge_lesion",
        "face": "facial",
        "depth_mm": depth,
        "width_mm": width,
        "height_mm": height,
        "above_cej_mm": above_cervical,
    }


CORE = {
    "kind": "cusp_reduction",
    "cusps": ["mesiofacial", "distofacial", "mesiolingual", "distolingual"],
    "tip_mm": 3.5,
    "groove_mm": 2.0,
}
PIN = {"kind": "pin_hole", "at": "distolingual", "diameter_mm": 0.38, "depth_mm": 2.0, "above_floor_mm": 1.5}
# Of amalgam: a cusp down with what holds it, and a core for a crown.
CUSP = {"kind": "cusp_reduction", "cusps": ["facial"], "tip_mm": 2.2, "groove_mm": 2.0}
GROOVES = {
    "kind": "retention_groove",
    "side": "mesial",
    "walls": "both",
    "depth_mm": 0.4,
    "width_mm": 0.8,
    "height_mm": 1.8,
}
SLOT = {"kind": "slot", "at": "facial", "length_mm": 1.6, "width_mm": 0.8, "depth_mm": 1.0, "inset_mm": 0.5}
PINS = [
    {
        "kind": "pin_hole",
        "at": at,
        "diameter_mm": 0.6,
        "depth_mm": 2.0,
        "inset_mm": 0.6,
        "on": "floor",
        "above_floor_mm": 1.2,
    }
    for at in ("mesiofacial", "distolingual")
]
# For direct gold: a facial pit of a lower molar.
PIT = {
    "kind": "gold_pit",
    "face": "facial",
    "outline": "oval",
    "height_mm": 1.7,
    "width_mm": 1.4,
    "above_cej_mm": 3.0,
    "into_dentin_mm": 0.3,
    "point_depth_mm": 0.4,
    "bevel_mm": 0.5,
}
SHOULDER = {"kind": "shoulder", "width_mm": 1.5, "above_cej_mm": 1.5}

VISITS = (
    Booked(
        "Sunniva Hallbjorn", dt.date(1987, 3, 9), 9, 15, "chair 1", "caries adjacent to a restoration", "46",
        "DO", [occlusal(2.0, 2.4, 4.6), box("distal", 4.4, 3.8, 1.5)], "horizontal", {}, done=True,
    ),
    Booked(
        "Casimir Adeyemi-Roth", dt.date(1991, 8, 21), 10, 20, "chair 2", "primary caries, seen on the bitewing",
        "36", "MO", [occlusal(2.0, 2.5, 5.0), box("mesial", 4.5, 4.0, 1.5)], "wall_first",
        {"mesial": {"tooth": "35", "ridge_offset_mm": 0.0, "rotated": False}},
        estimated=("preparation.parts[1].height_mm",),
        findings={
            "cause": "caries", "pain": "brief_on_cold", "percussion": "normal", "cold": "brief", "pulp": "reversible",
            "occlusion_marked": True, "tooth_confirmed": True, "field": "dam", "cavitated": True,
        },
        weight_kg=68.0,
        heights={"cusps_mm": 0.2, "groove_mm": -1.6, "mesial_ridge_mm": 0.0, "distal_ridge_mm": 0.1},
    ),
    Booked(
        "Orla Tamsin Brekke", dt.date(1969, 12, 2), 11, 30, "chair 1", "lost restoration, food packs", "15",
        "MOD", [occlusal(1.8, 2.0, 2.6), box("mesial", 4.8, 3.4, 1.3), box("distal", 4.2, 3.4, 1.3)],
        "oblique", {"distal": {"tooth": "16", "rotated": True}},
        allergies=("latex",), remaining_dentin_mm=None, history_checked=False,
    ),
    Booked(
        "Jorunn Pell", dt.date(2001, 5, 17), 14, 0, "chair 2", "primary caries under a stained ridge", "26",
        "MO", [occlusal(1.8, 2.2, 4.0), box("mesial", 5.2, 3.8, 1.6)], "wall_first", {}, saved=False, confirmed=False,
        remaining_dentin_mm=0.4, estimated=("preparation.parts[1].height_mm", "preparation.remaining_dentin_mm"),
    ),
    Booked(
        "Leif Maro Quennell", dt.date(1958, 10, 30), 15, 10, "chair 1", "cervical wear, cold on brushing", "34",
        "F", [neck(1.3, 3.6, 2.2, -0.5)], "oblique", {}, saved=False,
        findings={"cause": "wear", "field": "dam", "subgingival": True, "esthetic_zone": True},
    ),
    Booked(
        "Birta Vantongeren", dt.date(2009, 1, 14), 16, 0, "chair 2", "corner broken at sport", "11",
        "MI", [{"kind": "incisal_fracture", "mesial_mm": 4.0, "distal_mm": -2.0}], "wall_first", {}, saved=False,
        findings={"cause": "fracture", "field": "dam", "esthetic_zone": True, "pulp": "normal", "cold": "brief"},
        shade={"target": [{"lab": [81.3, 0.8, 12.5], "tooth": "twin"}], "mock_up": True}, besides=("Skarv dentin, opaque",),
    ),
    Booked(
        "Hedvig Larsmoen", dt.date(1951, 6, 5), 16, 40, "chair 1", "cusps lost, a core before the crown", "47",
        "MODFL", [occlusal(2.0, 2.4, 4.6), CORE, PIN, SHOULDER], "horizontal", {}, saved=False,
        findings={"cause": "core", "field": "dam", "pulp": "normal", "cold": "brief"},
    ),
    Booked(
        "Tavi Solvang-Achter", dt.date(2022, 2, 11), 17, 30, "chair 2", "caries all round a primary central incisor", "51",
        "MIDFL", [{"kind": "strip_crown_preparation", "incisal_reduction_mm": 1.5, "axial_reduction_mm": 0.5, "above_cej_mm": 0.6}],
        "horizontal", {}, saved=False, findings={"cause": "caries", "field": "dam", "esthetic_zone": True},
    ),
    Booked(
        "Ylva Marit Sandoe", dt.date(2013, 5, 19), 18, 10, "chair 1", "deep fissures, second molars through", "17",
        "O", [{"kind": "sealant_groove", "length_mm": 5.0, "width_mm": 0.6, "depth_mm": 0.9}], "horizontal", {}, saved=False,
        remaining_dentin_mm=None, material="sealant",
        findings={"field": "dam", "cavitated": False, "caries_found": False, "load": "low", "pulp": "normal"},
    ),
    Booked(
        "Torvald Eskil Brannagh", dt.date(1960, 4, 27), 12, 20, "chair 1", "facial cusp lost beside an old restoration", "14",
        "MOF", [occlusal(2.0, 2.0, 3.0, -4), box("mesial", 4.2, 3.2, 1.5, -4), CUSP, GROOVES, SLOT], "horizontal",
        {"mesial": {"tooth": "13"}}, material="amalgam",
        findings={"cause": "fracture", "caries_found": True, "load": "heavy", "caries_risk": "high", "esthetic_zone": False},
        heights={
            "by_cusp": {"facial": {"line": "mesial.tip distal.facial", "above_mm": -0.2, "inside_mm": 0.8}},
            "groove_mm": -1.8, "mesial_ridge_mm": 0.1,
        },
    ),
    Booked(
        "Solveig Amparo Lind", dt.date(1954, 9, 8), 18, 50, "chair 2", "second molar: a core before the crown", "37",
        "MODFL", [occlusal(3.5, 4.0, 6.0, -4), {**CORE, "tip_mm": 3.4, "groove_mm": 3.2}, *PINS, SHOULDER], "horizontal",
        {"mesial": {"tooth": "36"}}, material="amalgam", saved=False,
        findings={"cause": "core", "load": "heavy", "pulp": "normal", "cold": "brief"},
    ),
    Booked(
        "Aslaug Merrin-Tovey", dt.date(1989, 7, 3), 13, 15, "chair 2", "stained facial pit, the explorer catches", "46",
        "F", [PIT], "horizontal", {}, material="gold_foil", estimated=("preparation.parts[0].into_dentin_mm",),
        findings={
            "cause": "caries", "caries_found": True, "load": "low", "caries_risk": "low", "esthetic_zone": False,
            "pulp": "normal", "cold": "brief", "percussion": "normal", "explorer_catches": True, "lesion_mm": 1.5,
        },
        remaining_dentin_mm=None,
    ),
)  # fmt: skip
# What somebody has told before work may start.
CONFIRMED = {"pulp": "reversible", "tooth_confirmed": True}
STOCK = Path(__file__).parents[2] / "demo" / "stock.csv"
# Read over black and white, as a spectrophotometer would; invented as all else.
OPTICS = STOCK.with_name("optics.json")
# A lot that was measured before the one in stock, by how much lighter it was over black.
LOT_BEFORE = {"Skarv enamel": ("SE1877", 1.06), "Skarv body": ("SB4102", 1.01)}
FILLED_WITH = ("Skarv body", "Skarv enamel")
# Lots last for years, but for these (days from today): one is over, one nearly.
LASTS_DAYS = {"Holm ionomer": -9, "Holm hydroxide": 12}
RAMP = {"kind": "ramp", "start_share": 0.3, "rise_s": 5.0}
# Its modes besides full output, the newest readings, how many days old they are, and the share that each
# of the months before lost.
LAMPS = (
    ("Curing light A", 8.0, [10, 20], [], ((0, 1010), (4, 640), (8, 260)), 47, 0.031),
    ("Curing light B", 9.0, [5, 10, 20], [RAMP], ((0, 1150), (4, 810), (8, 390)), 4, 0.012),
)
# Readings scatter: by these shares, month after month, the newest first.
SCATTER = (0.0, 0.011, -0.006, 0.004, -0.013, 0.008, 0.002, -0.009)


def fill_demo() -> Practice:
    """Return the demo practice, made if there is none."""
    found = Practice.objects.filter(is_demo=True).first()
    if found:
        return found
    with transaction.atomic():
        practice = Practice.objects.create(name=NAME, zone=ZONE, place="us", is_demo=True)
        # Hashing takes its time, as it should: once for all who share the demo's password.
        password = make_password(PASSWORD)
        people = [_person(practice, password, *p) for p in PEOPLE]
        lamps = [_lamp(practice, *lamp) for lamp in LAMPS]
        masses = _stock(practice, people[0])
        for number, visit in enumerate(VISITS, FIRST_CHART):
            lamp = lamps[0 if visit.tooth == "15" else 1]
            _visit(practice, visit, str(number), people, lamp, masses)
    return practice


def _person(practice: Practice, password: str, username: str, full_name: str, role: str) -> User:
    return User.objects.create(
        username=username,
        password=password,
        full_name=full_name,
        role=role,
        is_owner=username == OWNER,
        practice=practice,
    )


def _lamp(practice: Practice, name: str, tip: float, steps: list[int], modes: list[dict[str, object]],
          readings: tuple[tuple[float, float], ...], days_ago: int, loss: float) -> Light:  # fmt: skip
    light = Light.objects.create(
        practice=practice, name=name, tip_diameter_mm=tip, time_steps_s=steps, output_modes=modes
    )
    for month, scatter in enumerate(SCATTER):
        share = (1 + scatter) / (1 - loss) ** month
        day = timezone.now().date() - dt.timedelta(days=days_ago + 30 * month)
        for distance, irradiance in readings:
            Reading.objects.create(
                practice=practice,
                light=light,
                distance_mm=distance,
                irradiance_mw_cm2=round(irradiance * share),
                taken_on=day,
            )
    return light


def _stock(practice: Practice, who: User) -> list[Item]:
    """Return the composites that fill the demo's cavities, the whole invented line put in stock."""
    rows, problems = read_stock_file(STOCK.read_text())
    assert not problems, problems
    today = practice.today()
    dated = []
    for i, row in enumerate(rows):
        days = LASTS_DAYS.get(row.name, 240 + 37 * i % 900)
        dated.append(replace(row, expires_on=today + dt.timedelta(days=days) if row.lot else None))
    kept = {item.name: item for item in keep(practice, dated, who)}
    for name, told in json.loads(OPTICS.read_text()).items():
        optics, (lot, *_) = SpectralOptics.model_validate(told), kept[name].lots_left()
        if name in LOT_BEFORE:
            before, lighter = LOT_BEFORE[name]
            as_before = {**told, "over_black": [round(share * lighter, 4) for share in optics.over_black]}
            keep_optics(kept[name], SpectralOptics.model_validate(as_before), before, who)
        keep_optics(kept[name], optics, lot.number, who)
    return [kept[name] for name in FILLED_WITH]


def _visit(
    practice: Practice, v: Booked, chart_number: str, people: list[User], light: Light, masses: list[Item]
) -> None:
    dentist, assistant, *_ = people
    zone = zoneinfo.ZoneInfo(practice.zone)
    today = timezone.now().astimezone(zone).date()
    patient = Patient.objects.create(
        practice=practice,
        full_name=v.patient,
        born_on=v.born,
        allergies=[{"to": one, "substance": ""} for one in v.allergies],
        weight_kg=v.weight_kg,
        chart_number=chart_number,
        history_checked_on=today if v.history_checked else None,
        history_checked_by=assistant if v.history_checked else None,
    )
    preparation: dict[str, Any] = {"parts": v.parts}
    if v.remaining_dentin_mm is not None:
        preparation["remaining_dentin_mm"] = v.remaining_dentin_mm
    restoration = Restoration.objects.create(
        practice=practice,
        patient=patient,
        reason=v.reason,
        light=light,
        draft={
            "format": "mallet-case/2",
            "tooth": {"code": v.tooth, "vitality": "vital"},
            "restoration": {"material": v.material, "surfaces": v.surfaces, **_asked(v)},
            "preparation": preparation,
            "adjacent": v.neighbours,
            "findings": {**CONFIRMED, **v.findings} if v.confirmed else v.findings,
            "reference_heights": v.heights,
            "provenance": dict.fromkeys(v.estimated, "estimated"),
            **({"shade": v.shade} if v.shade else {}),
        },
    )
    besides = Item.objects.owned_by(practice).filter(name__in=v.besides)
    restoration.materials.set([*masses, *besides])
    visit = Visit.objects.create(
        practice=practice,
        patient=patient,
        dentist=dentist,
        starts_at=dt.datetime.combine(today, dt.time(v.hour, v.minute), zone),
        chair=v.chair,
    )
    VisitPart.objects.create(practice=practice, visit=visit, restoration=restoration)
    if v.saved:
        save_plan(restoration, case_of(restoration), dentist)
    if v.done:
        play(restoration, dentist)


def _asked(v: Booked) -> dict[str, Any]:
    """Return what is asked of composite besides."""
    return {"technique": v.layering, "etch": "selective_enamel"} if v.material == "composite" else {}


def play(restoration: Restoration, who: User) -> None:
    """Run a restoration to its end as a chairside device would, with one check that failed."""
    visit = restoration.visit
    assert visit
    clock = visit.starts_at
    run = start_run(restoration, who, at=clock)
    failed = False
    for sequence in range(200):
        state = state_of(run)
        step = state.steps[state.index]
        kind = "step_done"
        if state.at_end:
            kind = "finished"
        elif step.get("check"):
            kind = "check_failed" if step["role"] == "seal" and not failed else "check_passed"
            failed = failed or kind == "check_failed"
        clock += dt.timedelta(seconds=step["seconds"] + (sequence * 7) % 5)
        sent = Sent(uuid.uuid4(), kind, state.step_id, state.revision, "demo", sequence, clock, sequence)
        add_event(run, sent, who, at=clock)
        if kind == "finished":
            break
    run.refresh_from_db()
    text = "Wedge one size larger after the first seal test. Patient comfortable."
    sign_record(run.record, text, who, PASSWORD, at=clock + dt.timedelta(minutes=4))
