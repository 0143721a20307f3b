"""What microphones hear beside their own source: in levels, gains, buses, noise and in what is rendered."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.wiring import wired
from verve.core.acoustics import direction
from verve.core.air import hearing_of, positions_of
from verve.core.assess import LineAssessment, assess
from verve.core.engine import Engine
from verve.core.gain import all_changes, optimum
from verve.core.line import OCTAVE_CENTRES_HZ
from verve.core.network import network_of
from verve.core.session import (
    Aim,
    Session,
    Stand,
    Thing,
    add_thing,
    apply_changes,
    change_thing,
    place_microphone,
    place_source,
    set_room,
)
from verve.core.units import power_to_db
from verve.devices import SimulatedInterface

RATE_HZ = 48_000


def two(
    apart_m: float = 2.0,
    *,
    other: str = "voice_singing",
    rt60_s: float = 0.6,
    is_placed: bool = True,
    distance_m: float = 0.4,
) -> Session:
    """A flute and somebody beside it, each with a microphone of its own."""
    session = wired(
        {"flute": "flute", "voice": other},
        {"one": "condenser_small", "two": "condenser_small", "io": "interface_two"},
        ["flute:out > one:capsule", "voice:out > two:capsule", "one:out > io:in.1", "two:out > io:in.2"],
        settings={
            "one:capsule": {"distance_m": distance_m},
            "two:capsule": {"distance_m": 0.3},
            "io:in.1": {"gain_db": 30.0},
            "io:phantom.1-2": {"phantom": True},
            "io:in.2": {"gain_db": 20.0},
        },
    )  # fmt: skip
    room = session.setup.room.model_copy(
        update={"length_m": 8.0, "width_m": 6.0, "height_m": 3.0, "reverberation_s": rt60_s}
    )
    session = set_room(session, room)
    if not is_placed:
        return session
    session = place_source(
        session, "flute", Stand(x_m=2.0, y_m=3.0, height_m=1.4, facing_deg=180.0)
    )
    return place_source(
        session, "voice", Stand(x_m=2.0 + apart_m, y_m=3.0, height_m=1.5, facing_deg=180.0)
    )


def line(session: Session, line_id: str) -> LineAssessment:
    found = assess(session).line(line_id)
    assert found is not None
    return found


def peak(session: Session, line_id: str = "line_flute") -> float:
    found = line(session, line_id).state.peak_dbfs
    assert found is not None
    return found


# ── levels ────────────────────────────────────────────────────────────────────────────────────
def test_what_nobody_has_placed_is_as_if_it_were_alone() -> None:
    session = two(is_placed=False)
    assert network_of(session.setup).hearing is None
    assert line(session, "line_flute").state.own_db == 0.0


def test_a_level_is_that_of_everything_in_the_microphone() -> None:
    alone, together = two(is_placed=False), two(1.0, other="snare_drum")
    hearing = hearing_of(positions_of(together.setup))
    over = []
    for number in range(2):
        figures = hearing.positions.sources[number].figures
        assert figures is not None
        playing = figures.playing()
        over.append(playing.hardest_db - playing.typical_db + figures.crest_db)
    # A drum sounds 0.06 s, a flute 0.7 s; a room takes its time to answer.
    answers = [1.0 - 10.0 ** (-6.0 * seconds / 0.6) for seconds in (_sounds_s(together), 0.06)]
    powers = [
        (hearing.direct[0, n].sum() + answers[n] * hearing.room[0, n].sum()) * 10.0 ** (over[n] / 10.0)
        for n in range(2)
    ]  # fmt: skip
    straight = hearing.direct[0, 0].sum() * 10.0 ** (over[0] / 10.0)
    beside_db = power_to_db(sum(powers) / straight)
    facing_db = power_to_db(
        hearing.direct[0, 0].sum() / (hearing.direct[0, 0] / hearing.sent[0, 0]).sum()
    )
    assert beside_db is not None
    assert facing_db is not None
    # The chain is even where these play, so that its level is theirs.
    assert peak(together) - peak(alone) == pytest.approx(beside_db + facing_db, abs=0.1)
    assert line(together, "line_flute").state.own_db == pytest.approx(-beside_db, abs=0.1)


def _sounds_s(session: Session) -> float:
    return {"bowed": 0.7, "voice": 0.5}[session.setup.sources[0].figures.player]


@settings(max_examples=25, deadline=None)
@given(st.floats(0.6, 5.5), st.floats(0.2, 4.0))
def test_somebody_beside_makes_it_louder_and_never_raises_it_above_the_noise(
    apart_m: float, rt60_s: float
) -> None:
    session = two(apart_m, rt60_s=rt60_s)
    here = line(session, "line_flute")
    assert here.state.own_db <= 0.0
    assert here.state.levels is not None
    own = peak(session) + here.state.own_db
    noise = here.noise_dbfs_a
    assert noise is not None
    assert here.snr_db == pytest.approx(own - noise, abs=1e-6)
    found = here.predicted_range("hardest")
    assert found is not None
    assert found.low_dbfs <= found.high_dbfs <= max(0.0, peak(session))


def test_whoever_goes_away_is_heard_less_and_less() -> None:
    levels = [peak(two(apart, rt60_s=0.15)) for apart in (0.6, 1.0, 2.0, 4.0)]
    assert all(nearer > farther for nearer, farther in itertools.pairwise(levels))


def test_a_microphone_that_is_overdriven_by_somebody_else_is_told_so() -> None:
    quiet, loud = two(0.5), two(0.5, other="snare_drum")
    rooms = []
    for session in (quiet, loud):
        levels = line(session, "line_flute").state.levels
        assert levels is not None
        rooms.append(levels.headroom_db[1])
    assert rooms[0] is not None
    assert rooms[1] is not None
    assert rooms[1] < rooms[0] - 6.0
    assert rooms[0] - rooms[1] == pytest.approx(peak(loud) - peak(quiet), abs=0.2)


def test_gains_are_set_for_all_that_a_microphone_hears() -> None:
    session = two(0.6, other="snare_drum")
    ready = apply_changes(session, all_changes(optimum(session, ("line_flute", "line_voice"))))
    window = line(ready, "line_flute").target
    assert window.lowest_dbfs - 0.5 <= peak(ready) <= window.highest_dbfs
    assert not [f for f in assess(ready).findings if f.rule in {"clips", "too_loud", "too_quiet"}]


def test_an_engine_changes_nothing() -> None:
    engine = Engine()
    session = two()
    for x_m in (2.6, 3.0, 5.0, 3.0):
        session = place_source(
            session, "voice", Stand(x_m=x_m, y_m=3.0, height_m=1.5, facing_deg=180.0)
        )
        known = network_of(session.setup, engine).line("line_flute")
        new = network_of(session.setup).line("line_flute")
        assert known is not None
        assert new is not None
        assert known.peak_dbfs == new.peak_dbfs


def test_lines_that_an_edit_leaves_as_they_are_keep_their_physics() -> None:
    engine = Engine()
    session = two()
    before = network_of(session.setup, engine).line("line_voice")
    moved = place_microphone(session, "one:capsule", Aim(bearing_deg=30.0))
    after = network_of(moved.setup, engine).line("line_voice")
    assert before is not None
    assert after is before


# ── microphones that are mixed ────────────────────────────────────────────────────────────────
def mixed(apart_m: float) -> Session:
    """The same two on one side of a mixer."""
    side = {"pan": -1.0, "gain_db": 20.0, "fader_db": 0.0}
    session = wired(
        {"flute": "flute", "voice": "voice_singing"},
        {"one": "moving_coil", "two": "moving_coil", "desk": "small_mixer", "io": "interface_two"},
        [
            "flute:out > one:capsule", "voice:out > two:capsule",
            "one:out > desk:in.1", "two:out > desk:in.2", "desk:main.left > io:in.1",
        ],
        settings={
            "one:capsule": {"distance_m": 0.4}, "two:capsule": {"distance_m": 0.3},
            "desk:in.1": side, "desk:in.2": side, "io:in.1": {"mode": "line"},
        },
    )  # fmt: skip
    session = set_room(session, two().setup.room)
    session = place_source(
        session, "flute", Stand(x_m=2.0, y_m=3.0, height_m=1.4, facing_deg=180.0)
    )
    return place_source(
        session, "voice", Stand(x_m=2.0 + apart_m, y_m=3.0, height_m=1.5, facing_deg=180.0)
    )


@pytest.mark.parametrize("apart_m", [0.6, 1.5, 4.0])
def test_on_a_bus_one_source_adds_up_with_itself(apart_m: float) -> None:
    """Held against a sum of complex pressures over a fine grid, straight sound; the room as powers."""
    session = mixed(apart_m)
    hearing = hearing_of(positions_of(session.setup))
    state = line(session, "line_flute").state
    assert state.input_peak_dbfs is not None
    own = line(two(apart_m), "line_flute").state
    assert own.staged is not None
    hz = np.geomspace(22.1, 22_627.0, 400_000)
    octave = np.clip(np.round(np.log2(hz / 1000.0)) + 5, 0, 9).astype(int)
    total = 0.0
    for source in range(2):
        figures = hearing.positions.sources[source].figures
        assert figures is not None
        playing = figures.playing()
        over = 10.0 ** ((playing.hardest_db - playing.typical_db + figures.crest_db) / 10.0)
        wave = np.zeros(len(hz), dtype=complex)
        for microphone in range(2):
            # Within an octave power is even per octave, as everywhere here.
            gain = np.sqrt(hearing.direct[microphone, source] * over)[octave]
            delay_s = hearing.distance_m[microphone, source] / 343.0
            wave += gain * np.exp(-2j * np.pi * hz * delay_s)
            room = hearing.room[microphone, source].sum() * over
            total += room * (1.0 - 10.0 ** (-6.0 * (0.5 if source else _sounds_s(session)) / 0.6))
        total += float(np.mean(np.abs(wave) ** 2)) * len(OCTAVE_CENTRES_HZ)
    straight = hearing.direct[0, 0].sum()
    figures = hearing.positions.sources[0].figures
    assert figures is not None
    playing = figures.playing()
    straight *= 10.0 ** ((playing.hardest_db - playing.typical_db + figures.crest_db) / 10.0)
    # What the flute's straight sound alone is there is known from its line.
    assert state.staged is not None
    assert state.peak_dbfs is not None
    flute_dbfs = peak(mixed_alone()) + _facing_db(session)
    expected = flute_dbfs + 10.0 * math.log10(total / straight)
    assert state.input_peak_dbfs == pytest.approx(expected, abs=0.25)


def mixed_alone() -> Session:
    """The flute, with nobody placed."""
    session = mixed(1.0)
    return session.model_copy(
        update={"setup": session.setup.model_copy(update={"placement": Session().setup.placement})}
    )


def _facing_db(session: Session) -> float:
    hearing = hearing_of(positions_of(session.setup))
    direct, sent = hearing.direct[0, 0], hearing.sent[0, 0]
    return 10.0 * math.log10(float(direct.sum() / (direct / sent).sum()))


# ── noise ─────────────────────────────────────────────────────────────────────────────────────
def fan(level_dba: float, *, is_on: bool = True) -> Thing:
    stand = Stand(x_m=2.0, y_m=1.2, height_m=1.0)
    return Thing(id="fan", name="Fan", kind="fan", stand=stand, level_dba=level_dba, is_on=is_on)


def test_what_runs_is_in_the_noise_and_gone_when_it_is_off() -> None:
    session = two()
    quiet = line(session, "line_flute").noise_dbfs_a
    running, _ = add_thing(session, fan(60.0))
    off = change_thing(running, fan(60.0, is_on=False))
    loud = line(running, "line_flute").noise_dbfs_a
    assert quiet is not None
    assert loud is not None
    assert line(off, "line_flute").noise_dbfs_a == quiet
    hearing = hearing_of(positions_of(running.setup))
    heard = hearing.direct[0, 2] + hearing.room[0, 2]
    # One as loud as the room comes to 3 dB more; this one is far above it.
    assert loud > quiet + 10.0
    assert peak(running) == pytest.approx(peak(session), abs=1e-9)
    louder = line(add_thing(session, fan(70.0))[0], "line_flute").noise_dbfs_a
    assert louder == pytest.approx(loud + 10.0, abs=0.1)
    assert float(heard.sum()) > 0.0


def test_a_fan_behind_a_cardioid_is_heard_less_than_one_before_it() -> None:
    session = two(rt60_s=0.15)
    x, y, _ = direction(0.0, 0.0)
    before = fan(60.0)
    # The microphone looks from the flute's front back at it: before it is behind the flute.
    there = before.model_copy(update={"stand": Stand(x_m=2.0 + x, y_m=3.0 + 1.4 * y, height_m=1.4)})
    back = before.model_copy(update={"stand": Stand(x_m=2.0, y_m=2.6 - 1.8, height_m=1.4)})
    levels = [line(add_thing(session, one)[0], "line_flute").noise_dbfs_a for one in (there, back)]
    assert levels[0] is not None
    assert levels[1] is not None
    assert levels[0] > levels[1] + 5.0


# ── sound ─────────────────────────────────────────────────────────────────────────────────────
@pytest.mark.parametrize("apart_m", [0.6, 2.5])
def test_a_rehearsal_holds_what_is_predicted(apart_m: float) -> None:
    session = two(apart_m)
    session = apply_changes(session, all_changes(optimum(session, ("line_flute", "line_voice"))))
    assessment = assess(session)
    device = SimulatedInterface(assessment, "io", play="hardest", seconds=6.0)
    samples = np.concatenate([b.samples for b in device.blocks(6 * RATE_HZ)], axis=1)
    for channel, name in enumerate(("line_flute", "line_voice")):
        item = assessment.line(name)
        assert item is not None
        found = item.predicted_range("hardest")
        assert found is not None
        measured = 20.0 * math.log10(float(np.abs(samples[channel]).max()))
        # Peaks that meet in one instant add as amplitudes: up to 3 dB more than their powers.
        assert found.low_dbfs - 1.5 <= measured <= found.high_dbfs + 3.0
    # Before anybody begins there is the noise alone.
    item = assessment.line("line_flute")
    assert item is not None
    assert item.noise_dbfs_a is not None
    quiet, loud = samples[0, : RATE_HZ // 2], samples[0, 2 * RATE_HZ : 4 * RATE_HZ]
    assert float(np.abs(quiet).max()) < 0.02 * float(np.abs(loud).max())


def test_a_rehearsal_goes_on_as_it_began() -> None:
    session = two()
    device = SimulatedInterface(assess(session), "io", play="typical", seconds=3.0)
    samples = np.concatenate([b.samples for b in device.blocks(9 * RATE_HZ)], axis=1)[0]
    second, third = (samples[n * 3 * RATE_HZ : (n + 1) * 3 * RATE_HZ] for n in (1, 2))
    assert float(np.sqrt(np.mean((second - third) ** 2))) < 1e-2 * float(np.abs(second).max())
