"""Whether a signal is at microphone, instrument or line level is computed from it, never guessed from a kind."""

from __future__ import annotations

import pytest

from tests.wiring import wired
from verve.core.assess import assess
from verve.core.gain import all_changes, optimum
from verve.core.kind import Mode
from verve.core.session import Session, apply_changes, move_input

BOXES = ["isolating_transformer", "isolation_transformer"]


def keyboard(box: str, mode: Mode) -> Session:
    made = wired(
        {"keys": "keyboard_output"},
        {"box": box, "io": "interface_eight"},
        ["keys:out > box:in", "box:out > io:in.1"],
    )
    return move_input(made, "line_keys", "in.1", mode)


def at_its_aim(session: Session) -> Session:
    return apply_changes(session, all_changes(optimum(session)))


def rules(session: Session) -> set[str]:
    return {f.rule for f in assess(session).findings}


@pytest.mark.parametrize("box", BOXES)
def test_a_keyboard_behind_an_isolating_transformer_is_at_line_level(box: str) -> None:
    session = at_its_aim(keyboard(box, "line"))
    item = assess(session).lines[0]
    assert item.state.peak_dbfs is not None
    assert item.state.peak_dbfs > -25.0
    assert "wrong_mode" not in rules(session)


@pytest.mark.parametrize("source", ["single_coil", "bass_pickup"])
def test_a_pickup_in_a_line_input_is_told_and_in_an_instrument_input_it_is_not(source: str) -> None:
    found = {}
    for mode in ("line", "instrument"):
        session = wired({"guitar": source}, {"io": "interface_eight"}, ["guitar:out > io:in.5"])
        session = at_its_aim(move_input(session, "line_guitar", "in.5", mode))
        found[mode] = rules(session)
    assert "pickup_loaded" in found["line"]
    assert not found["instrument"] & {"pickup_loaded", "wrong_mode"}


@pytest.mark.parametrize("box", [*BOXES, "active_di", "passive_di"])
@pytest.mark.parametrize("mode", ["microphone", "line"])
def test_whoever_obeys_a_wrong_mode_is_told_no_other_one(box: str, mode: Mode) -> None:
    session = keyboard(box, mode)
    for finding in assess(session).findings:
        if finding.rule == "wrong_mode" and finding.remedy is not None:
            assert "wrong_mode" not in rules(at_its_aim(finding.remedy.apply(session)))
