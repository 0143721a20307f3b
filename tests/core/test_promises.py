"""What a rule says of itself holds: its scope, its step, and what its remedy promises."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.gain.test_consistency import turned, turns
from verve.core.assess import assess
from verve.core.demo import demo_session
from verve.core.errors import EditError
from verve.core.findings import RULES, Finding, RuleWords
from verve.core.session import Change, Session, apply_changes, controls_of

DEMO = demo_session()
CONTROLS = [
    control
    for owner in [*(s.id for s in DEMO.setup.sources), *(d.id for d in DEMO.setup.devices)]
    for control in controls_of(DEMO.setup, owner)
]


@st.composite
def handled(draw: st.DrawFn) -> list[tuple[int, float]]:
    """Some controls of the demo, each put somewhere."""
    one = st.tuples(st.integers(0, len(CONTROLS) - 1), st.floats(0.0, 1.0))
    return draw(st.lists(one, max_size=8))


def mishandled(moves: list[tuple[int, float]]) -> Session:
    """The demo session as somebody may have left it."""
    changes = []
    for number, where in moves:
        control = CONTROLS[number]
        value: float | str | bool | None
        if control.kind == "range":
            span = control.maximum - control.minimum
            value = control.clamped(control.minimum + where * span)
        elif control.choices:
            value = control.choices[int(where * (len(control.choices) - 1))]
        else:
            value = where > 0.5
        changes.append(
            Change(owner=control.owner, channel=control.channel, name=control.name, value=value)
        )
    session = DEMO
    for change in changes:
        try:
            session = apply_changes(session, (change,))
        except EditError:  # a choice that another one has taken away
            continue
    return session


def holds(session: Session, finding: Finding) -> None:
    """The remedy of a finding does what its rule promises, and stops nothing that was well."""
    rule, remedy = RULES[finding.rule], finding.remedy
    if rule.promise is None:
        assert remedy is None, f"{finding.rule} has a remedy and promises nothing"
        return
    if remedy is None:
        return
    after = assess(remedy.apply(session))
    lines = {finding.line, *finding.also_lines}
    left = [
        f
        for f in after.findings
        if f.rule == finding.rule and (f.line == finding.line or f.line in lines - {None})
    ]
    if rule.promise == "gone":
        assert [f for f in left if f.line == finding.line] == [], finding.rule
    else:
        assert all(f.size_db < finding.size_db + 1e-6 for f in left if f.line == finding.line)


def scope_holds(finding: Finding) -> None:
    rule = RULES[finding.rule]
    if rule.scope == "line":
        assert finding.line is not None
        assert finding.also_lines == ()
    elif rule.scope in {"pair", "bus", "input"}:
        assert finding.line is not None
        assert finding.also_lines


@settings(max_examples=25)
@given(handled())
def test_promises_hold_however_a_session_was_left(moves: list[tuple[int, float]]) -> None:
    session = mishandled(moves)
    for finding in assess(session).findings:
        scope_holds(finding)
        holds(session, finding)


@settings(max_examples=10)
@given(turns())
def test_promises_hold_wherever_the_gains_stand(drawn: tuple[str, list[float]]) -> None:
    session = turned(drawn)
    for finding in assess(session).findings:
        holds(session, finding)


def test_no_finding_is_made_of_no_rule_or_graver_than_its_rule() -> None:
    with pytest.raises(KeyError):
        Finding(rule="x", severity="stop", line=None, words=RuleWords(title="", brief="", cost=""))
    with pytest.raises(ValueError, match="never"):
        Finding(
            rule="bass_thin",
            severity="stop",
            line=None,
            words=RuleWords(title="", brief="", cost=""),
        )
