"""The proofs by many random tries, with few of them: `./run prove` does them by the hundred thousand."""

from __future__ import annotations

import os
import re
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent


def prove(*asked: str, home: Path) -> str:
    """What it prints; it must find nothing."""
    done = subprocess.run(
        [sys.executable, "-m", "prove", *asked],
        cwd=ROOT,
        env=os.environ | {"QT_QPA_PLATFORM": "offscreen", "HOME": str(home)},
        capture_output=True,
        text=True,
        timeout=200,
        check=False,
    )
    assert done.returncode == 0, done.stdout + done.stderr
    assert done.stdout.endswith("no faults\n")
    return done.stdout


def test_nothing_is_lost_in_a_small_sample(own_home: Path) -> None:
    said = prove("--lose-nothing", "--share", "0.001", home=own_home)
    tries = [int(n) for n in re.findall(r"(\d+) tries", said)]
    # All but the small disk, which needs the right to make one.
    assert len(tries) == 16
    assert all(tries[:-1])


def test_noise_is_no_loopback_in_a_small_sample(own_home: Path) -> None:
    said = prove("--sound", "--share", "0.012", home=own_home)
    assert re.search(r"noise alone +12 tries, 0 faults", said)


def test_advice_holds_in_a_small_sample(own_home: Path) -> None:
    said = prove("--advice", "--share", "0.01", home=own_home)
    assert len(re.findall(r"[1-9]\d* tries", said)) >= 10
