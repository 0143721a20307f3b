"""All takes of a section one after another, eight seconds of each."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile

from tests.core.mix.recorded import RATE_HZ, song_of_two_sections, tone, with_take
from verve.core.errors import CancelledError, InputError
from verve.core.mix import ROUND_S, take_sheet, write_in_a_row
from verve.core.session import Session, add_section

PITCHES_HZ = (200.0, 310.0, 450.0)


def three_takes(folder: Path) -> Session:
    session = song_of_two_sections()
    session, _ = add_section(session, "Long", 8.0, 40.0)
    for number, hz in enumerate(PITCHES_HZ, 1):
        session = with_take(session, folder, number, {"voice": tone(hz, 40.0)})
    return session


@pytest.mark.parametrize(("name", "seconds"), [("Verse", 4.0), ("Long", ROUND_S)])
def test_each_take_sounds_in_its_turn(tmp_path: Path, name: str, seconds: float) -> None:
    session = three_takes(tmp_path)
    (row,) = (one for one in take_sheet(session, "voice") if one.name == name)
    path = tmp_path / "row.wav"
    begins = write_in_a_row(session, "voice", row, path)
    assert begins == pytest.approx([n * (seconds + 0.4) for n in range(3)], abs=0.001)
    samples, rate_hz = soundfile.read(path)
    assert rate_hz == RATE_HZ
    assert np.abs(samples).max() <= 0.9
    for begin_s, hz in zip(begins, PITCHES_HZ, strict=True):
        there = samples[round(begin_s * rate_hz) :][: round(seconds * rate_hz), 0]
        spectrum = np.abs(np.fft.rfft(there * np.hanning(len(there))))
        assert np.argmax(spectrum) * rate_hz / len(there) == pytest.approx(hz, abs=1.0)
        between = samples[round((begin_s + seconds + 0.05) * rate_hz) :][: rate_hz // 4]
        assert not between.any()


def test_it_is_given_up_and_nothing_is_said_of_no_take(tmp_path: Path) -> None:
    session = three_takes(tmp_path)
    row = take_sheet(session, "voice")[0]
    with pytest.raises(CancelledError):
        write_in_a_row(session, "voice", row, tmp_path / "row.wav", lambda: False)
    empty = song_of_two_sections()
    (none, *_) = take_sheet(empty, "voice")
    with pytest.raises(InputError, match="record it first"):
        write_in_a_row(empty, "voice", none, tmp_path / "row.wav")
    assert not list(tmp_path.glob("row*"))
