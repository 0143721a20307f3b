"""Standing by: a recording begins at once, rounds are takes of their own, what was played is not lost."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import pytest
import soundfile

from verve.core.session import (
    Session,
    Take,
    add_section,
    add_take,
    set_song,
)
from verve.core.takes import RecordPlan, clicks, count_in, plan_of, rounds_of
from verve.devices import Begun, Order, Orders, Recorded, Standing, StandRequest, stand, unfinished

RATE_HZ = 48_000


@dataclass
class Stood:
    """Somebody who stands by in a thread of their own, and what they have told."""

    orders: Orders = field(default_factory=Orders)
    told: list[object] = field(default_factory=list)
    over: threading.Event = field(default_factory=threading.Event)
    changed: threading.Condition = field(default_factory=threading.Condition)
    thread: threading.Thread | None = None

    def begin(self, request: StandRequest) -> None:
        def report(what: object) -> None:
            with self.changed:
                self.told.append(what)
                self.changed.notify_all()

        self.thread = threading.Thread(
            target=stand, args=(request, self.orders, report, self.over.is_set), daemon=True
        )
        self.thread.start()

    def until(self, is_so: Callable[[], bool]) -> None:
        with self.changed:
            assert self.changed.wait_for(is_so, timeout=20.0), self.told[-3:]

    def end(self) -> None:
        self.over.set()
        assert self.thread is not None
        self.thread.join(timeout=20.0)
        assert not self.thread.is_alive()

    @property
    def takes(self) -> list[Take]:
        return [take for one in self.told if isinstance(one, Recorded) for take in one.takes]

    @property
    def state(self) -> Standing | None:
        found = [one for one in self.told if isinstance(one, Standing)]
        return found[-1] if found else None


@pytest.fixture
def song(mended: Session) -> Session:
    """Two sections of four seconds at 120 beats a minute."""
    session = set_song(
        mended, mended.song.model_copy(update={"tempo_bpm": 120.0, "lead_in_s": 1.0})
    )
    session, _ = add_section(session, "Verse", 0.0, 4.0)
    return add_section(session, "Chorus", 4.0, 8.0)[0]


def standing(session: Session, folder: Path, lines: tuple[str, ...] = ("voice",)) -> Stood:
    stood = Stood()
    stood.begin(
        StandRequest(id=1, session=session, lines=lines, play="phrase", base=folder, is_paced=False)
    )
    stood.until(lambda: stood.state is not None)
    return stood


def test_a_section_is_recorded_from_its_lead_in_to_after_its_end(
    song: Session, tmp_path: Path
) -> None:
    stood = standing(song, tmp_path)
    plan = plan_of(song, "chorus")
    stood.orders.put(Order(deed="begin", plan=plan))
    stood.until(lambda: bool(stood.takes))
    stood.end()
    (take,) = stood.takes
    # Two seconds of count-in at 120, the section, one second after it.
    assert (take.start_s, take.seconds, take.section, take.layer) == (2.0, 7.0, "chorus", "evening")
    (track,) = take.tracks
    info = soundfile.info(track.file)
    assert info.frames == 7 * RATE_HZ
    assert track.peak_dbfs.measured is not None
    assert take.ended == "whole"
    (begun,) = [one for one in stood.told if isinstance(one, Begun)]
    assert begun.after_ms < 300.0


def test_all_rounds_of_a_loop_are_takes_in_one_file(song: Session, tmp_path: Path) -> None:
    stood = standing(song, tmp_path)
    plan = plan_of(song, "chorus", loops=True)
    stood.orders.put(Order(deed="begin", plan=plan))
    stood.until(lambda: stood.state is not None and stood.state.round == 2)
    stood.orders.put(Order(deed="mark"))
    stood.until(lambda: stood.state is not None and stood.state.round == 4)
    stood.orders.put(Order(deed="stop"))
    stood.until(lambda: bool(stood.takes))
    stood.end()
    takes = stood.takes
    assert [take.name for take in takes[:3]] == ["Take 1", "Take 2", "Take 3"]
    assert len({take.id for take in takes}) == len(takes)
    assert len({track.file for take in takes for track in take.tracks}) == 1
    # Each has a second before and after it, and knows where it lies in the song and in the file.
    assert [take.start_s for take in takes[:3]] == [2.0, 2.0, 2.0]
    begins = [take.tracks[0].begin_frame or 0 for take in takes[:3]]
    assert begins == [0, 4 * RATE_HZ, 8 * RATE_HZ]
    assert [take.rating for take in takes[:3]] == [0, 4, 0]
    assert takes[1].marks_s is not None
    whole, _ = soundfile.read(takes[0].tracks[0].file)
    for number in (0, 1):
        own = whole[(2 + 4 * number) * RATE_HZ : (6 + 4 * number) * RATE_HZ]
        peak = 20.0 * np.log10(np.abs(own).max())
        assert takes[number].tracks[0].peak_dbfs.measured == pytest.approx(peak, abs=0.01)


def test_a_false_start_is_kept_aside_and_begun_anew(song: Session, tmp_path: Path) -> None:
    stood = standing(song, tmp_path)
    stood.orders.put(Order(deed="begin", plan=plan_of(song, "verse")))
    stood.until(lambda: stood.state is not None and stood.state.state == "recording")
    stood.orders.put(Order(deed="again"))
    stood.until(lambda: len([x for x in stood.told if isinstance(x, Begun)]) == 2)
    stood.until(lambda: len(stood.takes) == 2)
    stood.end()
    first, second = stood.takes
    assert first.aside
    assert first.ended == "stopped"
    assert not second.aside
    assert second.ended == "whole"
    assert first.id != second.id
    assert all(Path(take.tracks[0].file).exists() for take in stood.takes)


def test_what_was_just_played_can_be_kept(song: Session, tmp_path: Path) -> None:
    stood = standing(song, tmp_path, ("voice", "harp_left"))
    stood.until(lambda: len(stood.told) > 40)
    stood.orders.put(Order(deed="keep"))
    stood.until(lambda: bool(stood.takes))
    stood.orders.put(Order(deed="keep"))
    stood.until(lambda: any(isinstance(x, str) for x in stood.told) or len(stood.takes) > 1)
    stood.end()
    take = stood.takes[0]
    assert take.seconds > 2.0
    assert {track.line for track in take.tracks} == {"voice", "harp_left"}
    assert take.start_s is None
    assert next(one for one in stood.told if isinstance(one, Recorded)).is_kept


def test_a_recording_that_is_going_on_at_the_end_is_kept(song: Session, tmp_path: Path) -> None:
    stood = standing(song, tmp_path)
    stood.orders.put(Order(deed="begin", plan=plan_of(song, None)))
    stood.until(lambda: stood.state is not None and stood.state.seconds > 3.0)
    # Meanwhile its log lies beside it: whatever happens to the program, it can be taken up.
    assert len(list(tmp_path.glob("*/.verve-take.json"))) == 1
    assert unfinished(tmp_path) == ()
    stood.end()
    (take,) = stood.takes
    assert take.ended == "stopped"
    assert take.seconds > 3.0


def test_a_folder_that_is_gone_ends_nothing(song: Session, tmp_path: Path) -> None:
    stood = standing(song, tmp_path / "a")
    stood.orders.put(Order(deed="begin", plan=plan_of(song, "verse")))
    stood.until(lambda: stood.state is not None and stood.state.state == "recording")
    (tmp_path / "a").rename(tmp_path / "b")
    stood.until(lambda: bool(stood.takes))
    stood.end()
    assert Path(stood.takes[0].tracks[0].file).exists()


def test_where_nothing_can_be_written_it_is_said_and_standing_goes_on(
    song: Session, tmp_path: Path
) -> None:
    blocked = tmp_path / "blocked"
    blocked.write_text("in the way")
    stood = standing(song, blocked)
    stood.orders.put(Order(deed="begin", plan=plan_of(song, "verse")))
    stood.until(lambda: any(isinstance(x, str) for x in stood.told))
    assert stood.state is not None
    stood.end()
    assert stood.takes == []


def test_takes_that_follow_each_other_have_names_of_their_own(
    song: Session, tmp_path: Path
) -> None:
    stood = standing(song, tmp_path)
    for count in (1, 2):
        stood.orders.put(Order(deed="begin", plan=plan_of(song, "verse")))
        stood.until(lambda count=count: len(stood.takes) == count)  # type: ignore[misc]
    stood.end()
    session = song
    for take in stood.takes:
        session = add_take(session, take)
    assert [take.name for take in session.takes] == ["Take 1", "Take 2"]


def test_the_count_in_comes_before_the_song_begins(song: Session) -> None:
    assert count_in(song.song, 0.0) == (-2.0, -1.5, -1.0, -0.5)
    plan = plan_of(song, "verse")
    assert (plan.start_s, plan.from_s, plan.until_s) == (-2.0, 0.0, 4.0)
    assert plan.seconds == 7.0
    no_tempo = set_song(song, song.song.model_copy(update={"tempo_bpm": None}))
    assert plan_of(no_tempo, "chorus").start_s == 3.0
    assert plan_of(no_tempo, "verse").start_s == 0.0


def test_beats_of_a_stretch_of_the_song(song: Session) -> None:
    assert clicks(song.song, 0.9, 2.1) == ((1.0, False), (1.5, False), (2.0, True))
    late = song.song.model_copy(update={"first_beat_s": 0.25, "beats": 3})
    assert clicks(late, 0.0, 2.0) == ((0.25, True), (0.75, False), (1.25, False), (1.75, True))


def test_a_loop_counts_its_rounds_and_comes_back_in_the_song() -> None:
    plan = RecordPlan(section="x", start_s=2.0, from_s=4.0, until_s=8.0, tail_s=1.0, loops=True)
    assert [plan.round(t) for t in (0.0, 1.9, 2.0, 5.9, 6.0)] == [0, 0, 1, 1, 2]
    assert [plan.song_s(t) for t in (0.0, 2.0, 5.0, 6.0, 7.5)] == [2.0, 4.0, 7.0, 4.0, 5.5]
    rounds = rounds_of(plan, 11.0)
    assert [(one.begin_s, one.seconds) for one in rounds] == [(0.0, 7.0), (4.0, 7.0), (8.0, 3.0)]
    # What is shorter than a second is no round; before the first one everything is one take.
    assert len(rounds_of(plan, 10.5)) == 2
    assert len(rounds_of(plan, 1.5)) == 1


def test_what_is_stopped_before_the_first_sound_is_over_and_leaves_nothing(
    song: Session, tmp_path: Path
) -> None:
    stood = standing(song, tmp_path)
    stood.orders.put(Order(deed="begin", plan=plan_of(song, "verse")))
    stood.orders.put(Order(deed="stop"))
    stood.until(lambda: any(isinstance(one, Recorded) for one in stood.told))
    stood.end()
    assert stood.takes == []
    assert not list(tmp_path.rglob("*.wav"))
