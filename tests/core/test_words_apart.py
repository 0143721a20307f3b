"""Sentences stand apart from logic, and what people type is never read as a template."""

from __future__ import annotations

import ast
import importlib
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import verve.core
from tests.core.gain.test_consistency import turned, turns
from verve.core.assess import assess
from verve.core.findings import RuleWords
from verve.core.words import fill, places_of

_CORE = Path(verve.core.__file__).parent
_JUDGES = (
    "patch", "power", "stage", "monitor", "takes", "diagnosis", "certificates", "explain", "connections",
    "needs", "sensitivity", "place",
)  # fmt: skip
_WORDS = [f"verve.core.{package}._words" for package in _JUDGES]


def _sentences(tree: ast.Module) -> Iterator[tuple[int, str]]:
    """Everything of three words or more that is neither a docstring nor part of a raised error."""
    apart: set[ast.AST] = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Raise):
            apart |= set(ast.walk(node))
        elif isinstance(node, ast.Expr):
            apart.add(node.value)
    for node in ast.walk(tree):
        if node in apart or not isinstance(node, ast.Constant) or not isinstance(node.value, str):
            continue
        words = [word for word in node.value.split() if any(c.isalpha() for c in word)]
        if len(words) >= 3:
            yield node.lineno, node.value


def _templates(module: str) -> Iterator[str]:
    for value in vars(importlib.import_module(module)).values():
        rows = value.values() if isinstance(value, dict) else [value]
        for row in rows:
            if isinstance(row, RuleWords):
                yield from (getattr(row, name) for name in row.__dataclass_fields__)
            elif isinstance(row, tuple):
                yield from (text for text in row if isinstance(text, str))
            elif isinstance(row, str) and not row.startswith("verve."):
                yield row


@pytest.mark.parametrize("package", _JUDGES)
def test_who_judges_writes_no_sentence(package: str) -> None:
    for path in sorted((_CORE / package).glob("*.py")):
        if path.name != "_words.py":
            found = list(_sentences(ast.parse(path.read_text(encoding="utf-8"))))
            assert not found, f"{path.name}: belongs into _words.py"


@pytest.mark.parametrize("module", [*_WORDS, "verve.core._assess_words"])
def test_every_place_can_be_written(module: str) -> None:
    for template in _templates(module):
        if not template or template == importlib.import_module(module).__doc__:
            continue
        given_: dict[str, object] = {}
        for name, spec in places_of(template):
            is_text = spec in {"", "a", "capital", "later"}
            given_[name] = "Harp" if is_text else ("Harp", "Viol") if spec == "list" else 3.25
        said = fill(template, given_)  # type: ignore[arg-type]
        assert "{" not in said


@given(name=st.text(max_size=20))
def test_what_people_type_goes_in_as_it_is(name: str) -> None:
    assert fill("{line}: {line} is far", line=name) == f"{name}: {name} is far"


@pytest.mark.parametrize(
    ("template", "value", "said"),
    [
        ("{x:+.1 dBFS}", -7.84, "−7.8 dBFS"),
        ("{x:.0 dB}", -0.2, "0 dB"),
        ("{x:g dB}", 6.5, "6.5 dB"),
        ("{x:.0%}", 0.476, "48%"),
        ("{x:ohm}", 1.5e6, "1.5 MΩ"),
        ("{x:n line}", 1, "1 line"),
        ("{x:n line|lines}", 3, "3 lines"),
        ("{x:list}", ("Voice", "Harp", "Viol"), "Voice, Harp and Viol"),
        ("{x:a} input", "instrument", "an instrument input"),
        ("{x:capital}", "turn it", "Turn it"),
        ("but {x:later}", "Turn it", "but turn it"),
    ],
)
def test_what_is_filled_in_is_written_in_one_place(
    template: str, value: str | float | tuple[str, ...], said: str
) -> None:
    assert fill(template, x=value) == said


@pytest.mark.parametrize(
    ("template", "value", "error"),
    [
        ("{x}", 1.5, TypeError),
        ("{x:.1 dB}", "much", TypeError),
        ("{x:list}", "one", TypeError),
        ("{x:.1f}", 1.5, ValueError),
        ("{y}", "one", KeyError),
    ],
)
def test_a_place_without_a_way_to_write_it_is_a_slip(
    template: str, value: str | float, error: type[Exception]
) -> None:
    with pytest.raises(error):
        fill(template, x=value)


@settings(max_examples=40)
@given(turns())
def test_every_finding_can_say_itself(drawn: tuple[str, list[float]]) -> None:
    for finding in assess(turned(drawn)).findings:
        said = (finding.title, finding.brief, finding.cost, finding.advice)
        assert all(said)
        assert not any("{" in text or "  " in text for text in (*said, finding.caution))
        assert finding.remedy is None or finding.remedy.label


@pytest.mark.parametrize("package", _JUDGES)
def test_whoever_fills_a_template_names_all_its_places(package: str) -> None:
    words = importlib.import_module(f"verve.core.{package}._words")
    for path in sorted((_CORE / package).glob("*.py")):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if not (isinstance(node, ast.Call) and ast.unparse(node.func) == "fill"):
                continue
            names = [
                one.attr
                for one in ast.walk(node.args[0])
                if isinstance(one, ast.Attribute) and ast.unparse(one.value) == "words"
            ]
            wanted = {
                place
                for name in names
                if isinstance(template := getattr(words, name), str)
                for place, _ in places_of(template)
            }
            assert wanted <= {one.arg for one in node.keywords}, f"{path.name}:{node.lineno}"
