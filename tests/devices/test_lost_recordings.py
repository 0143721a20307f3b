"""A take cannot be repeated: whatever ends a recording, what was recorded is kept and can be played."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import soundfile

from tests.devices.test_record import request_for
from verve.core.errors import CancelledError, FileError
from verve.core.session import Session, Take
from verve.core.soundfiles import WavWriter
from verve.devices import forget_log, record, taken_up, unfinished

LINES = ("voice", "harp_left")


def _held_together(take: Take) -> None:
    """Every track can be played, is as long as the take says, and measured as its file is."""
    assert take.tracks
    for track in take.tracks:
        info = soundfile.info(track.file)
        assert info.duration == pytest.approx(take.seconds, abs=0.2)
        assert track.peak_dbfs.measured is not None
    folder = Path(take.tracks[0].file).parent
    assert not list(folder.glob("*.part"))


def test_a_stopped_take_has_what_was_recorded_until_then(mended: Session, tmp_path: Path) -> None:
    calls = iter(range(1000))
    take = record(request_for(mended, tmp_path / "t", LINES), is_stopped=lambda: next(calls) > 20)
    _held_together(take)
    assert (take.ended, take.reason) == ("stopped", "")
    assert 0.0 < take.seconds < 6.0


def test_one_stopped_before_the_first_sound_leaves_nothing(mended: Session, tmp_path: Path) -> None:
    with pytest.raises(CancelledError):
        record(request_for(mended, tmp_path / "t", LINES), is_stopped=lambda: True)
    assert list(tmp_path.glob("t/*")) == []


@pytest.mark.parametrize(
    "error", [FileError("x", "cannot be written: it burns", ""), OSError(5, "")]
)
@pytest.mark.parametrize("at", [1, 2, 7, 30])
def test_whatever_fails_in_mid_take_what_was_recorded_is_kept(
    mended: Session, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, at: int, error: Exception
) -> None:
    real, count = WavWriter.write, 0

    def write(writer: WavWriter, samples: Any) -> None:
        nonlocal count
        count += 1
        if count > at * len(LINES):
            raise error
        real(writer, samples)

    monkeypatch.setattr(WavWriter, "write", write)
    take = record(request_for(mended, tmp_path / "t", LINES))
    _held_together(take)
    assert take.ended == "cut_off"
    assert take.reason


def test_one_that_fails_at_once_is_told_and_leaves_nothing(
    mended: Session, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def write(*_: object) -> None:
        raise FileError("x", "cannot be written: it burns", "")

    monkeypatch.setattr(WavWriter, "write", write)
    with pytest.raises(FileError, match="it burns"):
        record(request_for(mended, tmp_path / "t", LINES))
    assert list(tmp_path.glob("t/*")) == []


def test_a_folder_that_goes_in_mid_take_is_made_anew(mended: Session, tmp_path: Path) -> None:
    folder, reports = tmp_path / "t", iter(range(1000))

    def report(_: object) -> None:
        if next(reports) == 10:
            shutil.rmtree(folder)

    take = record(request_for(mended, folder, LINES), report)
    _held_together(take)
    assert take.ended == "whole"


@pytest.fixture
def small_disk(tmp_path: Path) -> Iterator[Path]:
    """A disk of 600 kB, where one may be made: two lines of six seconds are 1.7 MB."""
    place = tmp_path / "small"
    place.mkdir()
    if os.system(f"mount -t tmpfs -o size=600k none '{place}' 2>/dev/null"):
        pytest.skip("no disk can be mounted here")
    yield place
    os.system(f"umount '{place}'")


def test_a_disk_that_is_full_in_mid_take_keeps_what_it_has(
    mended: Session, small_disk: Path
) -> None:
    take = record(request_for(mended, small_disk / "t", LINES))
    _held_together(take)
    assert take.ended == "cut_off"
    assert "the disk is full" in take.reason
    assert "MB free in" in take.reason
    assert 0.3 < take.seconds < 3.0


def _killed(session: Session, folder: Path, after: int) -> None:
    """A program that was killed at the so-and-so-many-th block of a recording."""
    file = folder / "session.json"
    folder.mkdir(parents=True, exist_ok=True)
    file.write_text(session.model_dump_json())
    code = (
        "import itertools, os, sys; from pathlib import Path\n"
        "from tests.devices.test_record import request_for; from verve.core.session import Session\n"
        "from verve.devices import record\n"
        f"session = Session.model_validate_json(Path({str(file)!r}).read_text())\n"
        "reports = itertools.count()\n"
        "def report(_):\n"
        f"    if next(reports) == {after}: os.kill(os.getpid(), {int(signal.SIGKILL)})\n"
        f"record(request_for(session, Path({str(folder / 'Take 1')!r}), {LINES!r}), report)"
    )
    done = subprocess.run([sys.executable, "-c", code], check=False)
    assert done.returncode == -signal.SIGKILL


@pytest.mark.parametrize("after", [0, 25])
def test_what_a_killed_program_recorded_is_taken_up(
    mended: Session, tmp_path: Path, after: int
) -> None:
    _killed(mended, tmp_path, after)
    (found,) = unfinished(tmp_path)
    assert found.take.name == "Take 1"
    take = taken_up(found, "the lights went out")
    _held_together(take)
    assert (take.ended, take.reason) == ("cut_off", "the lights went out")
    assert take.seconds > 0.0
    assert [t.line for t in take.tracks] == list(LINES)
    assert take.setup == mended.setup
    # Until it is in a session that is kept it is found again, with the same answer.
    (again,) = unfinished(tmp_path)
    assert taken_up(again, "the lights went out").tracks == take.tracks
    forget_log(take)
    assert unfinished(tmp_path) == ()


def test_a_recording_that_is_going_on_is_not_offered(mended: Session, tmp_path: Path) -> None:
    seen = []

    def report(_: object) -> None:
        seen.append(unfinished(tmp_path))

    take = record(request_for(mended, tmp_path / "Take 1", LINES, seconds=3.0), report)
    assert set(seen) == {()}
    (found,) = unfinished(tmp_path)
    assert found.take == take


def test_broken_logs_and_empty_takes_are_left_alone(mended: Session, tmp_path: Path) -> None:
    for number, text in enumerate(("", "{}", "[1]", "\ud7ff")):
        place = tmp_path / f"Take {number}"
        place.mkdir()
        (place / ".verve-take.json").write_text(text)
    assert unfinished(tmp_path) == ()
    assert unfinished(tmp_path / "nowhere") == ()
    take = record(request_for(mended, tmp_path / "Take 9", LINES, seconds=3.0))
    for track in take.tracks:
        Path(track.file).unlink()
    (found,) = unfinished(tmp_path)
    with pytest.raises(FileError, match="holds no sound"):
        taken_up(found, "why")
