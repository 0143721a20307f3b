"""What holds for every line, whatever its figures."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from verve.core.errors import InputError
from verve.core.line import check_order, grid, octave_weights, read_at, read_spectrum, solve
from verve.core.stages import (
    Amplifier,
    Cable,
    Converter,
    LineSource,
    Microphone,
    Pickup,
    Piezo,
    ResistivePad,
    Sound,
    Stage,
    Transformer,
)

ohms = st.floats(1.0, 1e6)
cables = st.builds(
    Cable,
    length_m=st.floats(0.0, 50.0),
    capacitance_f_per_m=st.floats(0.0, 3e-10),
    resistance_ohm_per_m=st.floats(0.0, 0.5),
)
pads = st.builds(ResistivePad, series_ohm=st.floats(0.0, 1e5), shunt_ohm=st.floats(10.0, 1e6))
transformers = st.builds(
    Transformer,
    turns_ratio=st.floats(0.1, 20.0),
    primary_resistance_ohm=st.floats(0.0, 2000.0),
    secondary_resistance_ohm=st.floats(0.0, 200.0),
    primary_inductance_h=st.one_of(st.none(), st.floats(0.1, 500.0)),
)
passives = st.one_of(cables, pads, transformers)
line_sources = st.builds(
    LineSource,
    peak_dbu=st.floats(-60.0, 20.0),
    output_impedance_ohm=ohms,
    noise_dbu=st.one_of(st.none(), st.floats(-120.0, -60.0)),
)
pickups = st.builds(
    Pickup,
    peak_emf_v=st.floats(1e-3, 3.0),
    dc_resistance_ohm=st.floats(100.0, 20_000.0),
    inductance_h=st.floats(0.01, 10.0),
    capacitance_f=st.floats(0.0, 5e-10),
    volume_pot_ohm=st.one_of(st.none(), st.floats(1e4, 1e6)),
    volume_position=st.floats(0.05, 1.0),
)
piezos = st.builds(Piezo, peak_emf_v=st.floats(1e-3, 3.0), capacitance_f=st.floats(1e-10, 1e-7))
sources = st.one_of(line_sources, pickups, piezos)
amplifiers = st.builds(
    Amplifier,
    input_impedance_ohm=st.floats(100.0, 1e7),
    gain_db=st.floats(-20.0, 60.0),
    output_impedance_ohm=st.floats(0.0, 1000.0),
    ein_dbu=st.one_of(st.none(), st.floats(-131.0, -80.0)),
    max_input_dbu=st.one_of(st.none(), st.floats(-10.0, 25.0)),
)


def power_into(stages: tuple[Stage, ...], load_ohm: float) -> tuple[float, float]:
    """Power that a line delivers into a load at 1 kHz, and the most its source could give."""
    hz = np.array([1000.0])
    solution = solve((*stages, Amplifier(input_impedance_ohm=load_ohm)), hz)
    junction = solution.junctions[len(stages) - 1]
    assert junction is not None
    delivered = float(np.abs(np.broadcast_to(junction.v_rms, 1)[0]) ** 2 / load_ohm)
    alone = solve((stages[0],), hz).junctions[0]
    assert alone is not None
    impedance = complex(np.broadcast_to(alone.source_impedance_ohm, 1)[0])
    volts = float(np.abs(np.broadcast_to(alone.open_v_rms, 1)[0]))
    return delivered, volts**2 / (4.0 * impedance.real)


@given(source=line_sources, chain=st.lists(passives, max_size=4), load_ohm=ohms)
def test_a_passive_line_never_gains_power(
    source: LineSource, chain: list[Stage], load_ohm: float
) -> None:
    delivered, available = power_into((source, *chain), load_ohm)
    assert delivered <= available * (1.0 + 1e-9)


@given(
    elements=st.lists(st.one_of(cables, pads), min_size=1, max_size=3),
    left_ohm=ohms,
    right_ohm=ohms,
    hz=st.floats(20.0, 20_000.0),
)
def test_a_passive_line_is_the_same_from_both_ends(
    elements: list[Stage], left_ohm: float, right_ohm: float, hz: float
) -> None:
    # Reciprocity: with R1 and R2 at the ends, V2/E1 · R1 = V1/E2 · R2 for the mirrored line.
    def transfer(chain: list[Stage], source_ohm: float, load_ohm: float) -> float:
        line = (LineSource(peak_dbu=0.0, output_impedance_ohm=source_ohm), *chain)
        solution = solve((*line, Amplifier(input_impedance_ohm=load_ohm)), np.array([hz]))
        junction = solution.junctions[len(line) - 1]
        assert junction is not None
        return float(np.abs(np.broadcast_to(junction.v_rms, 1)[0]))

    forwards = transfer(elements, left_ohm, right_ohm)
    # A mirrored ladder: series and shunt parts change places, which a pad of two halves says.
    mirrored: list[Stage] = []
    for stage in reversed(elements):
        if isinstance(stage, Cable):
            mirrored.append(replace(stage, resistance_ohm_per_m=0.0))
            mirrored.append(
                ResistivePad(series_ohm=stage.length_m * stage.resistance_ohm_per_m, shunt_ohm=1e15)
            )
        else:
            assert isinstance(stage, ResistivePad)
            mirrored.append(ResistivePad(series_ohm=0.0, shunt_ohm=stage.shunt_ohm))
            mirrored.append(ResistivePad(series_ohm=stage.series_ohm, shunt_ohm=1e15))
    backwards = transfer(mirrored, right_ohm, left_ohm)
    assert forwards / right_ohm == pytest.approx(backwards / left_ohm, rel=1e-6)


@given(source=sources, chain=st.lists(passives, max_size=3), added=passives)
def test_a_passive_stage_never_improves_signal_to_noise_at_a_frequency(
    source: Stage, chain: list[Stage], added: Stage
) -> None:
    hz = grid().hz[::10]

    def ratio(stages: tuple[Stage, ...]) -> np.ndarray:
        junction = solve(stages, hz).junctions[-1]
        assert junction is not None
        signal = np.abs(np.broadcast_to(junction.open_v_rms, hz.shape)) ** 2
        return np.asarray(signal / np.broadcast_to(junction.noise_v2_per_hz, hz.shape))

    before = (source, *chain)
    if isinstance(source, Piezo) and not any(isinstance(s, ResistivePad) for s in chain):
        # A piezo alone is noiseless here: any ratio is infinite, and nothing can be compared.
        before = (source, ResistivePad(series_ohm=1.0, shunt_ohm=1e7), *chain)
    assert np.all(ratio((*before, added)) <= ratio(before) * (1.0 + 1e-9))


@given(source=line_sources, chain=st.lists(st.one_of(passives, amplifiers), max_size=4))
def test_levels_scale_with_the_source(source: LineSource, chain: list[Stage]) -> None:
    louder = replace(source, peak_dbu=source.peak_dbu + 10.0)
    soft = read_at((source, *chain), (1000.0, 1000.0))
    loud = read_at((louder, *chain), (1000.0, 1000.0))
    for at in range(len(chain) + 1):
        low, high = soft.peak_dbu(at), loud.peak_dbu(at)
        assert low is not None
        assert high is not None
        assert high - low == pytest.approx(10.0, abs=1e-9)
        assert loud.noise_dbu(at) == pytest.approx(soft.noise_dbu(at) or 0.0, abs=1e-9)


@given(first=st.floats(-130.0, -90.0), second=st.floats(-130.0, -90.0))
def test_the_order_of_independent_noises_does_not_matter(first: float, second: float) -> None:
    def line(a_dbu: float, b_dbu: float) -> float | None:
        unity = Amplifier(input_impedance_ohm=1e12, ein_source_ohm=0.0)
        stages = (
            LineSource(peak_dbu=0.0, output_impedance_ohm=0.0),
            replace(unity, ein_dbu=a_dbu),
            replace(unity, ein_dbu=b_dbu),
        )
        return read_at(stages, (1000.0, 1000.0)).noise_dbu(2)

    assert line(first, second) == pytest.approx(line(second, first), abs=1e-9)


@given(source=sources, chain=st.lists(st.one_of(passives, amplifiers), max_size=4))
def test_noise_does_not_depend_on_the_grid(source: Stage, chain: list[Stage]) -> None:
    stages = (source, *chain, Converter(full_scale_dbu=18.0, dynamic_range_dba=110.0))
    reading = read_at(stages, (1000.0, 1000.0))
    fine = grid(7)
    dense = solve(stages, fine.hz)
    for at in range(len(stages) - 1):
        junction = dense.junctions[at]
        assert junction is not None
        power = float(np.broadcast_to(junction.noise_v2_per_hz, fine.hz.shape) @ fine.weights_hz)
        found = reading.noise_dbu(at)
        if power > 0.0:
            assert found == pytest.approx(10.0 * math.log10(power / 0.6), abs=0.05)
    end = float(dense.end_noise_v2_per_hz.sum(axis=0) @ fine.a_weights_hz)
    assert reading.noise_dbfs_a() == pytest.approx(10.0 * math.log10(end / 0.6) - 18.0, abs=0.05)


@given(
    source=sources,
    chain=st.lists(st.one_of(passives, amplifiers), max_size=4),
    bands=st.tuples(*[st.floats(-40.0, 0.0)] * 10),
)
def test_broadband_levels_do_not_depend_on_the_grid(
    source: Stage, chain: list[Stage], bands: tuple[float, ...]
) -> None:
    stages = (source, *chain)
    reading = read_spectrum(stages, bands)
    fine = grid(7)
    weights = octave_weights(bands, fine)[:, 0]
    dense = solve(stages, fine.hz)
    for at, junction in enumerate(dense.junctions):
        assert junction is not None
        power = float(np.abs(junction.v_rms) ** 2 @ weights)
        if power > 0.0:
            assert reading.peak_dbu(at) == pytest.approx(10.0 * math.log10(power / 0.6), abs=0.01)


@given(source=sources, chain=st.lists(st.one_of(passives, amplifiers), max_size=5))
def test_shares_of_the_noise_add_up_to_all_of_it(source: Stage, chain: list[Stage]) -> None:
    stages = (source, *chain, Converter(full_scale_dbu=18.0, dynamic_range_dba=110.0))
    shares = read_at(stages, (1000.0, 1000.0)).noise_shares()
    assert shares is not None
    assert sum(shares) == pytest.approx(1.0)
    assert min(shares) >= 0.0


@given(chain=st.lists(st.one_of(passives, amplifiers), max_size=3), bands=st.integers(0, 9))
def test_a_source_in_one_octave_lies_between_the_sines_of_that_octave(
    chain: list[Stage], bands: int
) -> None:
    source = LineSource(peak_dbu=0.0, output_impedance_ohm=1000.0)
    levels = [-200.0] * 10
    levels[bands] = 0.0
    reading = read_spectrum((source, *chain), levels)
    centre_hz = 1000.0 * 2.0 ** (bands - 5)
    low_hz, high_hz = max(20.0, centre_hz / 1.4143), min(20_000.0, centre_hz * 1.4143)
    sines = [
        level
        for hz in np.geomspace(low_hz, high_hz, 41)
        if (level := read_at((source, *chain), (float(hz), 1000.0)).peak_dbu(len(chain)))
        is not None
    ]
    found = reading.peak_dbu(len(chain))
    assert found is not None
    assert min(sines) - 0.2 <= found <= max(sines) + 0.2


def test_octave_weights_share_out_all_the_power() -> None:
    weights = octave_weights((0.0,) * 10, grid())
    assert weights.sum(axis=0) == pytest.approx([1.0, 1.0])
    assert not weights.flags.writeable


def test_nine_octave_bands_are_refused_by_name() -> None:
    with pytest.raises(InputError, match="octave_bands_db: must have ten values"):
        octave_weights((0.0,) * 9, grid())


SOURCE = LineSource(peak_dbu=0.0, output_impedance_ohm=100.0)
SOUND = Sound(peak_spl_db=90.0)
CAPSULE = Microphone(sensitivity_mv_per_pa=10.0, output_impedance_ohm=100.0)
END = Converter(full_scale_dbu=18.0)


@pytest.mark.parametrize(
    ("stages", "said"),
    [
        ((), "must have at least one stage"),
        ((END,), r"line\[0\]: must be a source"),
        ((SOURCE, SOURCE), r"line\[1\]: must not be a source"),
        ((SOURCE, END, END), r"line\[1\]: must be the last stage"),
        ((SOURCE, CAPSULE), r"line\[1\]: must stand behind a sound"),
        ((SOUND,), r"line\[0\]: must have a microphone behind it"),
        ((SOUND, END), r"line\[0\]: must have a microphone behind it"),
        ((SOUND, CAPSULE, CAPSULE), r"line\[2\]: must stand behind a sound"),
    ],
)
def test_an_impossible_order_is_refused_by_position(stages: tuple[Stage, ...], said: str) -> None:
    with pytest.raises(InputError, match=said):
        check_order(stages)


def test_a_sound_has_no_voltage() -> None:
    reading = read_at((SOUND, CAPSULE), (1000.0, 1000.0))
    with pytest.raises(InputError, match="has no junction"):
        reading.peak_dbu(0)


def test_results_cannot_be_written_to() -> None:
    solution = solve((SOURCE, END), grid().hz)
    with pytest.raises(ValueError, match="read-only"):
        solution.end_noise_v2_per_hz[0, 0] = 1.0
