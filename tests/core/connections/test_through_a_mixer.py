"""Microphones that only a mixer's preamps can take: routed, powered, panned apart, and right at first."""

from __future__ import annotations

import pytest

from tests.core.connections.builders import ENTRIES, kit, part
from verve.core.assess import assess
from verve.core.connections import NoSuggestion, Suggestion, channels_for, suggest_connections
from verve.core.gear import InterfaceFigures
from verve.core.session import Brief, KitItem, Part, Pass, Session


def line_inputs_only() -> KitItem:
    """An interface with two line inputs and no preamps for microphones."""
    figures = ENTRIES.devices["interface_two"].figures
    assert isinstance(figures, InterfaceFigures)
    inputs = tuple(
        one.model_copy(
            update={
                "modes": {mode: how for mode, how in one.modes.items() if mode == "line"},
                "phantom_switch": None,
            }
        )
        for one in figures.inputs
    )
    device = figures.model_copy(update={"inputs": inputs})
    return KitItem(id="line_two", name="Two line inputs", device=device)


def found(parts: tuple[Part, ...], counts: dict[str, int]) -> Suggestion | NoSuggestion:
    one = Pass(id="one", name="One", parts=tuple(p.id for p in parts))
    session = Session(
        brief=Brief(parts=parts, passes=(one,)), kit=(*kit(counts), line_inputs_only())
    )
    return suggest_connections(session, one)


PAIR = (part("acoustic_guitar", name="Guitar", capture="pair"),)


@pytest.mark.parametrize("microphone", ["condenser_small", "moving_coil", "moving_coil_low"])
def test_a_pair_through_a_small_mixer_is_right_at_first(microphone: str) -> None:
    way = found(
        PAIR, {microphone: 2, "mixer_microphones": 1, "balanced_5": 2, "line_balanced_3": 2}
    )
    assert isinstance(way, Suggestion)
    assert way.missing == ()
    (mixer,) = (d for d in way.session.setup.devices if d.figures.mixes)
    pans = [mixer.settings[f"in.{number}"].pan for number in (1, 2)]
    assert pans == [-1.0, 1.0], "panned apart"
    gains = {mixer.settings[f"in.{number}"].gain_db for number in (1, 2)}
    assert len(gains) == 1, "both sides of the pair alike"
    after = assess(way.session)
    assert after.findings == ()
    assert (
        len(
            {line.state.route.recorder.in_port for line in after.lines if line.state.route.recorder}
        )
        == 2
    )
    for line in after.lines:
        assert line.is_alive
        fader = next(s for s in line.state.route.steps if s.figures.mixes).controls["fader_db"]
        assert fader.value == 0.0
        recorder = line.state.recorder_controls()["gain_db"]
        # The mixer does the work; a weak microphone needs more than its trim has.
        trim = line.state.level_control()
        assert trim is not None
        least = recorder.value == recorder.minimum
        assert least or (microphone == "moving_coil_low" and float(trim.value or 0.0) > 50.0)


def test_what_must_not_get_phantom_power_stays_away_from_a_mixers_switch() -> None:
    way = found(PAIR, {"ribbon": 2, "mixer_microphones": 1})
    if isinstance(way, Suggestion):
        assert all(not box.figures.mixes for c in way.choices for box in c.rated.connection.boxes)


def test_a_preamp_that_gives_phantom_power_takes_a_condenser() -> None:
    one = (part("violin", name="Violin"),)
    way = found(one, {"condenser_small": 1, "preamp_transistor": 1})
    assert isinstance(way, Suggestion)
    assert way.missing == ()
    assert [f.rule for f in assess(way.session).findings if f.severity == "stop"] == []


def test_a_keyboard_goes_into_a_line_channel_and_a_microphone_into_its_own() -> None:
    figures = ENTRIES.devices["mixer_microphones"].figures
    assert channels_for(figures, is_microphone=True) == ("in.1", "in.2")
    first = channels_for(figures, is_microphone=False)[0]
    assert "microphone" not in figures.input_levels(first)
