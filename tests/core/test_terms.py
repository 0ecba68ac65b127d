"""The words: canonical JSON, paths, problems, and the catalogue of sentences."""

import ast
import json
import math
import re
import string
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

import mallet
from mallet.terms.canonical import canonical_json, quantised, sha256_of
from mallet.terms.case import Case, get_path, read_case
from mallet.terms.errors import InputError, NotFeasible, shown
from mallet.terms.reasons import TEXTS, refuse, say, warn
from mallet.terms.upgrade import KEYS, upgrade_case
from tests.core.conftest import first_case, with_values

JSON = st.recursive(
    st.none() | st.booleans() | st.integers(-9999, 9999) | st.floats(-1e6, 1e6) | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=6), inner, max_size=4),
    max_leaves=12,
)


@given(value=JSON)
def test_canonical_json_does_not_depend_on_order_and_reads_back(value: Any) -> None:
    text = canonical_json({"a": value, "b": 1})
    assert text == canonical_json({"b": 1, "a": value})
    assert json.loads(text)["a"] == quantised(value)
    assert canonical_json(json.loads(text)) == text
    assert len(sha256_of(value)) == 64


@pytest.mark.parametrize("value", [math.nan, math.inf, -math.inf, [1.0, {"deep": math.nan}]])
def test_what_is_no_number_is_refused(value: Any) -> None:
    with pytest.raises(ValueError, match="no NaN"):
        canonical_json(value)


def test_numbers_are_quantised_and_zero_has_no_sign() -> None:
    assert canonical_json([0.1 + 0.2, -1e-9, 2 / 3]) == "[0.3,0.0,0.666667]"


@pytest.mark.parametrize(
    ("value", "text"),
    [
        (-1.0, "-1"),
        ("a", "'a'"),
        (4.25, "4.25"),
        ("x" * 99, "'" + "x" * 56 + "..."),
        ({"k": [1]}, "{'k': [1]}"),
    ],
)
def test_values_are_shown_as_written_and_cut_short(value: object, text: str) -> None:
    assert shown(value) == text
    assert len(shown(value)) <= 60


def test_paths_read_what_they_name() -> None:
    case = read_case(first_case())
    assert get_path(case, "preparation.parts[1].height_mm") == 5.0
    assert get_path(case, "restoration.light.readings[2].irradiance_mw_cm2") == 390
    assert get_path(case, "restoration.composites[0].name") == "demo body"
    for wrong in (
        "preparation.parts[9].height_mm",
        "preparation.parts[0].height_mm",
        "nothing",
        "restoration.composites[x]",
    ):
        with pytest.raises(InputError, match="the path of a value in the case"):
            get_path(case, wrong)


def test_a_case_is_read_and_written_without_loss() -> None:
    case = read_case(first_case())
    again = read_case(json.loads(case.model_dump_json(exclude_unset=True)))
    assert again == case
    assert again.model_dump(exclude_unset=True, mode="json") == upgrade_case(first_case())


def test_provenance_defaults_to_measured() -> None:
    case = read_case(first_case())
    assert case.provenance_of("preparation.parts[1].height_mm") == "estimated"
    assert case.provenance_of("preparation.parts[1].width_mm") == "measured"
    with pytest.raises(InputError, match=r"provenance.x: got 'guessed', allowed 'measured', 'estimated'"):
        read_case(with_values(first_case(), provenance={"x": "guessed"}))


SHAPES_OF_TROUBLE: list[tuple[dict[str, Any], str]] = [
    ({"light": None}, "light: got None, allowed an object"),
    ({"masses": []}, "masses: got [], allowed a list of at least 1"),
    ({"masses": "body"}, "masses: got 'body', allowed a list"),
    (
        {"format": "mallet-case/9"},
        "format: got 'mallet-case/9', allowed 'mallet-case/2', or 'mallet-case/1' of before",
    ),
    (
        {"house": {"light.conversion_factor": "two"}},
        "house.light.conversion_factor: got 'two', allowed a number",
    ),
    (
        {"preparation": {"parts": [{"kind": "burrow"}]}},
        "preparation.parts[0]: got {'kind': 'burrow'}, allowed a kind",
    ),
    ({"preparation": {"parts": [{"depth_mm": 1}]}}, "allowed a part with the key 'kind'"),
    (
        {"school": {"layering": "diagonal"}},
        "school.layering: got 'diagonal', allowed 'horizontal', 'oblique'",
    ),
    (
        {"neighbours": {"mesial": {"rotated": "very"}}},
        "neighbours.mesial.rotated: got 'very', allowed true or",
    ),
    (
        {"light": {**first_case()["light"], "time_steps_s": [0]}},
        "light.time_steps_s[0]: got 0, allowed more than 0",
    ),
    (
        {
            "light": {
                **first_case()["light"],
                "readings": [{"distance_mm": 0, "irradiance_mw_cm2": 9, "taken_at": "x"}],
            }
        },
        "light.readings[0].taken_at: got 'x', allowed a date such as",
    ),
]


@pytest.mark.parametrize(("change", "line"), SHAPES_OF_TROUBLE, ids=[c[1][:40] for c in SHAPES_OF_TROUBLE])
def test_every_kind_of_trouble_reads_as_path_given_allowed(change: dict[str, Any], line: str) -> None:
    with pytest.raises(InputError) as caught:
        read_case({**first_case(), **change})
    assert line in str(caught.value)


# What begins a path of today, or of an older case.
KNOWN = {*Case.model_fields, *(re.split(r"[.\[]", old)[0] for old, _ in KEYS)}


@given(key=st.text(string.ascii_lowercase, min_size=3, max_size=8).filter(lambda key: key not in KNOWN))
def test_an_unknown_key_is_named_with_those_that_are_known(key: str) -> None:
    with pytest.raises(InputError) as caught:
        read_case({**first_case(), key: 1})
    (problem,) = caught.value.problems
    assert problem.path == key
    assert "masses" in problem.allowed


def _words(code: ast.expr) -> set[str]:
    """Return the codes that an argument may be: one, or either of a choice."""
    either = (code.body, code.orelse) if isinstance(code, ast.IfExp) else (code,)
    return {one.value for one in either if isinstance(one, ast.Constant)}


class TestCatalogue:
    """One place for every sentence, each with a code that stays."""

    def test_every_code_is_said_somewhere_and_every_saying_has_a_code(self) -> None:
        said = set()
        for path in Path(mallet.__file__).parent.rglob("*.py"):
            for call in ast.walk(ast.parse(path.read_text())):
                if isinstance(call, ast.Call) and isinstance(call.func, ast.Name):
                    place = {"say": 0, "refuse": 0, "warn": 1, "warn_by": 1}.get(call.func.id)
                    said |= _words(call.args[place]) if place is not None else set()
        assert said == set(TEXTS)

    @pytest.mark.parametrize("code", sorted(TEXTS))
    def test_sentences_render_from_their_parameters(self, code: str) -> None:
        fields = [(name, spec) for _, name, spec, _ in string.Formatter().parse(TEXTS[code]) if name]
        params = {name: 1.5 if spec else "X" for name, spec in fields}
        reason = say(code, **params)
        assert reason.code == code
        assert reason.params == params
        assert "{" not in reason.text
        assert reason.text[0].isupper() or reason.text[0].isdigit()
        assert reason.text.endswith(".")
        caution = warn("note", code, "someone", **params)
        assert (caution.text, caution.authority) == (reason.text, "someone")

    def test_a_refusal_bears_code_text_and_what_would_do(self) -> None:
        refusal = refuse("light.too_weak", {"light.output_mw_cm2": 233.0}, given=100.0, needed=233.0)
        assert isinstance(refusal, NotFeasible)
        assert refusal.code == "light.too_weak"
        assert refusal.nearest == {"light.output_mw_cm2": 233.0}
        assert "100 mW/cm²" in refusal.text

    def test_an_unknown_code_is_a_fault(self) -> None:
        with pytest.raises(KeyError):
            say("nothing.such")
