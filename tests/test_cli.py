"""The command line: what it prints, what it writes, and how it ends."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile

from tests.conftest import follow
from tests.core.mix.recorded import sung_with_a_double
from verve import __version__
from verve.cli import main
from verve.core.demo import demo_session
from verve.core.session import add_double, load, save

Capture = pytest.CaptureFixture[str]
SAMPLES = Path(__file__).parent / "core" / "verify" / "sample-cases.json"


@pytest.fixture
def demo_file(tmp_path: Path) -> Path:
    path = tmp_path / "evening.verve.json"
    save(demo_session(), path)
    return path


@pytest.fixture
def mended_file(tmp_path: Path) -> Path:
    path = tmp_path / "mended.verve.json"
    save(follow(demo_session()), path)
    return path


def test_the_demo_is_written_as_a_session(tmp_path: Path, capsys: Capture) -> None:
    path = tmp_path / "new.verve.json"
    assert main(["demo", "-o", str(path)]) == 0
    assert load(path) == demo_session()
    assert "Wrote" in capsys.readouterr().out


def test_a_file_that_is_there_is_not_replaced_unasked(demo_file: Path, capsys: Capture) -> None:
    before = demo_file.read_bytes()
    assert main(["demo", "-o", str(demo_file)]) == 2
    assert "is there already. Add --force" in capsys.readouterr().err
    assert demo_file.read_bytes() == before
    assert main(["demo", "-o", str(demo_file), "--force"]) == 0


def test_assess_tells_lines_findings_and_the_next_thing(demo_file: Path, capsys: Capture) -> None:
    assert main(["assess", str(demo_file)]) == 1
    out = capsys.readouterr().out
    assert "Harp left" in out
    assert "STOP  Voice: Inline preamp needs phantom power." in out
    assert "Next: Voice: switch phantom power on at Interface, input 1." in out


def test_assess_ends_well_when_nothing_stops(mended_file: Path, capsys: Capture) -> None:
    assert main(["assess", str(mended_file)]) == 0
    out = capsys.readouterr().out
    assert "STOP" not in out
    assert "keeps the bass" in out, "what only is to be known is told, and ends well"


def test_assess_as_json_is_one_object(demo_file: Path, capsys: Capture) -> None:
    assert main(["assess", str(demo_file), "--json"]) == 1
    data = json.loads(capsys.readouterr().out)
    voice, harp = data["lines"][0], data["lines"][1]
    assert voice["name"] == "Voice"
    assert voice["peak_dbfs"]["hardest"] is None
    assert harp["peak_dbfs"]["hardest"] == pytest.approx(-7.60, abs=0.01)
    assert sum(stage["noise_share"] for stage in harp["stages"]) == pytest.approx(1.0)
    assert data["findings"][0]["rule"] == "phantom_missing"
    assert data["next"]["line"] == "voice"


def test_an_empty_session_can_be_assessed(tmp_path: Path, capsys: Capture) -> None:
    path = tmp_path / "x.verve.json"
    path.write_text('{"format": "verve-session", "version": 1}')
    assert main(["assess", str(path)]) == 0
    assert "No signals yet." in capsys.readouterr().out


def test_record_and_measure_agree(mended_file: Path, tmp_path: Path, capsys: Capture) -> None:
    wav = tmp_path / "out" / "harp.wav"
    arguments = ["record", str(mended_file), "--signal", "Harp left", "--play", "hardest"]
    assert main([*arguments, "--seconds", "4", "-o", str(wav)]) == 0
    assert "predicted peak −8.5 dBFS" in capsys.readouterr().out
    assert soundfile.info(str(wav)).duration == pytest.approx(4.0)
    assert [p.name for p in wav.parent.iterdir()] == ["harp.wav"]
    assert main(["measure", str(wav), "--json"]) == 0
    (channel,) = json.loads(capsys.readouterr().out)["channels"]
    assert channel["peak_dbfs"] == pytest.approx(-8.2, abs=1.5)
    assert main(["measure", str(wav)]) == 0
    assert "clipped samples" in capsys.readouterr().out
    assert main([*arguments, "-o", str(wav)]) == 2


@pytest.mark.parametrize(
    ("extra", "said"),
    [
        (["--signal", "Nobody"], "--signal: must be a signal of the session (Voice"),
        (["--signal", "Voice", "--seconds", "1"], "seconds: must be 3 to 60"),
        (["--signal", "Voice", "--seconds", "soon"], "must be a number of seconds"),
        (["--signal", "Voice", "--play", "madly"], "invalid choice: 'madly'"),
        ([], "--signal"),
    ],
)
def test_record_refuses_what_cannot_be(
    demo_file: Path, tmp_path: Path, capsys: Capture, extra: list[str], said: str
) -> None:
    wav = tmp_path / "x.wav"
    try:
        code: object = main(["record", str(demo_file), *extra, "-o", str(wav)])
    except SystemExit as error:
        code = error.code
    assert code == 2
    assert said in capsys.readouterr().err
    assert not wav.exists()


def test_verify_holds_the_samples(capsys: Capture) -> None:
    assert main(["verify", str(SAMPLES)]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert lines[-1] == f"{len(lines) - 1} passed, 0 failed"
    assert main(["verify", str(SAMPLES), str(SAMPLES), "--json"]) == 0
    data = json.loads(capsys.readouterr().out)
    assert data["passed"] == 2 * (len(lines) - 1)
    assert data["failed"] == 0


def test_verify_ends_with_one_when_a_number_is_off(tmp_path: Path, capsys: Capture) -> None:
    data = json.loads(SAMPLES.read_text())
    data["cases"][0]["expect"][0]["value"] += 1.0
    path = tmp_path / "off.json"
    path.write_text(json.dumps(data))
    assert main(["verify", str(path)]) == 1
    assert capsys.readouterr().out.splitlines()[-1].endswith("1 failed")


@pytest.mark.parametrize(
    "arguments",
    [
        ["assess", "none.verve.json"],
        ["measure", "none.wav"],
        ["verify", "none.json"],
        ["verify", str(SAMPLES), "none.json"],
        ["record", "none.verve.json", "--signal", "x", "-o", "y.wav"],
    ],
)
def test_a_missing_file_is_one_sentence_and_exit_two(arguments: list[str], capsys: Capture) -> None:
    assert main(arguments) == 2
    found = capsys.readouterr()
    assert found.out == ""
    assert found.err.startswith("verve: none.")
    assert len(found.err.splitlines()) == 1


@pytest.mark.parametrize("arguments", [["assess"], ["--nonsense"], ["verify"], ["demo"]])
def test_a_call_with_wrong_words_ends_with_two(arguments: list[str], capsys: Capture) -> None:
    with pytest.raises(SystemExit) as ended:
        main(arguments)
    assert ended.value.code == 2
    assert "See verve --help" in capsys.readouterr().err


def test_help_has_examples_and_the_version_is_the_package(capsys: Capture) -> None:
    with pytest.raises(SystemExit) as ended:
        main(["--help"])
    assert ended.value.code == 0
    out = capsys.readouterr().out
    assert "Examples:" in out
    assert "Exit codes: 0" in out
    with pytest.raises(SystemExit):
        main(["--version"])
    assert capsys.readouterr().out == f"verve {__version__}\n"


def test_a_reader_that_has_seen_enough_causes_no_traceback(demo_file: Path) -> None:
    command = f'"{sys.executable}" -m verve assess "{demo_file}" | head -n 1'
    done = subprocess.run(
        ["bash", "-c", command], capture_output=True, text=True, check=False, timeout=60
    )
    assert done.stderr == ""
    assert "weaving shed" in done.stdout


# ── how it ends, whatever happens ─────────────────────────────────────────────────────────────
def _started(
    *arguments: str, env: dict[str, str] | None = None, **more: Any
) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "verve", *arguments],
        env={**os.environ, **(env or {})},
        capture_output=True,
        text=True,
        check=False,
        timeout=60,
        **more,
    )


@pytest.mark.parametrize(
    ("display", "wayland"), [("", ""), (":4711", ""), ("nonsense", ""), ("", "nothing-0")]
)
def test_without_a_display_it_ends_with_a_sentence(display: str, wayland: str) -> None:
    env = {"DISPLAY": display, "WAYLAND_DISPLAY": wayland, "QT_QPA_PLATFORM": ""}
    done = _started("--demo", env=env)
    assert done.returncode == 2
    assert done.stderr.startswith("verve: display: ")
    assert "virtual display" in done.stderr
    assert done.stderr.count("\n") == 1


def test_a_terminal_without_some_letters_shows_others(demo_file: Path) -> None:
    env = {"PYTHONIOENCODING": "latin-1"}
    done = _started("assess", str(demo_file), env=env, encoding="latin-1")
    assert done.returncode == 1, done.stderr
    assert "-12.0" in done.stdout or " -" in done.stdout, "a minus is still one"
    assert "?" not in done.stdout.split("Next:")[0]
    told = _started("assess", str(demo_file), "--json", env=env)
    assert json.loads(told.stdout)["lines"]


def test_a_full_disk_behind_the_output_is_told(demo_file: Path) -> None:
    with Path("/dev/full").open("w") as full:
        done = subprocess.run(
            [sys.executable, "-m", "verve", "assess", str(demo_file)],
            stdout=full,
            stderr=subprocess.PIPE,
            text=True,
            check=False,
        )
    assert done.returncode == 2
    assert done.stderr == "verve: the disk is full\n"


@pytest.mark.parametrize(
    ("error", "said"),
    [
        (KeyboardInterrupt(), "stopped"),
        (MemoryError(), "not enough memory"),
        (KeyError("x"), "something went wrong (KeyError: 'x'; "),
    ],
)
def test_whatever_happens_is_one_sentence_and_exit_two(
    monkeypatch: pytest.MonkeyPatch, capsys: Capture, error: BaseException, said: str
) -> None:
    def fails(*_: object) -> None:
        raise error

    monkeypatch.setattr("verve.core.session.load", fails)
    assert main(["assess", "x.verve.json"]) == 2
    found = capsys.readouterr()
    assert found.out == ""
    assert said in found.err
    assert found.err.count("\n") == 1


def test_sound_files_are_compared_and_tuned(tmp_path: Path, capsys: Capture) -> None:
    noise = 0.2 * np.random.default_rng(1).standard_normal(48_000)
    sent, back, other, note = (
        tmp_path / f"{name}.wav" for name in ("sent", "back", "other", "note")
    )
    soundfile.write(sent, noise, 48_000, subtype="PCM_24")
    soundfile.write(back, np.concatenate([np.zeros(480), 0.5 * noise]), 48_000, subtype="PCM_24")
    soundfile.write(other, noise, 44_100)
    t = np.arange(48_000) / 48_000
    soundfile.write(note, 0.2 * np.sin(2 * np.pi * 440.0 * t), 48_000, subtype="PCM_24")
    assert main(["loopback", str(sent), str(back), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["found"] is True
    assert found["delay_frames"] == pytest.approx(480.0, abs=0.05)
    assert found["channel_map"] == [0]
    assert main(["loopback", str(sent), str(back)]) == 0
    assert "10.000 ms later" in capsys.readouterr().out
    assert main(["align", str(sent), str(back), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["shift"] == {"track": "second", "frames": pytest.approx(480.0, abs=0.1)}
    assert main(["tune", str(note), "--from", "0.1", "--to", "0.9", "--a4", "442"]) == 0
    assert "A4 −7.9 cents" in capsys.readouterr().out
    assert main(["tune", str(note), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["note"] == "A4"
    # What cannot be used is one sentence, with the file and what to do.
    for arguments, said in (
        (["loopback", str(sent), str(other)], "has 44100 Hz, and sent.wav has 48000 Hz"),
        (["align", str(other), str(sent)], "same sample rate"),
        (["tune", str(note), "--from", "5"], "has no sound from 5"),
        (["tune", str(tmp_path), "--json"], "is no file"),
        (["measure", str(tmp_path / "none.wav")], "no such file"),
    ):
        assert main(arguments) == 2
        told = capsys.readouterr().err
        assert said in told
        assert told.count("\n") == 1
    with pytest.raises(SystemExit) as ended:
        main(["tune", str(note), "--a4", "loud"])
    assert ended.value.code == 2


def test_who_hears_what_is_told(tmp_path: Path, capsys: Capture) -> None:
    path = tmp_path / "demo.verve.json"
    save(demo_session(), path)
    assert main(["sheet", str(path), "--kind", "cues"]) == 0
    said = capsys.readouterr().out
    assert "Singer hears themselves direct in the interface and through the software" in said
    assert "Recording offset" in said
    assert main(["sheet", str(path), "--kind", "cues", "--json"]) == 0
    singer = json.loads(capsys.readouterr().out)["listeners"][0]
    assert singer["who"] == "Singer"
    assert [way["way"] for way in singer["ways"]] == ["direct", "software"]
    for way in singer["ways"]:
        assert sum(part["ms"] for part in way["parts"]) == pytest.approx(way["delay_ms"])


def test_the_day_is_told_against_the_clock(tmp_path: Path, capsys: Capture) -> None:
    path = tmp_path / "evening.verve.json"
    assert main(["demo", "-o", str(path)]) == 0
    capsys.readouterr()
    assert main(["day", str(path), "--times", "--begins", "9:30"]) == 0
    told = capsys.readouterr().out
    assert told.startswith(" 9:30 ")
    assert "The songs: take 1" in told
    assert "left at the end" in told
    assert main(["day", str(path), "--times", "--ends", "10:30", "--json"]) == 1
    found = json.loads(capsys.readouterr().out)
    assert found["events"][0]["from"] == "10:00"
    assert found["findings"][0].startswith("The day ends")
    assert main(["day", str(path), "--times", "--begins", "soon"]) == 2
    # An end before the beginning is one of the next day.
    assert main(["day", str(path), "--times", "--begins", "20:00", "--ends", "1:30"]) == 0


def test_the_day_is_told_and_planned(tmp_path: Path, capsys: Capture) -> None:
    path, out = tmp_path / "a.verve.json", tmp_path / "b.verve.json"
    save(add_double(demo_session(), "voice"), path)
    assert main(["day", str(path)]) == 0
    said = capsys.readouterr().out
    assert said.startswith("1  The songs, no take yet, over nothing. 11 cables to set up")
    assert "2  Voice double, set up now" in said
    assert main(["day", str(path), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["layers"][1]["over"] == "over The songs"
    # The kit does not bear the finale.
    assert main(["day", str(path), "--plan", "-o", str(out)]) == 1
    assert "needs what the kit does not have" in capsys.readouterr().out
    assert not out.exists()
    assert main(["day", str(path), "-o", str(out)]) == 2


def test_takes_are_logged_bounced_and_compared(tmp_path: Path, capsys: Capture) -> None:
    path, mix = tmp_path / "a.verve.json", tmp_path / "mix.wav"
    save(sung_with_a_double(tmp_path / "takes"), path)
    for form, begin in (("markdown", "# Evening"), ("html", "<!doctype"), ("csv", "take,")):
        assert main(["log", str(path), "--form", form]) == 0
        assert capsys.readouterr().out.startswith(begin)
    assert main(["bounce", str(path), "-o", str(mix), "--lufs", "-20"]) == 0
    assert "−20.0 LUFS" in capsys.readouterr().out
    assert main(["bounce", str(path), "-o", str(mix)]) == 2
    capsys.readouterr()
    assert (
        main(
            [
                "bounce",
                str(path),
                "-o",
                str(mix),
                "--force",
                "--lufs",
                "-5",
                "--no-limiter",
                "--json",
            ]
        )
        == 1
    )
    assert "possible" in json.loads(capsys.readouterr().out)["said"]
    save(demo_session(), tmp_path / "b.verve.json")
    capsys.readouterr()
    assert main(["compare", str(path), str(tmp_path / "b.verve.json")]) == 0
    assert "takes fewer" in capsys.readouterr().out
