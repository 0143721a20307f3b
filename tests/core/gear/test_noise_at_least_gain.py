"""Input noise that rises towards least gain: against the formula, and set as well as trying every position."""

from __future__ import annotations

import math

import pytest

from tests.core.gain.test_solve import check, every_option, preamps_in_a_row
from verve.core.catalogue import catalogue
from verve.core.gear import InterfaceFigures, MixerFigures, PreampFigures
from verve.core.line import Reading, read_at
from verve.core.network import line_states
from verve.core.session import Change, Device, Session, apply_changes, with_setup
from verve.core.stages import Amplifier, Converter, LineSource, noise_behind_gain_dbu

ENTRIES = catalogue()


def input_noise_dbu(gain_db: float, ein_dbu: float, behind_dbu: float | None) -> float:
    """Noise of a preamp at 150 Ω referred to its input, solved as a whole line into a converter without noise."""
    front = Amplifier(input_impedance_ohm=1e9, gain_db=gain_db, ein_dbu=ein_dbu, ein_source_ohm=0.0)
    back = Amplifier(input_impedance_ohm=1e9, ein_dbu=behind_dbu, ein_source_ohm=0.0)
    end = Converter(full_scale_dbu=18.0, input_impedance_ohm=1e9, bit_depth=60)
    source = LineSource(peak_dbu=0.0, output_impedance_ohm=1.0, noise_dbu=-300.0)
    reading: Reading = read_at([source, front, back, end], [1000.0])
    noise = reading.noise_dbu(2)
    assert noise is not None
    return noise - gain_db


@pytest.mark.parametrize("gain_db", [10.0, 20.0, 37.0, 60.0])
def test_it_is_the_sum_of_what_arises_before_and_behind_the_gain(gain_db: float) -> None:
    behind = noise_behind_gain_dbu(-128.0, -103.0, 10.0)
    before, least = (10.0 ** (db / 10.0) for db in (-128.0, -103.0))
    wanted = before + (least - before) * 10.0 ** ((10.0 - gain_db) / 10.0)
    assert input_noise_dbu(gain_db, -128.0, behind) == pytest.approx(
        10.0 * math.log10(wanted), abs=0.01
    )


def test_at_the_ends_it_is_what_the_sheet_says() -> None:
    behind = noise_behind_gain_dbu(-128.0, -103.0, 10.0)
    assert input_noise_dbu(10.0, -128.0, behind) == pytest.approx(-103.0, abs=0.01)
    assert input_noise_dbu(65.0, -128.0, behind) == pytest.approx(-128.0, abs=0.1)
    assert noise_behind_gain_dbu(-128.0, None, 10.0) is None
    assert noise_behind_gain_dbu(-128.0, -130.0, 10.0) is None


def test_the_range_of_an_interface_is_the_worse_of_both() -> None:
    entry = ENTRIES.devices["interface_two"].figures
    assert isinstance(entry, InterfaceFigures)
    quiet = entry.inputs[0].modes["microphone"]
    known = entry.dynamic_range_dba
    assert known is not None
    same = quiet.model_copy(update={"ein_least_dbu": -129.9})
    worse = quiet.model_copy(update={"ein_least_dbu": -80.0})
    assert entry._range_behind_dba(same) == known
    found = entry._range_behind_dba(worse)
    assert found is not None
    # Full scale to −80 dBu raised by the least gain; A-weighting takes about 2 dB of flat noise.
    plain = entry.full_scale_dbu - (-80.0 + quiet.gain_min_db)
    assert plain < found < plain + 3.0
    assert found < known


def with_least(session: Session, ein_least_dbu: float | None) -> Session:
    """Every preamp of a session with this input noise at least gain."""
    devices: list[Device] = []
    for device in session.setup.devices:
        figures = device.figures
        if isinstance(figures, PreampFigures) and not figures.is_inline:
            figures = figures.model_copy(
                update={"ein_least_dbu": ein_least_dbu, "gain_step_db": 5.0}
            )
        if isinstance(figures, InterfaceFigures):
            inputs = tuple(
                one.model_copy(
                    update={
                        "modes": {
                            mode: found.model_copy(update={"gain_step_db": 5.0})
                            for mode, found in one.modes.items()
                        }
                    }
                )
                for one in figures.inputs
            )
            figures = figures.model_copy(update={"inputs": inputs})
        devices.append(device.model_copy(update={"figures": figures}))
    return with_setup(session, devices=tuple(devices))


@pytest.mark.parametrize("least", [-110.0, -90.0, -70.0])
def test_gains_are_set_as_well_as_trying_every_position(least: float) -> None:
    session, line_id = preamps_in_a_row(1)
    session = with_least(session, least)
    check(session, every_option(session, (line_id,), 5.0), (line_id,))


def test_a_mixer_hisses_at_its_lowest_trim() -> None:
    """With the trim down what arises behind it is nearer to the signal."""
    entry = ENTRIES.devices["mixer_microphones"].figures
    assert isinstance(entry, MixerFigures)
    assert entry.channels[0].ein_least_dbu is not None
    from verve.core.catalogue import add_chain

    session, _ = add_chain(Session(), ENTRIES, ENTRIES.chain("pair_through_mixer"))
    mixer = next(d for d in session.setup.devices if d.figures.mixes)
    found = {}
    for gain in (0.0, 40.0):
        turned = apply_changes(
            session,
            (Change(owner=mixer.id, channel="in.1", name="gain_db", value=gain),),
        )
        state = line_states(turned.setup)[0]
        assert state.levels is not None
        found[gain] = state.levels.snr_db or 0.0
    assert found[40.0] > found[0.0] + 3.0
