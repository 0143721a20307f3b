"""A clipped take is told until it is recorded again, whatever is done beside it."""

from __future__ import annotations

import pytest

from verve.core.assess import assess
from verve.core.session import (
    Figure,
    Session,
    Snapshot,
    Take,
    TakeTrack,
    add_take,
    rename_line,
    rename_session,
    set_level_target,
)


@pytest.fixture
def clipped(mended: Session) -> Session:
    """A session whose last take clipped on the voice."""
    track = TakeTrack(
        line="voice",
        name="Voice",
        file="voice.wav",
        peak_dbfs=Figure(measured=0.0, predicted=-3.0),
        noise_dbfs_a=Figure(measured=-80.0, predicted=-80.0),
        clipped_frames=12,
    )
    take = Take(
        id="take_1",
        name="Take 1",
        recorded_at="2026-05-04T20:15:00+02:00",
        seconds=10.0,
        play="hardest",
        tracks=(track,),
        setup=Snapshot.of(mended.setup),
    )
    return add_take(mended, take)


def told(session: Session) -> list[str]:
    return [f.rule for f in assess(session).findings if f.rule == "take_clipped"]


def test_a_clipped_take_is_told(clipped: Session) -> None:
    assert told(clipped) == ["take_clipped"]


def test_names_and_aims_do_not_hide_it(clipped: Session) -> None:
    for session in (
        rename_line(clipped, "voice", "Singer"),
        rename_line(clipped, "harp_left", "Harp, left"),
        rename_session(clipped, "Another evening"),
        set_level_target(clipped, "hot"),
    ):
        assert told(session) == ["take_clipped"]
