"""Search knows people's words, the likeliest first."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verve.core.catalogue import Searched, catalogue, search
from verve.core.catalogue._search import ALSO

ENTRIES = catalogue()
SOURCES = tuple(
    Searched(name=e.name, key=key, kind_words=e.figures.search_words)
    for key, e in ENTRIES.sources.items()
)
DEVICES = tuple(
    Searched(name=e.name, key=key, kind_words=e.figures.search_words)
    for key, e in ENTRIES.devices.items()
)
THINGS = tuple(
    Searched(name=e.name, key=key)
    for table in (ENTRIES.accessories, ENTRIES.headphones, ENTRIES.loudspeakers, ENTRIES.cables)
    for key, e in table.items()
)


@pytest.mark.parametrize(
    ("words", "begins"),
    [
        ("vocal", "voice_singing"),
        ("singer", "voice"),
        ("electric guitar", ("double_coil", "single_coil")),
        ("electro-acoustic", "piezo"),
        ("Electro acoustic", "piezo"),
        ("drums", ("drum_kit", "bass_drum", "snare")),
        ("beat", "drum_machine"),
        ("scream", "voice_shouted"),
        ("bass guitar", "bass_"),
        ("backing track", ("computer_output", "consumer_player")),
    ],
)
def test_sources_by_peoples_words(words: str, begins: str | tuple[str, ...]) -> None:
    found = search(words, SOURCES)
    assert found
    assert SOURCES[found[0]].key.startswith(begins)


@pytest.mark.parametrize(
    ("words", "begins"),
    [
        ("dynamic", "moving_coil"),
        ("audio interface", "interface"),
        ("di", ("passive_di", "active_di", "stereo_di", "piezo_di")),
        ("field recorder", "recorder"),
    ],
)
def test_devices_by_peoples_words(words: str, begins: str | tuple[str, ...]) -> None:
    found = search(words, DEVICES)
    assert DEVICES[found[0]].key.startswith(begins)


@pytest.mark.parametrize(
    ("words", "begins"),
    [
        ("pop filter", ("shield", "foam")),
        ("stand", "stand"),
        ("mic stand", ("stand", "arm")),
        ("shock mount", "shock_mount"),
        ("adapter", ("thread", "jack", "plug", "y_")),
        ("speaker", ("monitor", "stage_wedge")),
        ("headphones", ("closed", "open", "in_ear", "headphone")),
        ("xlr cable", "balanced"),
    ],
)
def test_things_by_peoples_words(words: str, begins: str | tuple[str, ...]) -> None:
    found = search(words, THINGS)
    assert THINGS[found[0]].key.startswith(begins)


@given(st.text(max_size=12))
def test_whatever_is_typed_gives_places_once(words: str) -> None:
    found = search(words, SOURCES)
    assert len(set(found)) == len(found)
    assert set(found) <= set(range(len(SOURCES)))


def test_every_name_finds_itself_first_or_beside_its_like() -> None:
    for at, one in enumerate(DEVICES):
        found = search(one.name, DEVICES)
        assert at in found
        assert DEVICES[found[0]].name.casefold().startswith(one.name.casefold())


def test_every_other_word_is_for_something_that_is_there() -> None:
    keys = [*ENTRIES.sources, *ENTRIES.devices, *(one.key for one in THINGS)]
    for begin in ALSO:
        assert any(key.startswith(begin) for key in keys), begin
