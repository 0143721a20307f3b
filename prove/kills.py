"""Programs killed at any moment: while they save, keep a copy aside, or record. Nothing confirmed is lost."""

from __future__ import annotations

import os
import random
import signal
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import soundfile

from prove.mixed import MIXED_S, mixed_session
from prove.report import Tally
from verve.app.recovery import Recovery
from verve.core.assess import assess
from verve.core.demo import demo_session
from verve.core.errors import VerveError
from verve.core.files import backup_of
from verve.core.mix import Aim, bounce, files_of, plan_of_mix
from verve.core.session import Session, add_section, load, rename_session, save
from verve.core.takes import plan_of
from verve.devices import (
    Begun,
    Order,
    Orders,
    Recorded,
    RecordRequest,
    StandRequest,
    record,
    stand,
    taken_up,
    unfinished,
)

_RECORDED_S = 30.0


def _number(session: Session) -> int:
    return int(session.title)


def _in_child(work: Callable[[int], None]) -> tuple[int, int]:
    """Begin work in a program of its own; its number, and the end of the pipe it confirms on."""
    reading, writing = os.pipe()
    child = os.fork()
    if child == 0:
        try:
            os.close(reading)
            work(writing)
        finally:
            os._exit(0)
    os.close(writing)
    return child, reading


def _killed(work: Callable[[int], None], after_s: float) -> int:
    """Kill work at a moment after its first confirmation; how many it had confirmed until then."""
    child, reading = _in_child(work)
    first = os.read(reading, 1)
    time.sleep(after_s)
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    confirmed = len(first)
    while more := os.read(reading, 65_536):
        confirmed += len(more)
    os.close(reading)
    return confirmed


def _saving(path: Path, session: Session) -> Callable[[int], None]:
    def work(confirm: int) -> None:
        for number in range(1, 100_000):
            save(rename_session(session, str(number)), path)
            os.write(confirm, b".")

    return work


def killed_while_saving(count: int, seed: int) -> Tally:
    """The file always opens, and holds what the last finished save wrote, or the next one."""
    tally, rng, session = Tally("killed while saving"), random.Random(seed), demo_session()
    with tempfile.TemporaryDirectory() as name:
        for number in range(count):
            path = Path(name) / f"{number % 7}.verve.json"
            confirmed = _killed(_saving(path, session), rng.uniform(0.0, 0.05))
            try:
                found = _number(load(path))
                before = _number(load(backup_of(path))) if backup_of(path).exists() else found
            except (VerveError, ValueError) as error:
                tally.fault(f"seed {seed}, kill {number}: {error}")
                continue
            if found - confirmed in {0, 1} and (before <= found or confirmed <= 1):
                tally.note("whole")
            else:
                tally.fault(f"seed {seed}, kill {number}: {confirmed} saved, {found} found")
    return tally


def killed_while_keeping(count: int, seed: int) -> Tally:
    """The next start finds the copy that was kept last, or the next one."""
    tally, rng, session = Tally("killed while keeping a copy"), random.Random(seed), demo_session()
    with tempfile.TemporaryDirectory() as name:
        for number in range(count):
            folder = Path(name) / str(number)

            def work(confirm: int, folder: Path = folder) -> None:
                recovery = Recovery(folder)
                for at in range(1, 100_000):
                    recovery.write(rename_session(session, str(at)), None)
                    os.write(confirm, b".")

            confirmed = _killed(work, rng.uniform(0.0, 0.05))
            copies = Recovery(folder).left_behind()
            found = [_number(one.session) for one in copies]
            if len(found) == 1 and found[0] - confirmed in {0, 1}:
                tally.note("found again")
            else:
                tally.fault(f"seed {seed}, kill {number}: {confirmed} kept, {found} found")
    return tally


def killed_while_recording(count: int, seed: int) -> Tally:
    """Everything reported as recorded can be played afterwards, but for what the disk had not taken yet."""
    tally, rng = Tally("killed while recording"), random.Random(seed)
    session = demo_session()
    lines = tuple(item.line.id for item in assess(session).lines if item.state.levels is not None)
    with tempfile.TemporaryDirectory() as name:
        for number in range(count):
            base = Path(name) / str(number)
            request = RecordRequest(
                id=1,
                session=session,
                lines=tuple(rng.sample(lines, 2)),
                play="phrase",
                seconds=_RECORDED_S,
                folder=base / "Take 1",
                take_id="take_1",
                take_name="Take 1",
                recorded_at="2026-05-04T20:15:00+02:00",
                is_paced=False,
            )

            def work(confirm: int, request: RecordRequest = request) -> None:
                record(request, lambda _: (os.write(confirm, b"."), None)[1])

            confirmed = _killed(work, rng.uniform(0.0, 1.0))
            fault = _recorded_fault(base, confirmed)
            if fault:
                tally.fault(f"seed {seed}, kill {number}: {confirmed} reports, {fault}")
            else:
                tally.note("playable")
    return tally


def killed_while_standing(count: int, seed: int) -> Tally:
    """Every take that was told as finished is there, and the one that was going on can be taken up."""
    tally, rng = Tally("killed while standing by"), random.Random(seed)
    session = demo_session()
    session, _ = add_section(session, "Verse", 0.0, 2.0)
    with tempfile.TemporaryDirectory() as name:
        for number in range(count):
            base = Path(name) / str(number)
            request = StandRequest(
                id=1,
                session=session,
                lines=("harp_left",),
                play="phrase",
                base=base,
                is_paced=False,
            )

            def work(confirm: int, request: StandRequest = request) -> None:
                orders = Orders()

                def report(what: object) -> None:
                    if isinstance(what, Recorded):
                        os.write(confirm, b"." * len(what.takes))
                        orders.put(Order(deed="begin", plan=plan_of(session, "verse")))
                    elif isinstance(what, Begun):
                        os.write(confirm, b"b")

                orders.put(Order(deed="begin", plan=plan_of(session, "verse")))
                stand(request, orders, report, lambda: False)

            _killed(work, rng.uniform(0.0, 0.8))
            fault = _stood_fault(base)
            if fault:
                tally.fault(f"seed {seed}, kill {number}: {fault}")
            else:
                tally.note("all there")
    return tally


def _stood_fault(base: Path) -> str:
    """What is wrong with what somebody who stood by has left; empty for nothing.

    No session knows of any of its takes: all of them must be found by their logs, the last one as far as it came.
    """
    folders = [one for one in base.glob("Take *") if any(one.iterdir())]
    found = unfinished(base)
    if len(found) != len(folders):
        return f"{len(folders)} folders, {len(found)} takes found"
    for one in found:
        try:
            take = taken_up(one, "killed")
        except VerveError as error:
            if one is not found[-1]:
                return str(error)
            continue
        for track in take.tracks:
            if not soundfile.info(track.file).frames:
                return f"{track.file}: empty"
    return ""


def killed_while_bouncing(count: int, seed: int) -> Tally:
    """The file is the whole mix at any moment, that of before or the new one; takes stay as they are."""
    tally, rng = Tally("killed while bouncing"), random.Random(seed)
    with tempfile.TemporaryDirectory() as name:
        session = mixed_session(Path(name) / "takes")
        before = {file: Path(file).read_bytes() for file in files_of(plan_of_mix(session))}
        path = Path(name) / "mix.wav"
        aim = Aim(loudness_lufs=-16.0, ceiling_dbtp=-1.0)

        def work(confirm: int) -> None:
            while True:
                bounce(plan_of_mix(session), path, aim)
                os.write(confirm, b".")

        for number in range(count):
            confirmed = _killed(work, rng.uniform(0.0, 0.4))
            try:
                info = soundfile.info(path)
            except soundfile.LibsndfileError as error:
                tally.fault(f"seed {seed}, kill {number}: {error}")
                continue
            same = all(Path(file).read_bytes() == content for file, content in before.items())
            if confirmed and same and abs(info.duration - MIXED_S) < 0.01:
                tally.note("whole")
            else:
                tally.fault(
                    f"seed {seed}, kill {number}: {info.duration:.2f} s, takes kept: {same}"
                )
    return tally


def _recorded_fault(base: Path, confirmed: int) -> str:
    """What is wrong with what a killed recording has left; empty for nothing."""
    found = unfinished(base)
    if len(found) != 1:
        return f"{len(found)} recordings found"
    try:
        take = taken_up(found[0], "killed")
    except VerveError as error:
        # Killed before the disk had anything: only that may have no sound.
        return "" if confirmed < _FIRST_REPORTS else str(error)
    for track in take.tracks:
        info = soundfile.info(track.file)
        if abs(info.duration - take.seconds) > _APART_S:
            return f"{track.file}: {info.duration:.2f} s of {take.seconds:.2f} s"
    return ""


_FIRST_REPORTS = 3
_APART_S = 0.25
