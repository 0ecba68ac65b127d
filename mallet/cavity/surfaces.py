"""Whether a case's words fit each other and its tooth: which parts such a tooth has, and which surfaces they open."""

from __future__ import annotations

from mallet.terms.case import Case
from mallet.terms.errors import InputError, Problem
from mallet.terms.parts import (
    CervicalLesion,
    CuspReduction,
    FaceBox,
    FacePart,
    FeaturePart,
    GoldPit,
    IncisalFracture,
    LingualDovetail,
    Part,
    Pit,
    ProximalBox,
    ProximalCavity,
    Shoulder,
    StripCrownPreparation,
    Tunnel,
)
from mallet.tooth import ToothName


def check_parts(case: Case, tooth: ToothName) -> None:
    """Refuse a part that such a tooth does not have."""
    for i, part in enumerate(case.preparation.parts):
        is_front = isinstance(
            part, ProximalCavity | IncisalFracture | LingualDovetail | StripCrownPreparation
        )
        if not isinstance(part, CervicalLesion | Pit | GoldPit) and is_front == tooth.is_posterior:
            where = "an anterior tooth: position 1 to 3" if is_front else "a posterior tooth: position 4 to 8"
            raise InputError.at("tooth.code", case.tooth.code, f"{where}, for parts[{i}], a {part.kind}")


def _check_alone(case: Case, part: FacePart | StripCrownPreparation) -> None:
    """Refuse a part that is entered from a face and does not stand alone, a notch behind a broken edge apart, or on
    other surfaces than its own."""
    others = [other for other in case.preparation.parts if other is not part]
    notches = [other for other in others if isinstance(other, LingualDovetail)]
    if len(others) > 1 or len(notches) < len(others) or (notches and not isinstance(part, IncisalFracture)):
        allowed = "it alone: what opens to another side is a restoration of its own"
        raise InputError(Problem("preparation.parts", f"more than a {part.kind}", allowed))
    if isinstance(part, ProximalCavity) and part.through and case.restoration.is_condensed:
        path = f"preparation.parts[{case.preparation.parts.index(part)}].through"
        raise InputError.at(path, True, "no: what is condensed needs a wall on the other face")
    surfaces = case.restoration.surfaces
    must, may = _surfaces_of(part)
    given = set(surfaces)
    if len(given) < len(surfaces) or not must <= given or given - must - may:
        allowed = "".join(s for s in "MIODFL" if s in must)
        raise InputError.at("restoration.surfaces", surfaces, f"{allowed}, the surfaces that it opens")


def _surfaces_of(part: FacePart | StripCrownPreparation) -> tuple[set[str], set[str]]:
    """Return the surfaces that a part opens, and those that may be named beside them."""
    match part:
        case CervicalLesion() | Pit() | GoldPit():
            return {part.face[0].upper()}, set()
        case ProximalCavity():
            return {part.side[0].upper()}, {"F", "L"} if part.through else {part.face[0].upper()}
        case StripCrownPreparation():
            return set("MIDFL"), set()
        case IncisalFracture():
            ends = (("M", part.mesial_mm), ("D", part.distal_mm))
            return {"I"} | {letter for letter, lost in ends if lost > 0}, {"F", "L"}


def _once(part: Part) -> tuple[str, str | None] | None:
    """Return what there is but one of in a tooth, or on a side of it: slots and pins there may be several."""
    if isinstance(part, FeaturePart) and not isinstance(part, Shoulder):
        where = getattr(part, "side", getattr(part, "face", None))
        return (part.kind, where) if where else None
    return part.kind, getattr(part, "side", None)


def check_surfaces(case: Case) -> None:
    """Refuse parts twice over or alone, and surfaces that are not those which the parts open."""
    parts = case.preparation.parts
    stump = next((part for part in parts if isinstance(part, StripCrownPreparation)), None)
    if alone := case.face_part or stump:
        _check_alone(case, alone)
        return
    letters, over, seen = set(), set(), set()
    for i, part in enumerate(parts):
        if (name := _once(part)) in seen:
            allowed = "one a side" if hasattr(part, "side") or hasattr(part, "face") else "one"
            raise InputError(Problem(f"preparation.parts[{i}]", f"a second {part.kind}", allowed))
        seen |= {name} if name else set()
        match part:
            case CuspReduction():
                over |= {"F" if "facial" in cusp or cusp == "distal" else "L" for cusp in part.cusps}
            case FaceBox():
                letters.add(part.face[0].upper())
            case Shoulder():
                over |= set("MDFL")
            case ProximalBox():
                letters.add(part.side[0].upper())
            case Tunnel():
                letters |= {"O", part.side[0].upper()}
            case _ if not isinstance(part, FeaturePart):
                letters.add("O")
    if not letters:
        raise InputError(
            Problem("preparation.parts", f"a {parts[0].kind} alone", "a box beside what is covered")
        )
    surfaces = case.restoration.surfaces
    has_box = any(isinstance(p, ProximalBox) for p in parts)
    # A cover opens the occlusal surface, and may or may not be named by the sides that it reaches over.
    spare = over | ({"O"} if has_box or over else set())
    given = set(surfaces)
    if len(given) < len(surfaces) or not letters <= given or given - letters - spare:
        allowed = "".join(s for s in "MODFL" if s in letters)
        raise InputError.at("restoration.surfaces", surfaces, f"{allowed}, the surfaces that the parts open")
