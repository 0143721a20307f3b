"""The catalogue: every entry is possible, and every chain can be put in and followed to the end."""

from __future__ import annotations

import pytest

from tests.conftest import follow
from verve.core.assess import assess
from verve.core.catalogue import add_chain, catalogue
from verve.core.session import (
    AcousticFigures,
    InterfaceFigures,
    MicrophoneFigures,
    MixerFigures,
    Session,
    from_json,
    playing_range,
    to_json,
)

ENTRIES = catalogue()


@pytest.mark.parametrize("key", ENTRIES.sources)
def test_a_source_is_possible(key: str) -> None:
    figures = ENTRIES.sources[key].figures
    playing = playing_range(figures)
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
            assert figures.phantom == "needs"
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
