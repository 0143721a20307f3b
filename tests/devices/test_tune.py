"""Tuning from a simulated player and from a file: heard in their own time, until nobody listens."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile

from verve.core.demo import demo_session
from verve.core.errors import FileError, InputError
from verve.core.measure import Reading
from verve.core.session import set_a4
from verve.devices import TuneRequest, tune


def heard(request: TuneRequest, blocks: int) -> list[Reading]:
    """What is reported in so many blocks, without waiting for their time."""
    found: list[Reading | None] = []
    tune(request, found.append, lambda: len(found) >= blocks)
    assert len(found) == blocks
    return [reading for reading in found if reading is not None]


def test_a_simulated_player_plays_notes() -> None:
    readings = heard(TuneRequest(session=demo_session(), line="baritone_line", is_paced=False), 150)
    assert len({reading.note for reading in readings}) >= 2
    assert any(reading.is_settled for reading in readings)


def test_a_file_goes_round_until_nobody_listens(tmp_path: Path) -> None:
    path = tmp_path / "a.wav"
    t = np.arange(24_000) / 48_000
    soundfile.write(path, 0.3 * np.sin(2.0 * np.pi * 220.5 * t), 48_000)
    session = set_a4(demo_session(), 441.0)
    readings = heard(TuneRequest(session=session, path=path, is_paced=False), 100)
    assert len(readings) > 60
    assert {reading.note for reading in readings} == {"A3"}
    assert readings[-1].cents == pytest.approx(0.0, abs=0.5)


def test_what_cannot_be_listened_to_is_said(tmp_path: Path) -> None:
    with pytest.raises(FileError, match="no such file"):
        heard(TuneRequest(session=demo_session(), path=tmp_path / "none.wav"), 1)
    with pytest.raises(InputError, match="must be one of"):
        heard(TuneRequest(session=demo_session(), line="nobody"), 1)
