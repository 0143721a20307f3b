"""What is said of sound files: times, forms, places, backing tracks on paper."""

from __future__ import annotations

import pytest

from tests.core.session.test_sounds import sound
from verve.core.assess import assess
from verve.core.demo import demo_session
from verve.core.recordings import Guess, Place
from verve.core.session import ChannelFigures, SoundFigures, add_sound
from verve.core.sheets import (
    channel_rows,
    guesses_text,
    list_text,
    patch_html,
    place_rows,
    silence_text,
    sound_text,
    time_text,
)


@pytest.mark.parametrize(
    ("seconds", "decimals", "said"),
    [
        (0.0, 3, "0:00.000"),
        (59.9996, 3, "1:00.000"),
        (62.345, 3, "1:02.345"),
        (3600.06, 1, "1:00:00.1"),
        (3723.0, 0, "1:02:03"),
        (-1.0, 1, "0:00.0"),
    ],
)
def test_a_time_is_told_as_on_a_clock(seconds: float, decimals: int, said: str) -> None:
    assert time_text(seconds, decimals) == said


def test_a_file_says_its_form_and_how_loud_it_is() -> None:
    figures = SoundFigures(
        channels=(ChannelFigures(peak_dbfs=-3.0, noise_dbfs_a=-71.26),) * 2,
        integrated_lufs=-16.2, lra_lu=6.1, true_peak_dbtp=-1.0, silence_s=0.025,
    )  # fmt: skip
    one = sound(channels=2, figures=figures, sample_rate_hz=44_100, frames=441_000)
    assert sound_text(one, 44_100) == (
        "0:10.0, 44.1 kHz, 24 bit, stereo; loudness −16.2 LUFS, range 6.1 LU, true peak −1.0 dBTP"
    )
    assert "44.1 kHz (played converted to the session’s 48 kHz)" in sound_text(one, 48_000)
    assert silence_text(one) == "25.0 ms of silence at its head (1102 samples)"
    assert channel_rows(one, {})[1] == ["2", "—", "−3.0", "—", "—", "−71.3", "0"]
    silent = sound(figures=SoundFigures(channels=(ChannelFigures(),) * 12))
    assert sound_text(silent, 48_000).endswith("12 channels; silent")


def test_a_list_says_what_a_file_holds() -> None:
    names = {"voice": "Voice", "harp_left": "Harp left", "harp_right": "Harp right"}
    many = sound(channels=3, signals=("voice", "harp_left", "harp_right"))
    assert list_text(many, names) == "Sound 1\nVoice, Harp left and 1 more, 0:02"
    assert list_text(sound(role="backing"), names) == "Sound 1\nbacking track, 0:02"
    guesses = [Guess(signal="voice", why="name"), Guess(signal=None, why="unknown")]
    assert guesses_text(guesses, names) == "Voice by the file’s name"


def test_places_say_what_is_there_in_figures() -> None:
    rows = place_rows(
        [
            Place(kind="clipped", start_s=1.5, end_s=1.6, count=12, frames=40, level_dbfs=-0.12),
            Place(kind="clipped", start_s=2.0, end_s=2.0, frames=5, level_dbfs=-4.0),
            Place(kind="gap", start_s=3.0, end_s=3.01, frames=480),
            Place(kind="skip", start_s=4.0, end_s=4.0),
            Place(kind="plosive", start_s=5.0, end_s=5.08),
            Place(kind="pause", start_s=6.0, end_s=8.5, level_dbfs=-70.0),
        ]
    )
    assert [row[0] for row in rows[:2]] == ["0:01.500", "0:02.000"]
    assert [row[2] for row in rows] == [
        "12 times, the longest 40 samples, at −0.1 dBFS",
        "once, 5 samples, at −4.0 dBFS",
        "480 samples, 10.0 ms",
        "",
        "80 ms",
        "−70.0 dBFS A, 2.5 s long",
    ]


def test_a_backing_track_stands_on_paper() -> None:
    track = sound(
        role="backing",
        offset_s=2.0,
        gain_db=-6.0,
        tempo_bpm=92.0,
        key="D minor",
        name="Last <song>",
    )
    page = patch_html(assess(add_sound(demo_session(), track)))
    for words in (
        "Played over",
        "Last &lt;song&gt;",
        "2 s; 0 ms of silence",
        "−6 dB",
        "92 bpm",
        "D minor",
    ):
        assert words in page
    assert "Played over" not in patch_html(assess(demo_session()))
