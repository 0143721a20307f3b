"""The proofs by many random tries, with few of them: `./run prove` does them by the hundred thousand."""

from __future__ import annotations

import os
import re
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent


def test_nothing_is_lost_in_a_small_sample(own_home: Path) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "prove", "--lose-nothing", "--share", "0.001"],
        cwd=ROOT,
        env=os.environ | {"QT_QPA_PLATFORM": "offscreen", "HOME": str(own_home)},
        capture_output=True,
        text=True,
        timeout=200,
        check=False,
    )
    assert done.returncode == 0, done.stdout + done.stderr
    tries = [int(n) for n in re.findall(r"(\d+) tries", done.stdout)]
    # All but the small disk, which needs the right to make one.
    assert len(tries) == 14
    assert all(tries[:-1])
    assert done.stdout.endswith("no faults\n")
