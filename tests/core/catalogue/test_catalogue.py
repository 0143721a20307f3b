"""The catalogue: every entry is possible, and every chain can be put in and followed to the end."""

from __future__ import annotations

import pytest

from tests.conftest import follow
from verve.core.assess import assess
from verve.core.catalogue import Chain, ChainLine, add_chain, catalogue
from verve.core.gear import (
    DEVICE_KINDS,
    AcousticFigures,
    InterfaceFigures,
    MicrophoneFigures,
    MixerFigures,
)
from verve.core.session import Device, Session, add_parts, from_json, to_json

ENTRIES = catalogue()


@pytest.mark.parametrize("key", ENTRIES.sources)
def test_a_source_is_possible(key: str) -> None:
    figures = ENTRIES.sources[key].figures
    playing = figures.playing()
    assert playing.softest_db < playing.typical_db < playing.hardest_db
    assert 6.0 <= figures.crest_db <= 25.0
    assert max(figures.octave_bands_db) == 0.0
    assert figures.entry == key
    assert figures.origin == "typical"
    if isinstance(figures, AcousticFigures):
        assert playing.softest_db >= 30.0
        assert playing.hardest_db <= 140.0


@pytest.mark.parametrize("key", ENTRIES.devices)
def test_a_device_is_possible(key: str) -> None:
    figures = ENTRIES.devices[key].figures
    assert figures.entry == key
    assert figures.origin == "typical"
    if isinstance(figures, MicrophoneFigures):
        assert 0.5 <= figures.sensitivity_mv_per_pa <= 60.0
        if figures.principle == "condenser":
            assert figures.phantom in {"needs", "never"}, "one with its own supply must not get it"
            assert figures.self_noise_dba is not None
            assert 2.0 <= figures.self_noise_dba <= 30.0
    if isinstance(figures, InterfaceFigures):
        assert figures.dynamic_range_dba is not None
        assert 80.0 <= figures.dynamic_range_dba <= 130.0
        for item in figures.inputs:
            for mode in item.modes.values():
                assert mode.gain_min_db < mode.gain_max_db
                # No preamp is quieter than the 150 Ω it is measured with: −130.9 dBu.
                assert mode.ein_dbu is None or mode.ein_dbu > -130.9
    if isinstance(figures, MixerFigures):
        assert figures.max_output_dbu > 10.0


@pytest.mark.parametrize("key", ENTRIES.cables)
def test_a_cable_is_possible(key: str) -> None:
    figures = ENTRIES.cables[key].figures
    assert 3e-11 <= figures.capacitance_f_per_m <= 3e-10
    assert 0.0 < figures.length_m <= 50.0


@pytest.mark.parametrize("chain", ENTRIES.chains, ids=lambda chain: chain.id)
def test_a_chain_put_into_nothing_ends_in_its_corridor(chain: object) -> None:
    session, line_id = add_chain(Session(), ENTRIES, chain)  # type: ignore[arg-type]
    assert from_json(to_json(session), "x") == session
    assessment = assess(session)
    assert assessment.lines[0].line.id == line_id
    assert all(item.route.is_complete for item in assessment.lines)
    after = assess(follow(session))
    assert [f for f in after.findings if f.severity != "know"] == []


def test_chains_fill_the_free_inputs_and_then_bring_another_interface(demo: Session) -> None:
    session = demo
    for _ in range(9):
        session, _ = add_chain(session, ENTRIES, ENTRIES.chain("voice_moving_coil"))
    ends = [link.end for link in session.setup.links]
    assert len(ends) == len(set(ends))
    names = [d.name for d in session.setup.devices if d.figures.kind == "interface"]
    assert names[0] == "Interface"
    assert "Interface 2" in names
    lines = [line.name for line in session.setup.lines]
    assert len(lines) == len(set(lines))


def test_a_pair_of_microphones_hears_one_source() -> None:
    session, _ = add_chain(Session(), ENTRIES, ENTRIES.chain("instrument_pair"), "Zither")
    assert [source.name for source in session.setup.sources] == ["Zither"]
    assert [line.name for line in session.setup.lines] == ["Zither left", "Zither right"]
    assert len({line.pair for line in session.setup.lines}) == 1


def test_a_stereo_output_is_two_sources() -> None:
    session, _ = add_chain(Session(), ENTRIES, ENTRIES.chain("keyboard_stereo"))
    assert len(session.setup.sources) == 2


def test_a_name_that_is_taken_gets_a_number(demo: Session) -> None:
    session, line_id = add_chain(demo, ENTRIES, ENTRIES.chain("voice_moving_coil"), "Voice")
    assert next(x.name for x in session.setup.lines if x.id == line_id) == "Voice 2"


def test_an_unknown_chain_is_a_key_error() -> None:
    with pytest.raises(KeyError):
        ENTRIES.chain("nothing")


def test_the_demo_has_what_an_ensemble_brings(demo: Session) -> None:
    kinds = {device.figures.kind for device in demo.setup.devices}
    assert kinds == {"microphone", "preamp", "passive_di", "mixer", "interface"}
    assert {source.figures.kind for source in demo.setup.sources} == {
        "acoustic",
        "pickup",
        "piezo",
        "line_output",
    }
    assert len(demo.setup.lines) >= 5
    assert len(demo.setup.performers) >= 4


def test_there_are_at_least_eighty_entries_of_every_kind_a_musician_meets() -> None:
    sections = (
        ENTRIES.sources,
        ENTRIES.devices,
        ENTRIES.cables,
        ENTRIES.headphones,
        ENTRIES.loudspeakers,
        ENTRIES.accessories,
    )
    assert sum(len(section) for section in sections) >= 80
    assert {e.kind for e in ENTRIES.accessories.values()} == {
        "shield",
        "stand",
        "adapter",
        "software",
    }
    kinds = {e.figures.kind for e in ENTRIES.devices.values()}
    assert kinds == set(DEVICE_KINDS), "every kind has an entry"
    patterns = {
        e.figures.pattern
        for e in ENTRIES.devices.values()
        if isinstance(e.figures, MicrophoneFigures)
    }
    assert {"omni", "cardioid", "supercardioid", "figure_eight"} <= patterns


def figure(entry: object, name: str) -> float:
    figures = entry.figures  # type: ignore[attr-defined]
    if name == "hardest_db":
        return float(figures.playing().hardest_db)
    return float(getattr(figures, name))


@pytest.mark.parametrize("key", [*ENTRIES.sources, *ENTRIES.devices])
def test_a_typical_figure_lies_in_its_usual_range(key: str) -> None:
    entry = ENTRIES.sources.get(key) or ENTRIES.devices[key]
    assert entry.usual, "every entry says how its main figure usually varies"
    for name, (low, high) in entry.usual.items():
        assert low < high
        assert low <= figure(entry, name) <= high


@pytest.mark.parametrize("key", ENTRIES.headphones)
def test_headphones_are_possible(key: str) -> None:
    figures = ENTRIES.headphones[key].figures
    assert 8.0 <= figures.impedance_ohm <= 600.0
    assert 85.0 <= figures.sensitivity_db_per_mw <= 120.0


@pytest.mark.parametrize("key", ENTRIES.loudspeakers)
def test_loudspeakers_are_possible(key: str) -> None:
    figures = ENTRIES.loudspeakers[key].figures
    assert 90.0 <= figures.max_spl_db <= 140.0
    assert -10.0 <= figures.full_level_dbu <= 22.0


def in_a_line(source_key: str, device_key: str) -> Session:
    """A source through a device into an interface: the least line it can stand in."""
    figures = ENTRIES.devices[device_key].figures if device_key else None
    if isinstance(figures, InterfaceFigures):
        port = next(i for i in figures.inputs)
        chain = Chain(
            id="x",
            name="x",
            line_name="X",
            says="x",
            lines=(
                ChainLine(
                    suffix="",
                    source="keyboard_output",
                    devices=(),
                    cables=("line_3",),
                    mode=next(iter(port.modes)),
                ),
            ),
        )
        entry = ENTRIES.devices[device_key]
        device = Device(id="own", name=entry.name, figures=figures)
        return add_chain(add_parts(Session(), devices=(device,)), ENTRIES, chain)[0]
    source = ENTRIES.sources[source_key].figures
    is_in_air = isinstance(source, AcousticFigures)
    devices = (device_key,) if device_key else ("condenser_small",) if is_in_air else ()
    cables = ("balanced_5",) * (len(devices) if is_in_air else len(devices) + 1)
    mode = "line" if source.kind == "line_output" and not devices else "microphone"
    part = ChainLine(suffix="", source=source_key, devices=devices, cables=cables, mode=mode)  # type: ignore[arg-type]
    chain = Chain(id="x", name="x", line_name="X", says="x", lines=(part,))
    return add_chain(Session(), ENTRIES, chain)[0]


@pytest.mark.parametrize("key", ENTRIES.sources)
def test_every_source_can_be_assessed_in_a_line(key: str) -> None:
    (item,) = assess(in_a_line(key, "")).lines
    assert item.route.is_complete
    assert item.state.peak_dbfs is not None
    assert -150.0 < item.state.peak_dbfs < 40.0
    assert item.spans


@pytest.mark.parametrize(
    "key",
    [
        key
        for key, entry in ENTRIES.devices.items()
        if not entry.figures.mixes and (entry.figures.records or entry.figures.output_ports())
    ],
)
def test_every_device_can_be_assessed_in_a_line(key: str) -> None:
    figures = ENTRIES.devices[key].figures
    source = "voice_singing" if isinstance(figures, MicrophoneFigures) else "double_coil"
    (item,) = assess(in_a_line(source, key)).lines
    assert item.route.is_complete
    levels = item.state.levels
    assert levels is not None
    assert levels.noise_dbfs_a is not None
    assert -140.0 < levels.noise_dbfs_a < -20.0
    assert sum(levels.noise_shares) == pytest.approx(1.0)


def test_every_input_reaches_full_scale_at_its_least_gain() -> None:
    """What clips before the converter with the gain down could never be set right."""
    for key, entry in catalogue().devices.items():
        figures = entry.figures
        if not isinstance(figures, InterfaceFigures):
            continue
        for item in figures.inputs:
            for mode, own in item.modes.items():
                if own.max_input_dbu is not None:
                    least_dbu = figures.full_scale_dbu - own.gain_min_db
                    assert own.max_input_dbu >= least_dbu, (key, item.name, mode)
