"""Where a cavity may start from before anybody has measured it: parts for a tooth's surfaces, sized by its handbook crown.

Each size is an estimate, to be measured; shares of the crown are common practice, no source.
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from mallet.cavity.preparation import prepare_cavity
from mallet.rulebook import Rulebook, load_rulebook
from mallet.terms.case import read_case
from mallet.terms.errors import InputError
from mallet.terms.mouth import Cause
from mallet.terms.parts import OcclusalBox, Side
from mallet.tooth import Crown, ToothName, loft_crown, read_tooth

Parts = list[dict[str, Any]]
ORDER = "MODIFL"
FACES = {"F": "facial", "L": "lingual"}
SIDES: dict[str, Side] = {"M": "mesial", "D": "distal"}
# Past the junction where a cavity is just in dentin, and how far up from the neck to the contact a box has its floor.
INTO_DENTIN_MM, FLOOR_SHARE = 0.4, 0.35
# Sizes over the crown's: an occlusal box's length, a proximal box's width, a lesion at the neck, a pit's height.
PRIMARY_ISTHMUS, LENGTH, BOX_WIDTH, NECK, PIT_AT = 0.18, 0.42, 0.28, (0.42, 0.24), 0.45
# What is sealed, not cut.
SEALED: tuple[Cause, ...] = ("deep_fissures", "lost_sealant")
DECAYED: tuple[Cause, ...] = ("caries", "caries_adjacent")
# How wide and deep a groove down a face is opened, and how far up from the neck to the pulpal floor that box has its floor.
FACE_WIDTH_MM, FACE_DEPTH_MM, FACE_FLOOR_SHARE = 1.6, 1.2, 0.55
LESS, TRIES = 0.9, 30
REFUSED = re.compile(r"preparation\.parts\[(\d+)\]\.(\w+_mm)")


@dataclass(frozen=True)
class Start:
    """Parts of a preparation with the paths of their sizes, which are all estimated, the surfaces that they open in their
    usual order, and the restorative that is asked for first."""

    parts: Parts
    surfaces: str
    material: str

    @property
    def provenance(self) -> dict[str, str]:
        """Return that each size is estimated, by its path in a case."""
        named = [
            f"preparation.parts[{i}].{name}"
            for i, part in enumerate(self.parts)
            for name in part
            if name.endswith("_mm")
        ]
        return dict.fromkeys(named, "estimated")


def start_of(code: str, surfaces: str, cause: Cause = "caries", book: Rulebook | None = None) -> Start:
    """Return where a restoration of a tooth's surfaces starts from.

    Raises InputError (`tooth.code`, `surfaces`) for a tooth that there is not, and for surfaces that no one restoration has.
    """
    rules = book or load_rulebook()
    tooth = read_tooth(code)
    crown = loft_crown(tooth, rules)
    letters = _letters(tooth, surfaces)
    parts = (
        _posterior(crown, letters, cause, rules) if tooth.is_posterior else _anterior(crown, letters, cause)
    )
    material = "sealant" if parts[0]["kind"] == "sealant_groove" else "composite"
    named = "".join(letter for letter in ORDER if letter in letters)
    return Start(_fitted(code, parts, named, rules), named, material)


def opened(case: Mapping[str, Any], book: Rulebook | None = None) -> dict[str, Any]:
    """Return a case whose fissures were to be sealed and have caries below: opened to dentin, all sizes estimated.

    The caries is the reason for treatment from then on.
    """
    start = start_of(case["tooth"]["code"], "O", "caries", book)
    known = {
        path: how
        for path, how in case.get("provenance", {}).items()
        if not path.startswith("preparation.parts[")
    }
    return {
        **case,
        "preparation": {**case["preparation"], "parts": start.parts},
        "provenance": {**known, **start.provenance},
        "findings": {**case.get("findings", {}), "cause": "caries", "caries_found": True},
    }


def _letters(tooth: ToothName, surfaces: str) -> set[str]:
    """Return the surfaces as letters; raise InputError for those that such a tooth does not have."""
    own = set("MODFL" if tooth.is_posterior else "MIDFL")
    letters = set(surfaces)
    if not letters or letters - own or len(letters) < len(surfaces):
        allowed = "one or more of " + ", ".join(letter for letter in ORDER if letter in own) + ", each once"
        raise InputError.at("surfaces", surfaces, allowed)
    return letters


def _posterior(crown: Crown, letters: set[str], cause: Cause, rules: Rulebook) -> Parts:
    faces = [FACES[letter] for letter in "FL" if letter in letters]
    if not letters & set("MOD"):
        if len(faces) > 1:
            raise InputError.at("surfaces", "FL", "one face at a time: each is a restoration of its own")
        return [_neck(crown, faces[0], cause)]
    if cause in SEALED:
        if letters != {"O"}:
            raise InputError.at("surfaces", "".join(sorted(letters)), "O alone: only fissures are sealed")
        size = {"length_mm": LENGTH * crown.mesiodistal_mm, "width_mm": 0.6, "depth_mm": 0.8}
        return [{"kind": "sealant_groove", **size}]
    enamel = _enamel_mm(crown, rules)
    sides = [SIDES[letter] for letter in "MD" if letter in letters]
    boxes = [_box(crown, side, enamel) for side in sides]
    # Beside a groove alone a surface stands for what reaches down it, not for a cusp.
    is_groove = cause in DECAYED and len(faces) == 1 and letters == {"O", faces[0][0].upper()}
    cover = [] if is_groove else _cover(crown, faces, cause)
    if "O" not in letters and not cover:
        return boxes
    depth = enamel + INTO_DENTIN_MM
    occlusal = {
        "kind": "occlusal_box",
        "depth_mm": depth,
        "width_mm": max(_isthmus_mm(crown, depth, rules), rules.value("prepare.condenser_mm")),
        "length_mm": LENGTH * crown.mesiodistal_mm,
    }
    reaching = [_face_box(crown, faces[0], depth)] if is_groove else []
    return [occlusal, *boxes, *cover, *reaching]


def _face_box(crown: Crown, face: str, depth_mm: float) -> dict[str, Any]:
    """Return a box down the groove of a face, its floor halfway between the pulpal floor and the neck."""
    floor = crown.rim_mm - depth_mm
    return {
        "kind": "face_box",
        "face": face,
        "width_mm": FACE_WIDTH_MM,
        "axial_depth_mm": FACE_DEPTH_MM,
        "above_cej_mm": FACE_FLOOR_SHARE * floor,
    }


def _isthmus_mm(crown: Crown, depth_mm: float, rules: Rulebook) -> float:
    """Return how wide an occlusal box may be at its floor to keep the tooth's strength where it opens."""
    if crown.tooth.is_deciduous:
        return PRIMARY_ISTHMUS * crown.buccolingual_mm
    tips = crown.cusps.values()
    rows = [[tip for tip in tips if tip[1] > 0], [tip for tip in tips if tip[1] < 0]]
    between = sum(abs(min(row, key=lambda tip: abs(tip[0]))[1]) for row in rows)
    keeps, loses = (rules.value(f"prepare.isthmus_{name}_share") for name in ("keeps", "loses"))
    opens = 2 * depth_mm * math.tan(math.radians(OcclusalBox.model_fields["wall_divergence_deg"].default))
    return (keeps + loses) / 2 * between - opens


def _enamel_mm(crown: Crown, rules: Rulebook) -> float:
    primary = crown.tooth.is_deciduous
    return rules.value("tooth.deciduous_enamel_mm" if primary else "tooth.enamel_groove_mm")


def _box(crown: Crown, side: Side, enamel_mm: float) -> dict[str, Any]:
    neck = crown.cervical_mm[side]
    floor = neck + FLOOR_SHARE * (crown.contact_mm[side] - neck)
    return {
        "kind": "proximal_box",
        "side": side,
        "height_mm": crown.ridge_mm(side) - floor,
        "width_mm": BOX_WIDTH * crown.buccolingual_mm,
        "axial_depth_mm": enamel_mm + INTO_DENTIN_MM / 2,
    }


def _cover(crown: Crown, faces: Sequence[str], cause: Cause) -> Parts:
    """Return the cusps of faces that are lost with other surfaces, and all of them for a core."""
    own = [
        cusp
        for cusp in crown.cusps
        if cause == "core" or any(face in cusp or (face == "facial" and cusp == "distal") for face in faces)
    ]
    return [{"kind": "cusp_reduction", "cusps": own, "tip_mm": 2.0, "groove_mm": 2.0}] if own else []


def _neck(crown: Crown, face: str, cause: Cause) -> dict[str, Any]:
    wide, high = NECK
    return {
        "kind": "wedge_lesion" if cause == "wear" else "saucer_lesion",
        "face": face,
        "width_mm": wide * crown.mesiodistal_mm,
        "height_mm": high * crown.height_mm,
        "depth_mm": 1.2,
        "above_cej_mm": 0.4,
    }


def _anterior(crown: Crown, letters: set[str], cause: Cause) -> Parts:
    if "I" in letters:
        if letters >= set("MIDFL") and crown.tooth.is_deciduous:
            size = {"incisal_reduction_mm": 1.5, "axial_reduction_mm": 0.5, "above_cej_mm": 0.6}
            return [{"kind": "strip_crown_preparation", **size}]
        lost = {
            f"{side}_mm": 0.32 * crown.height_mm if letter in letters else -0.2 * crown.height_mm
            for letter, side in SIDES.items()
        }
        if not letters & set("MD"):
            # Too little for the surfaces beside to be touched.
            raise InputError.at("surfaces", "I", "MI, ID or MID: an edge that is lost reaches a side")
        return [{"kind": "incisal_fracture", **lost}]
    sides = [SIDES[letter] for letter in "MD" if letter in letters]
    faces = [FACES[letter] for letter in "FL" if letter in letters]
    is_through = len(faces) > 1
    if len(sides) > 1 or (is_through and not sides):
        raise InputError.at(
            "surfaces", "".join(sorted(letters)), "one side at a time: each is a restoration of its own"
        )
    if sides:
        return [
            {
                "kind": "proximal_cavity",
                "side": sides[0],
                "face": faces[0] if len(faces) == 1 else "lingual",
                **({"through": True} if is_through else {}),
                "height_mm": 0.18 * crown.height_mm,
                "depth_mm": 0.18 * crown.mesiodistal_mm,
                "faciolingual_mm": 0.24 * crown.buccolingual_mm,
                "below_contact_mm": 0.15 * crown.height_mm,
            }
        ]
    if faces == ["lingual"] and cause != "wear":
        size = {"diameter_mm": 1.4, "depth_mm": 1.2, "above_cej_mm": PIT_AT * crown.height_mm - 0.7}
        return [{"kind": "pit", "face": "lingual", **size}]
    return [_neck(crown, faces[0], cause)]


def _fitted(code: str, parts: Parts, surfaces: str, rules: Rulebook) -> Parts:
    """Return parts that can be cut in a tooth, to a tenth of a millimeter: a size that is refused gives way."""
    for _ in range(TRIES):
        fitted = [_rounded(part) for part in parts]
        case = {
            "format": "mallet-case/2",
            "tooth": {"code": code},
            "restoration": {"material": "glass_ionomer", "surfaces": surfaces},
            "preparation": {"parts": fitted},
        }
        try:
            prepare_cavity(read_case(case), rules)
        except InputError as refused:
            problem = refused.problems[0]
            found = REFUSED.fullmatch(problem.path)
            if not found:
                raise
            part, name = parts[int(found[1])], found[2]
            part[name] *= 1 / LESS if problem.allowed.startswith("more than") else LESS
            continue
        return fitted
    raise InputError.at("surfaces", surfaces, "other surfaces: the handbook crown has no room for these")


def _rounded(part: Mapping[str, Any]) -> dict[str, Any]:
    return {name: round(value, 1) if name.endswith("_mm") else value for name, value in part.items()}
