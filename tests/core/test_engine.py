"""What an engine remembers changes nothing: an assessment with a used one is that with a new one."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import fields, is_dataclass
from typing import Any

import numpy as np
import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st

from tests.core.session.test_edits import DEMO, EDITS, take_of
from verve.core.assess import Assessment, assess
from verve.core.engine import Engine, Remembered
from verve.core.errors import EditError
from verve.core.gain import all_changes, optimum
from verve.core.session import Change, History, Session, add_take, apply_changes, controls_of
from verve.core.sheets import assessment_data


def told(assessment: Assessment) -> dict[str, Any]:
    """Everything an assessment says, with every digit of every number."""
    return {
        "all": assessment_data(assessment),
        "findings": [
            (f.rule, f.line, f.severity, f.title, f.brief, f.cost, f.advice, f.size_db, f.remedy)
            for f in assessment.findings
        ],
        "next": assessment.next.sentence,
        "lines": [
            (
                item.line,
                item.state.peak_dbfs,
                item.state.input_peak_dbfs,
                item.noise_dbfs_a,
                None if item.state.levels is None else item.state.levels.headroom_db,
                None if item.state.levels is None else item.state.levels.noise_shares,
                item.is_alive,
                [(step.owner, step.name, dict(step.controls)) for step in item.route.steps],
            )
            for item in assessment.lines
        ],
        "gains": [(one.line, one.changes, one.words) for one in optimum(assessment.session)],
    }


@st.composite
def walks(draw: st.DrawFn) -> list[tuple[str, float]]:
    """A walk through edits, undo and redo."""
    steps = st.tuples(
        st.sampled_from(["undo", "undo", "redo", "gain", "gain", "all gains", *sorted(EDITS)]),
        st.floats(0.0, 1.0),
    )
    return draw(st.lists(steps, min_size=3, max_size=9))


def turned(session: Session, where: float) -> Session:
    """One of its ranges, somewhere else."""
    ranges = [
        control
        for device in session.setup.devices
        for control in controls_of(session.setup, device.id)
        if control.kind == "range"
    ]
    control = ranges[int(where * (len(ranges) - 1))]
    span = control.maximum - control.minimum
    value = control.clamped(control.minimum + ((where * 7.3) % 1.0) * span)
    change = Change(owner=control.owner, channel=control.channel, name=control.name, value=value)
    return apply_changes(session, (change,))


def walked(history: History, step: str, where: float) -> History:
    if step == "undo":
        return history.undo()
    if step == "redo":
        return history.redo()
    if step == "gain":
        return history.push("gain", turned(history.session, where))
    if step == "all gains":
        best = all_changes(optimum(history.session))
        return history.push("all", apply_changes(history.session, best))
    return history.push(step, EDITS[step](history.session))


@settings(max_examples=16, phases=(Phase.generate,))
@given(walks())
def test_a_used_engine_says_what_a_new_one_says(steps: list[tuple[str, float]]) -> None:
    used = Engine()
    history = History(add_take(DEMO, take_of(DEMO)))
    assess(history.session, used)
    for step, where in steps:
        try:
            history = walked(history, step, where)
        except EditError:
            continue
        # What is asked of an assessment later is worked out with the same engine: it is asked every time.
        assert told(assess(history.session, used)) == told(assess(history.session, Engine()))


def test_assessing_changes_nothing_it_was_given(demo: Session) -> None:
    before = demo.model_dump_json()
    engine = Engine()
    first = told(assess(demo, engine))
    assert demo.model_dump_json() == before
    assert told(assess(demo, engine)) == first


@pytest.mark.parametrize("name", ["sampled", "typed"])
def test_figures_of_the_same_worth_in_another_type_are_the_same(demo: Session, name: str) -> None:
    """20 and 20.0 are equal keys: whoever was first must not decide what the other gets."""
    engine = Engine()
    values: tuple[float, float] = (20, 20.0) if name == "typed" else (20.0, 20.5)
    for value in values:
        change = Change(owner="interface", channel="in.1", name="gain_db", value=value)
        session = apply_changes(demo, (change,))
        assert told(assess(session, engine)) == told(assess(session))


def finite(value: Any, seen: set[int]) -> None:
    """No figure in it is no number."""
    if id(value) in seen:
        return
    seen.add(id(value))
    if isinstance(value, float):
        assert not np.isnan(value)
    elif isinstance(value, np.ndarray):
        assert not np.isnan(value).any()
    elif isinstance(value, (tuple, list)):
        for item in value:
            finite(item, seen)
    elif is_dataclass(value) and not isinstance(value, type):
        for field in fields(value):
            if field.name not in {"memory", "engine"}:
                finite(getattr(value, field.name, None), seen)


def test_no_number_of_an_assessment_is_none(demo: Session) -> None:
    for item in assess(demo).lines:
        finite(item.state.levels, set())
        finite(item.state.reading, set())


class _Counting(Engine):
    """An engine that counts what it did not remember."""

    def __init__(self) -> None:
        super().__init__()
        self.made: dict[str, int] = {}

    def table(self, name: str, largest: int) -> Remembered[Any]:
        table: Remembered[Any] = super().table(name, largest)
        return _CountingTable(table, lambda: self._count(name))

    def _count(self, name: str) -> None:
        self.made[name] = self.made.get(name, 0) + 1


class _CountingTable(Remembered[Any]):
    def __init__(self, table: Remembered[Any], count: Callable[[], None]) -> None:
        self.__dict__ = table.__dict__
        self._count = count

    def keep(self, parts: tuple[object, ...], value: Any) -> Any:
        self._count()
        return super().keep(parts, value)

    def keep_equal(self, key: Hashable, value: Any) -> Any:
        self._count()
        return super().keep_equal(key, value)


def _made_by_a_gain_change(session: Session) -> dict[str, int]:
    engine = _Counting()
    gain = next(c for c in controls_of(session.setup, "interface") if c.name == "gain_db")
    for value in (gain.minimum + 7.0, gain.minimum + 8.0):
        engine.made.clear()
        change = Change(owner=gain.owner, channel=gain.channel, name=gain.name, value=value)
        assess(apply_changes(session, (change,)), engine)
    return engine.made


def test_a_gain_change_computes_no_more_once_takes_exist() -> None:
    with_takes = DEMO
    for number in range(1, 6):
        with_takes = add_take(with_takes, take_of(with_takes, number))
    alone = _made_by_a_gain_change(DEMO)
    assert alone["lines"] >= 1
    assert _made_by_a_gain_change(with_takes) == alone
