"""Asks what a case leaves to be told: the rulebook has the words, the case's model the kinds of answers."""

from __future__ import annotations

import math
import re
import tomllib
import types
from collections.abc import Iterator, Mapping
from functools import cache
from importlib import resources
from typing import Any, Literal, Union, get_args, get_origin

from pydantic import BaseModel
from pydantic.fields import FieldInfo

from mallet.rulebook import Rulebook
from mallet.rulebook.parts import features_catalog, part_name, parts_catalog, path_words, short_of
from mallet.stages.heights import key_of, lines_for, name_of
from mallet.terms.asks import Ask, AskKind, Choice, Comparison, Measurement
from mallet.terms.case import AdjacentTooth, Case, get_path
from mallet.terms.parts import (
    IncisalFracture,
    OcclusalBox,
    Part,
    ProximalBox,
    ProximalCavity,
    Shoulder,
    Tunnel,
)
from mallet.terms.upgrade import PIECES
from mallet.tooth import loft_crown, read_tooth

SIDES = ("mesial", "distal")
FACES = ("facial", "lingual")
# What stands beside the questions in their files.
APART = ("stages", "decisions", "compare")
UNITS = {"mm": "mm", "kg": "kg", "c": "\u00b0C", "deg": "\u00b0"}
# A guess about the patient is told as one.
ABOUT_PATIENT = ("tooth.", "findings.", "adjacent.")


@cache
def words_of(name: str) -> Mapping[str, Any]:
    """Return the questions of all restoratives (`common`) or of one, by stage, with the stages' names."""
    file = resources.files("mallet.rulebook") / "questions" / f"{name}.toml"
    return tomllib.loads(file.read_text())


def stage_names(material: str) -> dict[str, str]:
    """Return what the stages of a restorative are called."""
    return {**words_of("common")["stages"], **words_of(material)["stages"]}


def comparisons_of(material: str) -> list[Comparison]:
    """Return what plans of a restorative may be held side by side by."""
    rows = [row for name in (material, "common") for row in words_of(name).get("compare", [])]
    return [Comparison(**row) for row in rows]


def heading_of(material: str, topic: str) -> str:
    """Return what a decision is about; raise KeyError where no restorative decides such a thing."""
    headings = {**words_of("common")["decisions"], **words_of(material)["decisions"]}
    return str(headings[topic] if topic in headings else headings[topic.partition(".")[0]])


def asks_of(case: Case, stage: str, rules: Rulebook) -> list[Ask]:
    """Return what a stage asks for in a case, in the order in which it is asked."""
    rows = [row for name in ("common", case.restoration.material) for row in words_of(name).get(stage, [])]
    return [_ask(case, row, names, rules) for row in rows for names in _times(case, row)]


def others_of_quadrant(code: str) -> list[str]:
    """Return the other premolars and molars of a tooth's quadrant, by their two-digit codes."""
    own = read_tooth(code)
    last = 5 if own.is_deciduous else 8
    return [f"{own.iso[0]}{position}" for position in range(4, last + 1) if position != own.position]


def _features(case: Case, rules: Rulebook) -> list[Choice]:
    """Return what could hold the restoration of a case besides the bond, or what a later crown stands on."""
    parts = case.preparation.parts
    covered = case.covered_cusps
    wanted: list[tuple[str, dict[str, str]]] = [
        ("retention_groove", {"side": part.side}) for part in parts if isinstance(part, ProximalBox)
    ]
    wanted += [(kind, {"at": cusp}) for kind in ("slot", "pin_hole") for cusp in covered]
    wanted += [("shoulder", {})] if covered else []
    if any(isinstance(part, OcclusalBox) for part in parts):
        wanted += [("face_box", {"face": face}) for face in FACES]
    if case.restoration.is_condensed and case.tooth.vitality == "root_canal_treated":
        wanted += [("pulp_chamber", {}) for part in parts if isinstance(part, OcclusalBox)]
    wanted += [("lingual_dovetail", {}) for part in parts if isinstance(part, IncisalFracture)]
    return [_feature(case, kind, where, rules) for kind, where in wanted]


def _feature(case: Case, kind: str, where: dict[str, str], rules: Rulebook) -> Choice:
    words = features_catalog()[kind]
    site = {"side": where.get("face", ""), "at": "", **where}
    cut = [
        at
        for at, part in enumerate(case.preparation.parts)
        if part.kind == kind and all(getattr(part, name, None) == value for name, value in where.items())
    ]
    return Choice(
        value=" ".join([kind, *where.values()]),
        name=words.name.format(**{name: short_of(value) for name, value in site.items()}),
        title=words.title.format(**site),
        part={"kind": kind, **where, **words.part, **_canals(case, kind, rules)},
        cut_at=cut[0] if cut else None,
        surfaces=_surfaces(case, where["face"], is_cut=bool(cut)) if kind == "face_box" else None,
    )


def _surfaces(case: Case, face: str, *, is_cut: bool) -> str:
    """Return the surfaces once a box in a face is cut, or taken back."""
    letter, now = face[0].upper(), case.restoration.surfaces
    if not is_cut:
        return now if letter in now else f"{now}{letter}"
    return now.replace(letter, "")


def _canals(case: Case, kind: str, rules: Rulebook) -> dict[str, list[str]]:
    """Return below which cusps canals are taken to open, for a part that has any."""
    if kind != "pulp_chamber":
        return {}
    return {"canals": list(loft_crown(read_tooth(case.tooth.code), rules).canals)}


def measurements_of(case: Case) -> list[Measurement]:
    """Return the sizes of the preparation that are asked for, in the order in which they are measured."""
    catalog = parts_catalog()
    order = list(catalog)
    parts = sorted(enumerate(case.preparation.parts), key=lambda one: order.index(one[1].kind))
    asked = [
        Measurement(
            path=f"preparation.parts[{at}].{words.size}",
            part=_part_name(part, is_short=True),
            name=words.name,
            unit=UNITS[words.size.rpartition("_")[2]],
            help=words.help,
            taken=words.taken,
        )
        for at, part in parts
        for size in _asked_of(case, part)
        for words in catalog[part.kind].sizes
        if words.size == size
    ]
    left = "preparation.remaining_dentin_mm"
    how = "Over the pulp, estimated on the radiograph: it cannot be measured in the mouth."
    return [*asked, Measurement(path=left, part="pulp", name="dentin left", unit="mm", help=how)]


def _asked_of(case: Case, part: Part) -> list[str]:
    """Return the sizes that are asked of a part; of an end of the occlusal box only where it ends at no other box, and to
    a wall only where one stays."""
    words = parts_catalog()[part.kind]
    opened = {f"{box.side}_wall_deg" for box in case.preparation.parts if isinstance(box, ProximalBox)}
    besides = words.condensed if case.restoration.is_condensed else []
    if isinstance(part, ProximalCavity) and part.through:
        opened = {"faciolingual_mm"}
    return [size for size in [*words.asked, *besides] if size not in opened]


def _part_name(part: Part, *, is_short: bool = False) -> str:
    side = getattr(part, "side", getattr(part, "face", ""))
    return part_name(part.kind, is_short=is_short, side=side, at=short_of(getattr(part, "at", "")))


THING = re.compile(r"(preparation\.parts|stock|restoration\.composites)\[(\d+)\]\.(\w+)(\..+)?")


def title_of(case: Case, path: str) -> str:
    """Return what the value at a path of a case is called; the path itself where it has no name."""
    if path in path_words():
        return path_words()[path]
    if found := THING.fullmatch(path):
        return _of_thing(case, found[1], int(found[2]), found[3]) or _asked_as(case, path) or path
    return _asked_as(case, path) or path


def _of_thing(case: Case, where: str, at: int, name: str) -> str | None:
    """Return what a size of a part, or a property of something in stock, is called; None where it is neither."""
    things = get_path(case, where)
    if not isinstance(things, list) or at >= len(things):
        return None
    thing = things[at]
    if where != "preparation.parts":
        return title_of_item(thing.name, name)
    words = next((one for one in parts_catalog()[thing.kind].sizes if one.size == name), None)
    return f"{_part_name(thing)}, {words.name}" if words else None


def _asked_as(case: Case, path: str) -> str | None:
    """Return the name of the question at a path, if there is one."""
    for row in _rows(case):
        if "{" not in row["path"]:
            if row["path"] == path:
                return str(row["name"])
        else:
            for names in _times(case, row):
                if row["path"].format(**names) == path:
                    return str(row["name"].format(**names))
    return None


def _rows(case: Case) -> Iterator[Mapping[str, Any]]:
    """Yield the questions of every stage."""
    for name in ("common", case.restoration.material):
        for stage, rows in words_of(name).items():
            if stage not in APART:
                yield from rows


def title_of_item(item: str, name: str) -> str:
    """Return what a property of something in stock is called."""
    return f"{item}, {re.sub('_(s|mm|mg|n|gpa|j_cm2|g_cm3|vol_percent)$', '', name).replace('_', ' ')}"


def _times(case: Case, row: Mapping[str, Any]) -> Iterator[dict[str, Any]]:
    """Yield, for each time that a question is asked, what stands for the names in braces."""
    if "teeth" in row and (row["teeth"] == "posterior") != read_tooth(case.tooth.code).is_posterior:
        return
    if "dentition" in row and (row["dentition"] == "primary") != read_tooth(case.tooth.code).is_deciduous:
        return
    if any(get_path(case, path) not in values for path, values in row.get("when", {}).items()):
        return
    parts = case.preparation.parts
    kinds = {part.kind for part in parts}
    if row.get("each") == "side":
        yield from ({"side": side} for side in _sides(case) if _is_of_side(case, side, row))
    elif row.get("each") == "cusp":
        yield from ({"cusp": cusp} for cusp in case.covered_cusps)
    elif row.get("each") == "part":
        fitting = [(at, part) for at, part in enumerate(parts) if part.kind in row["parts"]]
        yield from ({"at": at, "side": getattr(part, "side", "")} for at, part in fitting)
    elif not kinds.isdisjoint(row.get("parts", kinds)) and kinds.isdisjoint(row.get("unless", ())):
        yield {}


def _is_of_side(case: Case, side: str, row: Mapping[str, Any]) -> bool:
    """Tell whether what is asked of an adjacent tooth is asked on a side, by what was told of it."""
    beside = getattr(case.adjacent, side) or AdjacentTooth()
    return all(getattr(beside, name) in values for name, values in row.get("when_beside", {}).items())


def _sides(case: Case) -> list[str]:
    """Return the sides on which an adjacent tooth matters."""
    parts = case.preparation.parts
    if any(isinstance(part, Shoulder) for part in parts):
        return list(SIDES)
    open_to = {part.side for part in parts if isinstance(part, ProximalBox | Tunnel)}
    return [side for side in SIDES if side in open_to]


def _ask(case: Case, row: Mapping[str, Any], names: Mapping[str, Any], rules: Rulebook) -> Ask:
    path = row["path"].format(**names)
    field = field_at(case, path)
    kind = row.get("kind") or ("stock" if "stock" in row else _kind(field))
    options = [Choice(value=value, name=name) for value, name in row.get("options", {}).items()]
    taken = ""
    if kind == "features":
        options = _features(case, rules)
    elif kind == "line":
        lines = lines_for(case, names["cusp"], rules)
        kind, options = "choice", [Choice(value=key_of(line), name=name_of(line)) for line in lines]
        taken = options[0].name if options else ""
    elif kind == "teeth":
        options = [Choice(value=tooth, name=tooth) for tooth in others_of_quadrant(case.tooth.code)]
    unit = UNITS.get(path.rpartition("_")[2], "") if kind == "length" else ""
    return Ask(
        path=path,
        name=row["name"].format(**names),
        kind=kind,
        options=options,
        taken=taken or row.get("taken") or row.get("by_rule") or _taken(field, kind, options),
        is_assumed="taken" in row or path.startswith(ABOUT_PATIENT),
        is_wanted=row.get("wanted", False),
        is_folded=row.get("more", False),
        unit=unit,
        help=row.get("help", ""),
        most=_most(field) if kind == "count" else None,
        stock=row.get("stock", []),
    )


def _taken(field: FieldInfo, kind: AskKind, options: list[Choice]) -> str:
    """Return what the model takes by itself, in words."""
    if kind == "yes":
        return {True: "yes", False: "no", None: "not recorded"}[field.default]
    if kind == "stock":
        return "by rulebook"
    if kind == "choice" and field.default is None:
        return "not recorded"
    return next((option.name for option in options if option.value == field.default), "")


def _kind(field: FieldInfo) -> AskKind:
    inner = _bare(field.annotation)
    if get_origin(inner) is Literal:
        return "choice"
    kinds: dict[object, AskKind] = {bool: "yes", int: "count", float: "length", str: "text"}
    return kinds[inner]


def _most(field: FieldInfo) -> int | None:
    return next((bound for bound in (getattr(one, "le", None) for one in _bounds(field)) if bound), None)


def _bounds(field: FieldInfo) -> list[Any]:
    """Return what bounds a field, also where it may be left out."""
    inner = [one for argument in get_args(field.annotation) for one in get_args(argument)[1:]]
    told = [bound for one in inner for bound in getattr(one, "metadata", [one])]
    return [*field.metadata, *told]


def bounds_at(case: Case, path: str) -> tuple[float, float]:
    """Return between which a number at a path of a case may lie."""
    told = _bounds(field_at(case, path))
    low = [
        float(bound)
        for one in told
        for name in ("ge", "gt")
        if (bound := getattr(one, name, None)) is not None
    ]
    high = [
        float(bound)
        for one in told
        for name in ("le", "lt")
        if (bound := getattr(one, name, None)) is not None
    ]
    return max(low, default=-math.inf), min(high, default=math.inf)


def field_at(case: Case, path: str) -> FieldInfo:
    """Return the field of the model that a path of a case leads to."""
    model: type[BaseModel] = type(case)
    here: Any = case
    field: FieldInfo | None = None
    for piece in PIECES.findall(path):
        if piece.startswith("["):
            here = here[int(piece[1:-1])]
            model = type(here)
            continue
        field = model.model_fields[piece]
        here = getattr(here, piece, None)
        inner = _bare(field.annotation)
        if isinstance(here, BaseModel):
            model = type(here)
        elif isinstance(inner, type) and issubclass(inner, BaseModel):
            model = inner
    if field is None:
        raise ValueError(f"{path} leads to no field")
    return field


def _bare(annotation: Any) -> Any:
    """Return a type without that it may be left out, and without its bounds."""
    if get_origin(annotation) in (Union, types.UnionType):
        told = [one for one in get_args(annotation) if one is not type(None)]
        return _bare(told[0])
    return annotation if get_origin(annotation) in (Literal, None) else _bare(get_args(annotation)[0])
