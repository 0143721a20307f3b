"""Before a take: what has been forgotten is said, and nothing where nothing was."""

from __future__ import annotations

import pytest

from tests.core.mix.recorded import RATE_HZ
from tests.core.session.test_edits import take_of
from verve.core.assess import assess
from verve.core.session import (
    Change,
    Session,
    Snapshot,
    TakeTrack,
    add_double,
    add_take,
    arm_line,
    change_cue,
    decline_tuning,
    edit_take,
    name_settings,
    set_control,
    set_tuning,
    turn_to_layer,
    use_settings,
)
from verve.core.session import Tuning as HowOften
from verve.core.takes import Ready, ready_check

assert RATE_HZ


def gained(session: Session, gain_db: float) -> Session:
    change = Change(owner="interface", channel="in.1", name="gain_db", value=gain_db)
    return set_control(session, change)


def now(session: Session, today: str = "2026-05-04") -> Ready:
    return ready_check(session, assess(session).findings, today)


@pytest.fixture
def recorded(mended: Session) -> Session:
    """The mended demo with one good take of everything, its buffer as for recording."""
    audio = mended.setup.audio.model_copy(update={"buffer_frames": 64})
    mended = mended.model_copy(update={"setup": mended.setup.model_copy(update={"audio": audio})})
    take = take_of(mended)
    tracks = tuple(
        TakeTrack(
            line=line.id, name=line.name, file=f"/x/{line.id}.wav",
            peak_dbfs=take.tracks[0].peak_dbfs, noise_dbfs_a=take.tracks[0].noise_dbfs_a,
            clipped_frames=0,
        )
        for line in mended.setup.lines
    )  # fmt: skip
    return add_take(mended, take.model_copy(update={"tracks": tracks, "rating": 4}))


def test_nothing_is_in_the_way_when_nothing_has_changed(recorded: Session) -> None:
    ready = now(recorded)
    assert ready.is_clear, ready.items
    assert len(ready.armed) == len(recorded.setup.lines)


def test_a_gain_that_was_turned_down_for_talking_is_asked_for(recorded: Session) -> None:
    was = recorded.setup.devices[-1].settings["in.1"].gain_db or 0.0
    moved = gained(recorded, was - 9.0)
    (item,) = now(moved).items
    assert item.words == "Interface 1: gain 9 dB lower since Take 1: turned down for talking?"
    assert item.knob is not None
    assert item.knob.wanted == was
    assert item.mend is not None
    assert now(item.mend(moved)).is_clear


def test_it_is_the_last_good_take_that_counts(recorded: Session) -> None:
    was = recorded.setup.devices[-1].settings["in.1"].gain_db or 0.0
    moved = gained(recorded, was - 9.0)
    bad = recorded.takes[0].model_copy(
        update={"id": "take_2", "name": "Take 2", "snapshot": Snapshot.of(moved.setup), "rating": 1}
    )
    again = add_take(moved, bad)
    assert "since Take 1" in now(again).items[0].words
    good = edit_take(edit_take(again, "take_2", rating=4), "take_1", rating=2)
    assert now(good).is_clear


def test_another_way_of_playing_is_told_by_its_name(recorded: Session) -> None:
    session, sing = name_settings(recorded, "voice", "sing")
    was = recorded.setup.devices[-1].settings["in.1"].gain_db or 0.0
    session, talk = name_settings(gained(session, was - 9.0), "voice", "talk")
    (item,) = now(session).items
    assert item.words == "Voice is set for “talk”; Take 1 was with “sing”."
    assert item.button == "Switch to “sing”"
    assert item.mend is not None
    assert now(item.mend(session)).is_clear
    assert item.mend(session).named_settings == use_settings(session, sing).named_settings
    drifted = gained(use_settings(session, sing), was - 3.0)
    assert any("is no longer as in “sing”" in one.words for one in now(drifted).items)
    assert talk != sing


def test_what_is_armed_wrongly_is_told(recorded: Session) -> None:
    unarmed = arm_line(recorded, "voice", is_armed=False)
    assert [one.words for one in now(unarmed).items] == ["Voice: not armed, and in Take 1."]
    nothing = unarmed
    for line in recorded.setup.lines:
        nothing = arm_line(nothing, line.id, is_armed=False)
    assert now(nothing).items[0].words.startswith("Nothing is armed")
    line = recorded.setup.lines[0]
    twice = recorded.setup.model_copy(
        update={"lines": (*recorded.setup.lines, line.model_copy(update={"id": "b", "name": "B"}))}
    )
    both = recorded.model_copy(update={"setup": twice})
    assert "Voice and B are armed on one input" in now(both).items[0].words


def test_buffer_effects_and_loudspeakers_are_asked_for(recorded: Session) -> None:
    audio = recorded.setup.audio.model_copy(update={"buffer_frames": 1024})
    large = recorded.model_copy(
        update={"setup": recorded.setup.model_copy(update={"audio": audio})}
    )
    assert any(one.kind == "buffer" for one in now(large).items)
    who = recorded.setup.sources[0].performer or recorded.setup.sources[0].id
    printed = change_cue(recorded, who, {"effects": "printed"})
    assert any(one.kind == "effects" for one in now(printed).items)
    loud = change_cue(recorded, who, {"worn": "loudspeaker"})
    assert any(one.kind == "loudspeaker" for one in now(loud).items)


def test_strings_are_asked_for_as_often_as_wanted_and_not_after_two_refusals(
    recorded: Session,
) -> None:
    each = set_tuning(recorded, HowOften(asked="each"))
    (item,) = now(each).items
    assert item.kind == "tuning"
    assert item.mend is not None
    assert now(item.mend(each)).is_clear
    once = decline_tuning(each, "2026-05-04")
    again = add_take(once, recorded.takes[0])
    assert not now(again).is_clear
    twice = decline_tuning(again, "2026-05-04")
    more = add_take(twice, recorded.takes[0])
    assert now(more).is_clear
    assert not now(more, "2026-05-05").is_clear
    seldom = set_tuning(recorded, HowOften(asked="every", every=3))
    assert now(seldom).is_clear


def test_a_double_is_not_asked_what_its_first_was_set_to(recorded: Session) -> None:
    doubled = add_double(recorded, "voice")
    assert now(doubled).is_clear
    assert now(turn_to_layer(doubled, "evening")).is_clear
