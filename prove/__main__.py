"""`./run prove`: proofs by many random tries. Ends with 1 where anything was lost, raised, hung or grew."""

from __future__ import annotations

import argparse
import os
import sys
import time
from collections.abc import Callable, Iterator
from itertools import chain
from pathlib import Path

from prove.report import Tally

_CASES = Path(__file__).resolve().parents[1] / "tests" / "core" / "verify" / "sample-cases.json"


def _lose_nothing(options: argparse.Namespace) -> Iterator[Callable[[], list[Tally]]]:
    from prove import broken, disks, kills, monkey
    from verve.app._run import make_application

    share, seed = options.share, options.seed
    cases = options.cases
    third = max(2, round(334 * share))
    # What forks comes first: a window has threads of its own.
    yield lambda: [kills.killed_while_saving(third, seed)]
    yield lambda: [kills.killed_while_keeping(third, seed)]
    yield lambda: [kills.killed_while_recording(third, seed)]
    yield lambda: [kills.killed_while_standing(max(2, third // 4), seed)]
    yield lambda: [kills.killed_while_bouncing(max(2, third // 4), seed)]
    yield lambda: broken.broken_files(max(60, round(100_000 * share)), seed, cases)
    yield lambda: [broken.through_the_command_line(max(3, round(500 * share)), seed, cases)]
    application = make_application()
    yield lambda: [monkey.in_the_window(max(1, round(60 * share)), seed)]
    yield lambda: [disks.fails_at_every_call()]
    yield lambda: [disks.small_disk()]
    application.processEvents()


def _advice(options: argparse.Namespace) -> Iterator[Callable[[], list[Tally]]]:
    from prove import advice, brute, days, faults, hunts, judged, sheets

    count = max(5, round(2000 * options.share))
    yield lambda: [advice.pressed(count, options.seed)]
    yield lambda: [advice.offered(count, options.seed)]
    yield lambda: faults.injected(round(1.5 * count), options.seed)
    yield lambda: [faults.measured(count // 4 + 2, options.seed)]
    yield lambda: [judged.agreed(count, options.seed)]
    yield lambda: judged.certified(count, options.seed)
    yield lambda: [sheets.walked(count, options.seed)]
    yield lambda: [days.days_walked(count // 5 + 1, options.seed)]
    yield lambda: [hunts.hunted(count // 10 + 1, options.seed)]
    yield lambda: [hunts.ordered(count // 5 + 1, options.seed)]
    yield lambda: [brute.gains(count // 20 + 1, options.seed)]
    yield lambda: [brute.connections(count // 10 + 1, options.seed)]


def _sound(options: argparse.Namespace) -> Iterator[Callable[[], list[Tally]]]:
    from prove import sound

    yield lambda: sound.loopbacks(max(4, round(1000 * options.share)), options.seed)
    yield lambda: sound.rendered(options.share)


def _live(options: argparse.Namespace) -> Iterator[Callable[[], list[Tally]]]:
    from prove import live

    yield lambda: live.long_takes(options.share, options.seed)


def main() -> int:
    """Run what is asked for; the exit code."""
    parser = argparse.ArgumentParser(prog="./run prove", description=__doc__)
    parser.add_argument(
        "--lose-nothing",
        action="store_true",
        help="kills, full disks, broken files, a monkey in the window",
    )
    parser.add_argument(
        "--advice",
        action="store_true",
        help="the next thing, remedies, faults, certificates, run sheets, gains and connections",
    )
    parser.add_argument(
        "--sound", action="store_true", help="loop-backs that hold only noise, or what was sent"
    )
    parser.add_argument(
        "--live", action="store_true", help="ten minutes of eight channels through a sound device"
    )
    parser.add_argument("--share", type=float, default=1.0, help="of the whole number of tries")
    parser.add_argument("--seed", type=int, default=1, help="another one tries other cases")
    parser.add_argument(
        "--cases", type=Path, default=_CASES, help="the validation file that is broken"
    )
    options = parser.parse_args()
    if not (options.lose_nothing or options.advice or options.sound or options.live):
        parser.error("say what to prove: --lose-nothing, --advice, --sound or --live")
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    faults = 0
    runs = [_advice(options)] if options.advice else []
    runs += [_sound(options)] if options.sound else []
    runs += [_live(options)] if options.live else []
    runs += [_lose_nothing(options)] if options.lose_nothing else []
    for run in chain(*runs):
        began = time.monotonic()
        for tally in run():
            faults += len(tally.faults)
            print(f"{tally.text()}  [{time.monotonic() - began:.0f} s]", flush=True)
    print("no faults" if not faults else f"{faults} faults")
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
