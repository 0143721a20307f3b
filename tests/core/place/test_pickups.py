"""A microphone and a pickup of one instrument: geometry, and two tracks that were recorded."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

import numpy as np
import pytest

from verve.core.air import positions_of
from verve.core.demo import demo_session
from verve.core.measure import alignment_of
from verve.core.place import direct_partners, measured_text, pickup_text, recorded_pair
from verve.core.session import Figure, Session, Snapshot, Take, TakeTrack, add_take

LEFT, RATE_HZ = "harp_mic_left:capsule", 48_000


def both() -> Session:
    """The demo, where whoever plays the harp has a pickup too."""
    session = demo_session()
    sources = tuple(
        s.model_copy(update={"performer": "harpist"}) if s.id == "baritone" else s
        for s in session.setup.sources
    )
    return session.model_copy(
        update={"setup": session.setup.model_copy(update={"sources": sources})}
    )


def track(line: str, name: str, file: str) -> TakeTrack:
    nothing = Figure()
    return TakeTrack(
        line=line, name=name, file=file, peak_dbfs=nothing, noise_dbfs_a=nothing, clipped_frames=0
    )


def test_only_the_same_player_has_a_direct_signal_beside_the_microphone() -> None:
    assert direct_partners(demo_session().setup, LEFT) == ()
    (found,) = direct_partners(both().setup, LEFT)
    assert (found.direct.id, found.microphone.id) == ("baritone_line", "harp_left")
    assert direct_partners(both().setup, "voice_mic:capsule") == ()
    assert direct_partners(both().setup, "nobody:capsule") == ()


def test_geometry_says_how_much_later_the_microphone_is() -> None:
    session = both()
    said = pickup_text(session.setup, positions_of(session.setup), LEFT)
    assert "1.75 ms" in said
    assert f"{0.6 / 343.0 * RATE_HZ:.1f} frames" in said
    assert pickup_text(demo_session().setup, positions_of(session.setup), LEFT) == ""


@pytest.mark.parametrize(("delay", "turned"), [(84, 1.0), (84, -1.0), (-30, 1.0)])
def test_two_tracks_say_which_to_shift(delay: int, turned: float) -> None:
    rng = np.random.default_rng(3)
    sound = rng.standard_normal(3 * RATE_HZ) * 0.1
    first, second = sound[200:-200], np.roll(sound, delay)[200:-200] * turned
    direct, mic = track("baritone_line", "Pickup", "a"), track("harp_left", "Harp", "b")
    said = measured_text(alignment_of(first, second, RATE_HZ), direct, mic)
    assert f"{abs(delay)}.0 frames" in said
    assert ("track of Pickup later" in said) == (delay > 0)
    assert ("opposite polarity" in said) == (turned < 0.0)


def test_two_that_have_nothing_to_do_with_each_other_are_not_shifted() -> None:
    rng = np.random.default_rng(4)
    one, other = rng.standard_normal((2, RATE_HZ)) * 0.1
    said = measured_text(
        alignment_of(one, other, RATE_HZ), track("a", "A", "a"), track("b", "B", "b")
    )
    assert said.startswith("Not found")


def test_the_newest_whole_take_that_has_both_is_measured(tmp_path: Path) -> None:
    session = both()
    assert recorded_pair(session, LEFT) is None
    tracks = (
        track("harp_left", "Harp left", str(tmp_path / "m.wav")),
        track("baritone_line", "Baritone", str(tmp_path / "d.wav")),
    )
    kinds: tuple[tuple[Literal["whole", "stopped"], tuple[TakeTrack, ...]], ...] = (
        ("whole", tracks),
        ("whole", tracks[:1]),
        ("stopped", tracks),
    )
    for number, (ended, has) in enumerate(kinds):
        name = f"take_{number}"
        take = Take(
            id=name, name=name, recorded_at="2026-11-27T00:00:00", seconds=3.0, play="typical",
            tracks=has, setup=Snapshot.of(session.setup), ended=ended,
        )  # fmt: skip
        session = add_take(session, take)
    found = recorded_pair(session, LEFT)
    assert found is not None
    assert (found[0].line, found[1].line) == ("baritone_line", "harp_left")
