"""Two setups in words: what a musician would want to be told."""

from __future__ import annotations

from dataclasses import replace

import pytest

from tests.core.session.test_edits import take_of
from verve.core.assess import assess
from verve.core.session import (
    Audio,
    Change,
    Figure,
    Session,
    TakeTrack,
    apply_changes,
    change_cue,
    remove_line,
    rename_line,
    set_audio,
    set_control,
    set_level_target,
    set_room,
)
from verve.core.takes import differences, track_advice


def changed(session: Session, owner: str, channel: str, name: str, value: object) -> Session:
    change = Change(owner=owner, channel=channel, name=name, value=value)  # type: ignore[arg-type]
    return set_control(session, change)


@pytest.mark.parametrize(
    ("owner", "channel", "name", "value", "words"),
    [
        ("interface", "in.1", "gain_db", 30.0, "Interface 1: gain +30 dB, was +26 dB"),
        ("interface", "phantom.1", "phantom", True, "Interface 1: phantom 48 V on, was off"),
        ("voice_mic", "capsule", "distance_m", 0.3, "distance 30 cm, was 12 cm"),
        ("baritone", "out", "volume_position", 0.5, "instrument volume 50%, was full up"),
        ("mixer", "in.3", "pan", 0.0, "Small mixer 3: pan centre, was hard left"),
        ("mixer", "main", "fader_db", -3.0, "main fader −3 dB, was 0 dB"),
        ("interface", "in.6", "mode", "instrument", "input mode instrument, was line"),
    ],
)
def test_a_moved_control_is_told_with_both_values(
    demo: Session, owner: str, channel: str, name: str, value: object, words: str
) -> None:
    (found,) = differences(demo.setup, changed(demo, owner, channel, name, value).setup)
    assert words in found.words
    assert found.back is not None


def test_going_back_undoes_the_difference(demo: Session) -> None:
    moved = changed(demo, "interface", "in.1", "gain_db", 30.0)
    backs = tuple(d.back for d in differences(demo.setup, moved.setup) if d.back is not None)
    assert differences(demo.setup, apply_changes(moved, backs).setup) == ()


def test_equal_setups_have_no_differences(demo: Session) -> None:
    assert differences(demo.setup, demo.setup) == ()


def test_lines_that_come_go_and_change_their_name_are_told(demo: Session) -> None:
    gone = [d.words for d in differences(demo.setup, remove_line(demo, "voice").setup)]
    assert "signal Voice is gone" in gone
    assert "gear Inline preamp is gone" in gone
    back = [d.words for d in differences(remove_line(demo, "voice").setup, demo.setup)]
    assert "signal Voice is new" in back
    named = [d.words for d in differences(demo.setup, rename_line(demo, "voice", "Lead").setup)]
    assert named == ["signal Voice is now called Lead"]


def test_the_recorder_the_room_and_the_target_are_told(demo: Session) -> None:
    other = set_audio(demo, Audio(sample_rate_hz=96000, bit_depth=16, buffer_frames=128))
    other = set_room(other, demo.setup.room.model_copy(update={"noise_dba": 40.0}))
    other = set_level_target(other, "peaks")
    words = [d.words for d in differences(demo.setup, other.setup)]
    assert "sample rate 96000 Hz, was 48000 Hz" in words
    assert "bit depth 16 bit, was 24 bit" in words
    assert "buffer 128 samples, was 1024 samples" in words
    assert "room noise 40.0 dBA, was 27.0 dBA" in words
    assert "level target peaks, was ceiling" in words


def test_who_hears_otherwise_is_told(demo: Session) -> None:
    other = change_cue(demo, "cellist", {"worn": "in_ears"})
    words = [d.words for d in differences(demo.setup, other.setup)]
    assert words == ["Cellist hears something else, or otherwise"]


def test_a_cable_that_goes_elsewhere_or_is_longer_is_told(demo: Session) -> None:
    def with_link(**update: object) -> Session:
        links = tuple(
            link.model_copy(update=update) if link.id == "cello_cable" else link
            for link in demo.setup.links
        )
        return demo.model_copy(update={"setup": demo.setup.model_copy(update={"links": links})})

    moved = with_link(end="interface:in.5")
    assert any(
        "now goes to interface in.5" in d.words for d in differences(demo.setup, moved.setup)
    )
    cable = next(link.cable for link in demo.setup.links if link.id == "cello_cable")
    assert cable is not None
    longer = with_link(cable=cable.model_copy(update={"length_m": 9.0}))
    assert any("is now 9 m" in d.words for d in differences(demo.setup, longer.setup))


def track(measured: float | None, predicted: float | None, clipped: int = 0) -> TakeTrack:
    return TakeTrack(
        line="voice",
        name="Voice",
        file="x.wav",
        peak_dbfs=Figure(measured=measured, predicted=predicted),
        noise_dbfs_a=Figure(),
        clipped_frames=clipped,
    )


@pytest.mark.parametrize(
    ("what", "words"),
    [
        (track(-8.0, -8.1), "Nothing: it is as computed."),
        (track(0.0, 0.0, 10), "It clipped: lower the gain and record it again."),
        (track(-14.0, -8.0), "6 dB quieter than computed"),
        (track(-2.0, -8.0), "6 dB louder than computed"),
        (track(None, -8.0), "Nothing: it is as computed."),
    ],
)
def test_advice_after_a_rehearsal(what: TakeTrack, words: str) -> None:
    assert words in track_advice(what, None)


@pytest.mark.parametrize("ended", ["stopped", "cut_off"])
def test_a_take_that_ended_early_is_compared_with_nothing(mended: Session, ended: str) -> None:
    track = take_of(mended).tracks[0]
    quiet = replace(track, peak_dbfs=replace(track.peak_dbfs, measured=-42.0))
    early = take_of(mended).model_copy(update={"tracks": (quiet,), "ended": ended})
    session = mended.model_copy(update={"takes": (early,)})
    assessment = assess(session)
    assert "take_surprises" not in {f.rule for f in assessment.findings}
    assert assessment.next.step == "check", "a part of a take is no rehearsal"
    assert "ended early" in track_advice(quiet, None, is_whole=False)


def test_where_the_others_were_silent_a_softer_take_is_no_surprise() -> None:
    alone = track(-14.0, -8.0)
    assert "6 dB quieter" in track_advice(alone, None)
    assert "as computed" in track_advice(alone, None, beside_db=4.3)
    assert "quieter" in track_advice(track(-16.0, -8.0), None, beside_db=4.3)
    # Louder than everybody together is one all the same.
    assert "6 dB louder" in track_advice(track(-2.0, -8.0), None, beside_db=4.3)
