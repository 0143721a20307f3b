"""Look before you leap: what is offered mends, harms nothing, and leads nowhere twice."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from prove.advice import offered
from prove.advice import pressed as pressed_many
from prove.sessions import session_of

from tests.conftest import findings_of
from tests.core.test_rules import Put
from tests.wiring import wired
from verve import cli
from verve.core.assess import assess
from verve.core.catalogue import add_chain, between, catalogue
from verve.core.connections import fits, recabled_beside
from verve.core.connections._cables import Run
from verve.core.demo import demo_session
from verve.core.findings import Finding, RuleWords
from verve.core.pressing import pressed
from verve.core.session import (
    Change,
    Placement,
    Session,
    apply_changes,
    controls_of,
    insert_device,
    load,
    routes,
    save,
    set_placement,
    take_out_device,
)
from verve.core.trial import HARMS, disorder, objection

WORDS = RuleWords(title="t", brief="b", cost="c", advice="a", button="press")


def finding(rule: str, severity: str = "mend", line: str = "x", size_db: float = 0.0) -> Finding:
    return Finding(rule=rule, severity=severity, line=line, words=WORDS, size_db=size_db)  # type: ignore[arg-type]


def chain(name: str) -> tuple[Session, str]:
    """A whole chain of the catalogue by itself."""
    entries = catalogue()
    return add_chain(Session(), entries, next(c for c in entries.chains if c.id == name))


# ── the order ─────────────────────────────────────────────────────────────────────────────────
def test_disorder_is_compared_from_harm_to_what_is_left_undone() -> None:
    rows = [
        [],
        [finding("needless_pad", "know")],
        [finding("noisy", size_db=1.0)],
        [finding("noisy", size_db=6.0), finding("needless_pad", "know")],
        [finding("noisy", size_db=6.0), finding("below_window", line="y", size_db=0.4)],
        [finding("clips", "stop", size_db=0.1)],
        [finding("phantom_harms", "stop")],
    ]
    found = [disorder(row) for row in rows]
    assert found == sorted(found)
    assert len(set(found)) == len(found)


@given(st.integers(0, 400))
@settings(max_examples=30, deadline=None)
def test_disorder_is_whole_and_never_negative(number: int) -> None:
    assert all(isinstance(n, int) and n >= 0 for n in disorder(assess(session_of(number)).findings))


def test_what_speaks_against_a_remedy() -> None:
    low = finding("below_window", size_db=6.0)
    less = finding("below_window", size_db=2.0)
    clips = finding("clips", "stop")
    harm = finding("phantom_harms", "stop", line="y")
    assert objection(low, [low], []) is None
    assert objection(low, [low], [less]) is None
    assert objection(low, [low], [low]) is low
    assert objection(low, [low], [clips]) is clips
    assert objection(low, [low], [less, harm]) is harm
    mode = finding("wrong_mode")
    assert objection(mode, [mode], [mode]) is mode
    # What a broken line hid was there before.
    assert objection(mode, [mode], [less]) is None
    assert objection(mode, [mode], [finding("below_window", line="y")]) is not None


# ── pressing ──────────────────────────────────────────────────────────────────────────────────
def test_pressing_ends_harms_nothing_and_breaks_nothing() -> None:
    """A small sample of `./run prove --advice`."""
    tally = pressed_many(60, 1)
    assert tally.faults == []
    assert tally.outcomes["nothing left"] > 20
    assert offered(25, 500).faults == []


@pytest.mark.parametrize("name", ["instrument_pair", "keyboard_stereo"])
def test_a_pair_of_which_one_side_is_otherwise_comes_to_an_end(name: str) -> None:
    session, _ = chain(name)
    ready = pressed(session).session
    side = routes(ready.setup)[1]
    owners = {side.source.id} - {routes(ready.setup)[0].source.id}
    own = [c for owner in owners for c in controls_of(ready.setup, owner)]
    own += [c for step in side.steps for c in step.controls.values()]
    turned = [c for c in own if c.kind == "range"]
    assert len(turned) >= 2
    for control in turned:
        for value in (control.minimum, control.maximum):
            change = Change(
                owner=control.owner, channel=control.channel, name=control.name, value=value
            )
            end = pressed(apply_changes(ready, (change,)))
            assert end.reason in {"nothing left", "by hand"}, (control.name, value)


def test_the_other_distance_of_a_side_is_named_and_may_be_meant(put: Put) -> None:
    session, _ = chain("instrument_pair")
    session = pressed(session).session
    second = [d.id for d in session.setup.devices if d.figures.group == "microphone"][1]
    session = put(session, second, "capsule", "distance_m", 1.5)
    (found,) = findings_of(assess(session), "pair_unequal")
    assert found.severity == "know"
    assert found.remedy is None
    assert "1.5 m" in found.advice or "150 cm" in found.advice
    assert "If that is meant, leave it" in found.advice


def test_other_gear_on_one_side_is_named() -> None:
    found = [
        f
        for number in (3, 62, 103)
        for f in assess(session_of(number)).findings
        if f.rule == "pair_unequal"
    ]
    assert all("gains are alike" not in f.advice for f in found)


# ── putting in, taking out ────────────────────────────────────────────────────────────────────
@pytest.mark.parametrize("name", ["pickup_direct", "keyboard_stereo", "voice_condenser"])
def test_a_box_put_in_gets_cables_that_fit_and_taking_it_out_too(name: str) -> None:
    before, _ = chain(name)
    cable = next(link for link in before.setup.links if link.cable is not None)
    for box in between(catalogue(), ()):
        put_in = insert_device(before, cable.id, box.figures, box.name, box.out_port)  # type: ignore[arg-type]
        session = recabled_beside(put_in, before)
        _all_fit(session)
        out = take_out_device(session, session.setup.devices[-1].id)
        _all_fit(recabled_beside(out, session))


def _all_fit(session: Session) -> None:
    for route in routes(session.setup):
        figures = route.source.figures
        for step in route.steps:
            start, end = figures.output_plug(), step.figures.input_plug(step.mode)
            figures = step.figures  # type: ignore[assignment]
            cable = step.link.cable
            if cable is not None and start is not None and end is not None:
                run = Run(id="x", name="x", start=start, end=end, least_m=0.2)
                assert fits(cable, run), (step.name, cable.plugs, start, end)


# ── phantom power ─────────────────────────────────────────────────────────────────────────────
def test_phantom_power_is_not_sent_into_a_mixer_for_a_microphone_behind_it() -> None:
    session = wired(
        {"voice": "voice_singing"},
        {"mic": "condenser_large", "mixer": "small_mixer", "io": "interface_two"},
        [
            "voice:out > mic:capsule",
            "mic:out > mixer:in.1",
            "mixer:main.left > io:in.1",
            "mixer:main.right > io:in.2",
        ],
        settings={"io:in.1": {"mode": "line"}, "io:in.2": {"mode": "line"}},
    )
    assessment = assess(session)
    assert findings_of(assessment, "phantom_missing") == []
    (blocked,) = findings_of(assessment, "phantom_blocked")
    assert blocked.remedy is None
    assert "Mixer" in blocked.advice
    end = pressed(session)
    assert end.reason == "by hand"
    assert all(p.harms_after == 0 for p in end.presses)


def test_a_button_that_would_harm_is_not_there() -> None:
    """The shared switch feeds a ribbon too: what it would lead to is said instead."""
    harmful = [
        (n, f)
        for n in (461, 785)
        for f in assess(session_of(n)).findings
        if f.rule in {"phantom_missing", "wrong_mode"} and f.remedy is not None
    ]
    for number, offered_one in harmful:
        assert offered_one.remedy is not None
        after = assess(offered_one.remedy.apply(session_of(number)))
        assert not [f for f in after.findings if f.rule in HARMS]


# ── the command ───────────────────────────────────────────────────────────────────────────────
def test_the_command_presses_and_writes(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    demo, mended = tmp_path / "demo.verve.json", tmp_path / "mended.verve.json"
    save(demo_session(), demo)
    assert cli.main(["next", str(demo), "--json"]) == 0
    row = json.loads(capsys.readouterr().out)
    assert row["rule"] == "phantom_missing"
    assert row["edits"] == [
        {"owner": "interface", "channel": "phantom.1", "control": "phantom", "value": True}
    ]
    assert cli.main(["next", str(demo), "--all", "--json", "-o", str(mended)]) == 0
    rows = [json.loads(line) for line in capsys.readouterr().out.splitlines()]
    assert rows[-1]["done"] is True
    assert rows[-1]["reason"] == "nothing left"
    assert [row["stops_after"] <= row["stops_before"] for row in rows[:-1]] == [True] * 8
    assert all(row["harms_after"] == 0 for row in rows[:-1])
    assert not assess(load(mended)).stops
    assert cli.main(["next", str(demo), "-o", str(mended)]) == 2
    assert "--force" in capsys.readouterr().err
    assert cli.main(["next", str(demo), "--apply", "--json"]) == 0
    once = [json.loads(line) for line in capsys.readouterr().out.splitlines()]
    assert len(once) == 2
    assert once[-1]["reason"] == "limit"
    assert cli.main(["next", str(mended)]) == 0
    assert "Record a test take" in capsys.readouterr().out


def test_what_does_not_pass_says_what_to_do_by_hand() -> None:
    """A pair with other gear and another distance: no gain mends it, and the sentence names both."""
    end = pressed(set_placement(session_of(106), Placement()))
    assert end.reason == "by hand"
    assert "set both sides alike" in end.sentence
    assert "turn the preamp" not in end.sentence


def test_gains_and_sheets_from_the_command_line(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    demo, out = tmp_path / "demo.verve.json", tmp_path / "out.verve.json"
    save(demo_session(), demo)
    assert cli.main(["gains", str(demo), "--json", "-o", str(out)]) == 0
    data = json.loads(capsys.readouterr().out)
    assert {"owner": "interface", "channel": "in.1", "control": "gain_db", "value": 12.0} in data[
        "edits"
    ]
    assert all(row["reasons"] for row in data["lines"])
    assert not [f for f in assess(load(out)).findings if f.rule == "clips"]
    assert cli.main(["gains", str(demo)]) == 0
    assert "Voice: " in capsys.readouterr().out
    assert cli.main(["sheet", str(demo), "--json"]) == 0
    steps = json.loads(capsys.readouterr().out)["steps"]
    assert [steps[0]["kind"], steps[-1]["kind"]] == ["monitors_down", "monitors_up"]
    assert cli.main(["sheet", str(demo), "--kind", "change"]) == 2
    assert "--signal" in capsys.readouterr().err
    assert cli.main(["sheet", str(demo), "--kind", "change", "--signal", "Voice"]) == 0
    assert "  1  Monitors" in capsys.readouterr().out
    assert cli.main(["sheet", str(demo), "--kind", "teardown"]) == 0
