"""Loudness and true peak held against another program's reading of the same file, where that is installed."""

from __future__ import annotations

import re
import shutil
import subprocess
from pathlib import Path

import numpy as np
import pytest
import soundfile

from tests.core.measure.made import rng, tone
from verve.core.soundfiles import measure_file
from verve.core.units import FloatArray

RATE_HZ = 48_000

pytestmark = pytest.mark.skipif(
    shutil.which("ffmpeg") is None, reason="ffmpeg is not installed here"
)


def programme(kind: str) -> FloatArray:
    melody = ((147.0, 1.0), (220.0, 0.3), (98.0, 0.6)) * 4
    notes = [
        tone(hz, 1.5, dies=1.0, seed=number) * level for number, (hz, level) in enumerate(melody)
    ]
    left = np.concatenate(notes)
    if kind == "noisy":
        left = left + 0.02 * rng(4).standard_normal(len(left))
    return np.stack([left, np.roll(left, 37) * 0.7], axis=1)


@pytest.mark.parametrize("kind", ["clean", "noisy"])
def test_loudness_range_and_true_peak_agree(tmp_path: Path, kind: str) -> None:
    path = tmp_path / "programme.wav"
    soundfile.write(path, programme(kind), RATE_HZ, subtype="PCM_24")
    scan = "ebur128=peak=true:framelog=verbose"
    command = [
        "ffmpeg",
        "-nostdin",
        "-hide_banner",
        "-i",
        str(path),
        "-af",
        scan,
        "-f",
        "null",
        "-",
    ]
    said = subprocess.run(command, capture_output=True, text=True, check=True).stderr
    theirs = {
        name: float(re.findall(rf"{name}:\s*(-?[\d.]+)", said)[-1]) for name in ("I", "LRA", "Peak")
    }
    ours = measure_file(path).programme
    assert ours is not None
    # They are told to a tenth.
    assert ours.integrated_lufs == pytest.approx(theirs["I"], abs=0.1)
    assert ours.lra_lu == pytest.approx(theirs["LRA"], abs=0.3)
    assert ours.true_peak_dbtp == pytest.approx(theirs["Peak"], abs=0.15)
