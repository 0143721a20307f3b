"""No signal: causes from this very session, the certain ones first."""

from __future__ import annotations

from collections.abc import Callable

from verve.core.assess import assess
from verve.core.diagnosis import WEIGHT_WORDS, causes_of, delivered_text
from verve.core.session import Session

Put = Callable[..., Session]


def titles(session: Session, line: str) -> list[str]:
    return [cause.title for cause in causes_of(assess(session), line)]


def test_missing_phantom_power_comes_first_and_is_mended(demo: Session) -> None:
    causes = causes_of(assess(demo), "voice")
    assert "phantom" in causes[0].title
    assert causes[0].weight == max(WEIGHT_WORDS)
    assert causes[0].remedy is not None
    after = causes[0].remedy.apply(demo)
    assert not any("needs phantom" in title for title in titles(after, "voice"))


def test_a_knob_on_the_instrument_and_a_gain_that_is_down(mended: Session, put: Put) -> None:
    item = assess(mended).line("baritone_line")
    assert item is not None
    source = item.route.source.id
    off = put(mended, source, "out", "volume_position", 0.0)
    first = causes_of(assess(off), "baritone_line")[0]
    assert first.weight == 3
    voice = assess(mended).line("voice")
    assert voice is not None
    gain = voice.state.level_control()
    assert gain is not None
    quiet = put(mended, gain.owner, gain.channel, "gain_db", 0.0)
    peak = assess(quiet).line("voice")
    assert peak is not None
    if (peak.state.peak_dbfs or 0.0) < -40.0:
        assert "The gain is down" in titles(quiet, "voice")


def test_a_working_line_is_asked_about_what_the_session_cannot_see(mended: Session) -> None:
    found = titles(mended, "harp_left")
    assert "The track is not armed" in found
    assert "Track input is set to another channel" in found
    assert any("cable" in title.lower() for title in found)
    weights = [cause.weight for cause in causes_of(assess(mended), "harp_left")]
    assert weights == sorted(weights, reverse=True)
    assert all(cause.test and cause.why for cause in causes_of(assess(mended), "harp_left"))


def test_the_mixer_is_asked_about_its_own_meter(mended: Session) -> None:
    assert any("Small mixer" in title and "fader" in title for title in titles(mended, "organ_l"))


def test_an_unknown_line_has_no_causes(mended: Session) -> None:
    assert causes_of(assess(mended), "nothing") == ()


def test_what_the_simulated_interface_delivers(mended: Session) -> None:
    item = assess(mended).line("voice")
    assert item is not None
    assert "this patch works" in delivered_text(item, -8.0)
    assert "next to nothing" in delivered_text(item, -60.0)
    assert "nothing on this signal" in delivered_text(item, None)


def test_what_was_moved_stands_first_and_is_put_back(mended: Session, put: Put) -> None:
    session = put(mended, "mixer", "in.3", "fader_db", -60.0)
    first = causes_of(assess(session), "organ_l")[0]
    assert "fader" in first.title
    assert first.remedy is not None
    assert first.remedy.apply(session).setup == mended.setup
    assert "silence counts as 100" in first.why
