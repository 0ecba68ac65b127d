"""Worked cases: each comes out as its authority has it, and one that does not is told."""

import itertools
import json
import os
import re
from collections.abc import Iterator, Sequence
from functools import cache
from pathlib import Path
from typing import Any

import pytest
from pydantic import TypeAdapter

from mallet.cli import main
from mallet.rulebook.steps import steps_catalog
from mallet.terms.errors import InputError
from mallet.terms.plan import NoPlan, Plan, Step
from mallet.worked import STRENGTH, alarms_of, judge, read_worked, with_changes
from tests.core.golden import GOLDEN, WORKED, golden_of
from tests.core.planned import plan
from tests.core.words import old_words

EXAMPLES = Path(__file__).parents[2] / "examples"


# Where workers find what another has planned; none, where there is one.
SHARED: list[Path] = []
PLANS = TypeAdapter(Plan | NoPlan)


@pytest.fixture(scope="module", autouse=True)
def shared_folder(tmp_path_factory: pytest.TempPathFactory) -> Iterator[None]:
    if "PYTEST_XDIST_WORKER" in os.environ:
        SHARED.append(tmp_path_factory.getbasetemp().parent)
    yield
    SHARED.clear()


def planned(path: Path) -> Plan | NoPlan:
    """Return a worked case's plan, made once for all that is held against it."""
    return _planned(path)[0]


def said(path: Path) -> dict[str, list[Any]]:
    """Return what `golden.json` keeps of a worked case's plan and drawing."""
    return _planned(path)[1]


@cache
def _planned(path: Path) -> tuple[Plan | NoPlan, dict[str, list[Any]]]:
    kept = [folder / f"worked-{path.stem}.json" for folder in SHARED]
    for file in kept:
        if file.exists():
            told = json.loads(file.read_text())
            return PLANS.validate_json(told["plan"]), told["said"]
    made = plan(read_worked(path)[1])
    # Told while the plan's solids are at hand.
    told = golden_of(path)
    for file in kept:
        # Whole or not at all, whoever else reads it.
        whole = file.with_suffix(f".{os.getpid()}")
        whole.write_text(json.dumps({"plan": made.model_dump_json(by_alias=True), "said": told}))
        whole.rename(file)
    return made, told


@pytest.mark.parametrize("path", WORKED, ids=lambda path: path.stem)
def test_a_worked_case_comes_out_as_expected(path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("mallet.worked.plan", lambda case: planned(path))
    verdict = judge(path)
    assert verdict.authority
    assert verdict.otherwise == ()


@pytest.mark.parametrize("path", WORKED, ids=lambda path: path.stem)
def test_no_answer_has_moved(path: Path) -> None:
    """By `golden.json`: where an answer is meant to change, `make golden` writes it anew."""
    planned(path)
    golden = json.loads(GOLDEN.read_text())[path.stem]
    assert said(path).keys() == golden.keys()
    for part, (words, count, *sums) in said(path).items():
        assert (words, count) == tuple(golden[part][:2]), part
        assert sums == pytest.approx(golden[part][2:], abs=0.02), part


@pytest.mark.parametrize("path", WORKED, ids=lambda path: path.stem)
def test_a_plan_speaks_in_the_field_s_words(path: Path) -> None:
    """What is put together from several texts, and what is said in one word, `test_words.py` does not find."""
    texts = list(_texts(json.loads(planned(path).model_dump_json(by_alias=True))))
    assert texts
    assert [text for text in texts if list(old_words(text))] == []


def _texts(said: Any) -> Iterator[str]:
    """Yield what can be read of a plan: all but the names of steps, rules and codes."""
    if isinstance(said, dict):
        for key, value in said.items():
            if key not in ("id", "code", "kind", "rule", "school", "source", "topic"):
                yield from _texts(value)
    elif isinstance(said, list):
        for value in said:
            yield from _texts(value)
    elif isinstance(said, str) and not re.fullmatch(r"[a-z_0-9]+([.\[][a-z_0-9.\[\]]+)+", said):
        yield said


# What goes in and comes out again: the step that places it, the step that takes it off, what that one must say.
PLACED = {
    r"isolate\.dam": (r"isolate\.dam_off", "dam"),
    r"isolate\.rolls": (r"isolate\.rolls_off", "rolls and retractor"),
    r"isolate\.steady": (r"isolate\.steady_off", "separator|clamp"),
    r"matrix\.(mesial|distal)\.band": (r"matrix\.\1\.off", "band"),
    r"matrix\.(?:round|copper)\.band": (r"matrix\.(round|copper)\.off|matrix\.copper_off", "band"),
    r"matrix\.(mesial|distal)\.wedge": (r"matrix\.(\1|round|copper)\.off|matrix\.wedges_out", "wedges? out"),
    r"matrix\.(mesial|distal)\.tie": (r"matrix\.(\1|round|copper)\.off|matrix\.wedges_out", "ligature off"),
    r"matrix\.\w+\.backed": (r"matrix\.strips_off", "strips"),
    r"matrix\.form\.seal": (r"matrix\.form\.off", "form"),
    r"matrix\.front\.index": (r"matrix\.front\.index_off", "index"),
    r"matrix\.front\.strip": (r"matrix\.front\.change", "strip out"),
    r"matrix\.front\.change": (r"matrix\.front\.off", "wedge out, strip"),
    r"matrix\.neck\.cord": (r"matrix\.neck\.cord_off", "cord"),
    r"matrix\.neck\.strip": (r"matrix\.neck\.strip_off", "strip"),
    r"matrix\.neck\.seal": (r"matrix\.neck\.strip_off", "cotton and fixing resin off"),
}
# What is only looked at, shaped or taken off in these stages.
PASSING = (
    r".*\.(seal|off|index_off|cord_off|strip_off|trim|bite|smooth|anneal|bevel)|matrix\.(strips_off|wedges_out)|.*_off"
    r"|isolate\.(numb|old_amalgam)"
)


@pytest.mark.parametrize("path", WORKED, ids=lambda path: path.stem)
def test_nothing_that_is_placed_stays_in_the_mouth(path: Path) -> None:
    """Whatever holds, shapes or keeps dry comes off again, said by its kind, before the last look, and before trimming
    what it lies on; a core's band at a visit of its own."""
    made = planned(path)
    if not isinstance(made, Plan):
        return
    steps = [*made.steps, *(step for visit in made.later for step in visit.steps)]
    for i, step in enumerate(steps):
        if step.stage not in ("isolate", "matrix"):
            continue
        fits = [(kind, off) for kind, off in PLACED.items() if re.fullmatch(kind, step.id)]
        assert fits or re.fullmatch(PASSING, step.id), f"{step.id}: is it taken off?"
        for kind, (off, says) in fits:
            wanted = re.fullmatch(kind, step.id).expand(off) if "\\1" in off else off  # type: ignore[union-attr]
            after = [(j, one) for j, one in enumerate(steps[i:], i) if re.fullmatch(wanted, one.id)]
            assert len(after) == 1, f"{step.id}: {wanted}"
            ((at, taken),) = after
            assert re.search(says, f"{taken.title}. {taken.detail}", re.IGNORECASE), (step.id, taken.detail)
            # The field is given up last, and what holds a band that stays; all else is off before flash is taken.
            is_last = step.stage == "isolate" or taken.id == "matrix.wedges_out"
            before = "finish.verify" if is_last else "finish.trim"
            places = [j for j, one in enumerate(steps) if one.id == before]
            is_at_second_visit = at >= len(made.steps)
            assert is_at_second_visit or all(at < j for j in places), (taken.id, before)


def test_nearly_every_step_of_the_catalogue_is_worked() -> None:
    """What no worked case does has tests of its own."""
    plans = [made for path in WORKED if isinstance(made := planned(path), Plan)]
    ids = {step.id for made in plans for step in [*made.steps, *(s for one in made.later for s in one.steps)]}
    known = {name: re.sub(r"\\{\w+\\}", ".*", re.escape(row.id)) for name, row in steps_catalog().items()}
    idle = {name for name, id in known.items() if not any(re.fullmatch(id, one) for one in ids)}
    assert idle == {"sealant.adhesive"}


def test_no_temperature_is_shown_that_nobody_can_act_on() -> None:
    for path in WORKED:
        made = planned(path)
        for check in made.checks if isinstance(made, Plan) else []:
            assert check.topic != "pulp.warmth" or check.measured < 15, (path.stem, check.title)


def test_thirty_ordinary_cavities_hardly_raise_an_alarm() -> None:
    alarms = {}
    for path in (path for path in WORKED if path.stem.startswith("ordinary_")):
        made, name = planned(path), path.stem
        assert isinstance(made, Plan), name
        alarms[name] = alarms_of(made)
        assert not [a for a in alarms[name] if " fail:" in a], name
        lit = [step.seconds for step in made.steps if step.id.startswith("bond.cure")]
        assert sum(lit) <= 20, name
    assert len(alarms) == 30
    strength = [name for name, found in alarms.items() if any(a.startswith(STRENGTH) for a in found)]
    warm = [name for name, found in alarms.items() if any(a.startswith("pulp.warmth") for a in found)]
    assert len(strength) <= 2, strength
    assert len(warm) <= 4, warm


def test_what_is_told_of_the_film_s_light_adds_up_over_one_exposure_and_over_halves() -> None:
    lit = set()
    for path in WORKED:
        made = planned(path)
        for gel in (c for c in made.checks if c.topic == "bond.gel") if isinstance(made, Plan) else []:
            told = re.search(r": (\d+) mW/cm²(?: on average)? for ([\d.]+) s$", gel.where)
            assert told, path.stem
            got = float(told[1]) * float(told[2]) / 1000
            assert got == pytest.approx(gel.measured, abs=0.006 * float(told[2])), path.stem
            lit.add(sum(step.id.startswith("bond.cure") for step in made.steps))
    assert {1, 2} <= lit


def test_no_portion_lies_open_for_longer_than_it_may() -> None:
    """Nor while the one before it is lit over two halves, or in turns."""
    for path in WORKED:
        made = planned(path)
        late = (
            [c.topic for c in made.checks if c.topic.startswith("window.build.")]
            if isinstance(made, Plan)
            else []
        )
        assert not late, path.stem


def test_fifteen_are_there_that_must_alarm() -> None:
    """Each states what must be raised; the worked cases' own test holds it to that."""
    assert len([path for path in WORKED if path.stem.startswith("alarm_")]) == 15


# What is put in or round the tooth, and what takes it off again.
PUT = {
    "isolate.dam": ["isolate.dam_off"],
    "isolate.rolls": ["isolate.rolls_off"],
    "matrix.mesial.band": ["matrix.mesial.off"],
    "matrix.distal.band": ["matrix.distal.off"],
    "matrix.round.band": ["matrix.round.off"],
    "matrix.copper.band": ["matrix.copper.off"],
    "matrix.front.strip": ["matrix.front.change"],
    "matrix.front.change": ["matrix.front.off"],
    "matrix.front.index": ["matrix.front.index_off"],
    "matrix.neck.strip": ["matrix.neck.strip_off"],
    "matrix.neck.cord": ["matrix.neck.cord_off"],
    "matrix.form.seal": ["matrix.form.off"],
}


@pytest.mark.parametrize("path", WORKED, ids=lambda path: path.stem)
def test_nothing_is_left_in_the_mouth_and_every_order_holds(path: Path) -> None:
    made = planned(path)
    if not isinstance(made, Plan):
        return
    for visit in (made.steps, *(later.steps for later in made.later)):
        last = next(step for step in reversed(visit) if step.actor != "assistant")
        assert last.check is None, "finishing a run answers no question"
    steps = made.steps
    by_id = {step.id: step for step in steps}
    trim = by_id.get("finish.trim", by_id.get("finish.probe")).start_s
    for put, offs in PUT.items():
        if put not in by_id:
            assert not [off for off in offs if off in by_id and put != "matrix.front.change"], put
            continue
        if put == "matrix.copper.band" and "finish.second_visit" in {d.topic for d in made.decisions}:
            # Under amalgam it stays on until then.
            offs = []
        for off in offs:
            assert by_id[put].end_s <= by_id[off].start_s, off
            if off.startswith("matrix."):
                assert by_id[off].end_s <= trim, off
    taken = " ".join(step.detail for step in steps if step.id.endswith(".off")).lower()
    has_ring = any("ring" in step.tray for step in steps if step.id.endswith(".wedge"))
    assert ("ring off" in taken) == has_ring
    if contact := by_id.get("finish.contact"):
        assert all(s.end_s <= contact.start_s for s in steps if s.id.startswith("matrix."))
    check_order(steps)
    kinds = {part.kind for part in read_worked(path)[1].preparation.parts}
    if kinds & {
        "incisal_fracture",
        "proximal_cavity",
        "saucer_lesion",
        "wedge_lesion",
        "pit",
        "strip_crown_preparation",
    }:
        assert not [s.id for s in steps if re.search(r"\bcusps?\b", s.detail.lower())], (
            "a molar's words on another tooth"
        )


def check_order(steps: Sequence[Step]) -> None:
    """Hold every step against its constraints, by nothing but their times: after, within, and no hand in two places."""
    by_id = {step.id: step for step in steps}
    assert len(by_id) == len(steps)
    for step in steps:
        assert step.end_s == pytest.approx(step.start_s + step.seconds)
        for before in step.after:
            assert by_id[before].end_s <= step.start_s + 1e-9, (step.id, before)
        for window in step.within:
            assert window.step in by_id
        for wait in step.no_sooner:
            assert by_id[wait.step].end_s + wait.seconds <= step.start_s + 1e-9
    for hand in ("dentist", "assistant"):
        spans = sorted((s.start_s, s.end_s, s.id) for s in steps if s.actor in (hand, "both") and s.seconds)
        for (_, end, one), (start, _, other) in itertools.pairwise(spans):
            assert end <= start + 1e-9, (hand, one, other)
    first_cut = min(s.start_s for s in steps if s.stage == "prepare")
    # What stays in enamel is not numbed.
    numbed = by_id.get("isolate.numb", by_id["assess.history"])
    assert by_id["assess.history"].end_s <= max(numbed.start_s, by_id["assess.history"].end_s) <= first_cut
    # What lies under composite is cured before that is bonded.
    sets = [
        s
        for s in steps
        if (s.light or s.role == "set" or s.rhythm) and s.increment and "sandwich" not in s.id
    ]
    assert max(s.end_s for s in steps if s.stage == "bond") <= min(s.start_s for s in sets)


def wrong(tmp_path: Path, *expects: dict[str, Any], **changes: Any) -> Path:
    (tmp_path / "base.json").write_text((EXAMPLES / "lower_first_molar_mo.json").read_text())
    data = {
        "format": "mallet-worked/1", "title": "t", "authority": "a", "base": "base.json",
        "changes": changes, "expects": list(expects),
    }  # fmt: skip
    folder = tmp_path / "worked"
    folder.mkdir(exist_ok=True)
    path = folder / "wrong.json"
    path.write_text(json.dumps({**data, "base": "../base.json"}))
    return path


@pytest.mark.parametrize(
    ("expected", "told"),
    [
        ({"refused": "choose.stopped"}, "expected no plan for choose.stopped, got one"),
        ({"caution": "alert.latex"}, "expected the caution alert.latex"),
        ({"step": "bond.etch_enamel", "seconds": 45}, "expected bond.etch_enamel to take 45 s, got 15"),
        ({"step": "bond.etch_dentin"}, "expected the step bond.etch_dentin"),
        ({"step": "bond.rinse", "says": "oil"}, "expected bond.rinse to say 'oil', got 'Water and"),
        ({"no_step": "bond.rinse"}, "expected no step bond.rinse"),
        ({"decision": "choose.material", "first": "amalgam"}, "expected amalgam first, got composite"),
        ({"decision": "choose.material", "stopped": ["amalgam"]}, "expected amalgam to be stopped"),
        ({"decision": "choose.material", "not_stopped": ["sealant"]}, "expected sealant not to be stopped"),
        ({"decision": "matrix.mesial", "chosen": "clear"}, "expected clear, got sectional"),
        ({"decision": "matrix.distal"}, "expected a decision on matrix.distal"),
    ],
)
def test_what_comes_otherwise_is_told(
    expected: dict[str, Any],
    told: str,
    tmp_path: Path,
    capsys: pytest.CaptureFixture[str],
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr("mallet.worked.plan", plan)
    path = wrong(tmp_path, expected)
    (said,) = judge(path).otherwise
    assert said.startswith(told)
    assert main(["examples", str(path.parent)]) == 1
    assert told in capsys.readouterr().out


def test_a_plan_that_is_refused_unasked_is_told_and_a_bad_file_named(tmp_path: Path) -> None:
    path = wrong(tmp_path, {"caution": "alert.latex"}, **{"findings.field": "wet"})
    assert judge(path).otherwise == ("expected a plan, got no plan: choose.stopped",)
    path.write_text(json.dumps({"format": "mallet-worked/1", "title": "t"}))
    with pytest.raises(InputError, match="authority: got nothing"):
        judge(path)
    assert main(["examples", str(tmp_path / "nowhere")]) == 2


def test_changes_go_in_by_path() -> None:
    case = {"preparation": {"parts": [{"height_mm": 1}]}}
    changed = with_changes(
        case, {"preparation.parts[0].height_mm": 2, "patient.age_years": 9, "house.bond.rinse_s": 5}
    )
    assert changed == {
        "preparation": {"parts": [{"height_mm": 2}]}, "patient": {"age_years": 9}, "house": {"bond.rinse_s": 5},
    }  # fmt: skip
    assert case == {"preparation": {"parts": [{"height_mm": 1}]}}
