"""Disks that are full: at every single write, and for real on a small file system where that may be made."""

from __future__ import annotations

import errno
import os
import shutil
import subprocess
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from prove.mixed import mixed_session
from prove.report import Tally
from verve.app.paper import write_pdf
from verve.app.recovery import Recovery
from verve.core.assess import assess
from verve.core.datasheet import OwnGear, write_gear
from verve.core.demo import demo_session
from verve.core.errors import VerveError
from verve.core.files import write_atomically
from verve.core.mix import Aim, bounce, plan_of_mix
from verve.core.session import rename_session, save, write_kit
from verve.core.sheets import day_html, log_markdown, patch_csv, patch_html

_CALLS: tuple[tuple[Any, str], ...] = (
    (os, "open"),
    (os, "fsync"),
    (os, "link"),
    (os, "replace"),
    (Path, "open"),
    (Path, "replace"),
    (Path, "mkdir"),
    (Path, "chmod"),
    (shutil, "copy2"),
)
_CODES = (errno.ENOSPC, errno.EIO, errno.EDQUOT, errno.EROFS)


def writers() -> dict[str, Callable[[Path], object]]:
    """Everything that writes a file, by its name."""
    session, assessment = demo_session(), assess(demo_session())
    mixed = mixed_session(Path(tempfile.gettempdir()) / f"verve-mixed-{os.getpid()}")
    aim = Aim(loudness_lufs=-16.0, ceiling_dbtp=-1.0)
    return {
        "night.verve.json": lambda path: save(rename_session(session, path.parent.name), path),
        "kit.json": lambda path: write_kit(path, session.kit),
        "gear.json": lambda path: write_gear(path, OwnGear()),
        "patch.csv": lambda path: write_atomically(path, patch_csv(assessment)),
        "patch.html": lambda path: write_atomically(path, patch_html(assessment)),
        "patch.pdf": lambda path: write_pdf(path, patch_html(assessment)),
        "day.html": lambda path: write_atomically(path, day_html(session)),
        "log.md": lambda path: write_atomically(path, log_markdown(session)),
        "mix.wav": lambda path: bounce(plan_of_mix(mixed), path, aim),
        "copy": lambda path: Recovery(path.parent / "state").write(session, path),
    }


@contextmanager
def _failing(number: int, code: int) -> Iterator[list[int]]:
    """The so-and-so-many-th call to the disk fails; gives how many there were."""
    count, real = [0], [getattr(owner, name) for owner, name in _CALLS]

    def wrapped(call: Callable[..., Any]) -> Callable[..., Any]:
        def act(*args: Any, **more: Any) -> Any:
            count[0] += 1
            if count[0] == number:
                raise OSError(code, os.strerror(code))
            return call(*args, **more)

        return act

    for (owner, name), call in zip(_CALLS, real, strict=True):
        setattr(owner, name, wrapped(call))
    try:
        yield count
    finally:
        for (owner, name), call in zip(_CALLS, real, strict=True):
            setattr(owner, name, call)


def _contents(folder: Path) -> dict[str, bytes]:
    """The files of a folder, but for backups: what stood there is what counts."""
    return {
        str(path.relative_to(folder)): path.read_bytes()
        for path in folder.rglob("*")
        if path.is_file() and path.suffix != ".bak"
    }


def fails_at_every_call() -> Tally:
    """What was there is untouched, or what is new is whole; it is told; nothing else stays."""
    tally = Tally("each call to the disk fails in turn")
    with tempfile.TemporaryDirectory() as name:
        for file, write in writers().items():
            # A mix takes a while: how one refusal is told, all are.
            for code in _CODES[:1] if file == "mix.wav" else _CODES:
                place = Path(name) / f"{file} {code}"
                place.mkdir()
                path = place / file
                write(path)
                before, number = _contents(place), 0
                while True:
                    number += 1
                    told = ""
                    try:
                        with _failing(number, code) as count:
                            write(path)
                    except VerveError as error:
                        told = str(error)
                    except Exception as error:
                        tally.fault(f"{file}, call {number}: {type(error).__name__}: {error}")
                        continue
                    after = _contents(place)
                    if file != "copy" and set(after) != set(before):
                        tally.fault(
                            f"{file}, call {number}: left {sorted(set(after) - set(before))}"
                        )
                    elif file not in after and file != "copy":
                        tally.fault(f"{file}, call {number}: gone")
                    elif file.endswith("pdf") and not after[file].rstrip().endswith(b"%%EOF"):
                        tally.fault(f"{file}, call {number}: half a page")
                    elif not file.endswith("pdf") and file != "copy" and after != before:
                        tally.fault(f"{file}, call {number}: another text")
                    else:
                        tally.note("told" if told else "done all the same")
                    if count[0] < number:
                        break
    return tally


def small_disk() -> Tally:
    """A file system of 256 kB that is filled byte by byte; only where this may be made."""
    tally = Tally("a disk of 256 kB, full for real")
    with tempfile.TemporaryDirectory() as name:
        mount = ["mount", "-t", "tmpfs", "-o", "size=256k", "tmpfs", name]
        if os.geteuid() or subprocess.run(mount, capture_output=True, check=False).returncode:
            return tally
        try:
            for file, write in writers().items():
                path = Path(name) / file
                for room_kb in (200, 120, 64, 32, 16, 8, 4, 0):
                    _try_with_room(tally, path, write, room_kb)
        finally:
            subprocess.run(["umount", "-l", name], check=False)
    return tally


def _try_with_room(tally: Tally, path: Path, write: Callable[[Path], object], room_kb: int) -> None:
    folder, filler = path.parent, path.parent / "filler"
    for old in list(folder.iterdir()):
        shutil.rmtree(old) if old.is_dir() else old.unlink()
    path.write_bytes(b"what was there")
    free = shutil.disk_usage(folder).free
    filler.write_bytes(bytes(max(0, free - room_kb * 1024)))
    try:
        write(path)
        outcome = "whole"
    except VerveError as error:
        outcome = "told"
        if path.read_bytes() != b"what was there":
            tally.fault(f"{path.name}, {room_kb} kB: changed, and told {error}")
            return
    except Exception as error:
        tally.fault(f"{path.name}, {room_kb} kB: {type(error).__name__}: {error}")
        return
    if any(one.name.startswith(".verve") for one in folder.iterdir()):
        tally.fault(f"{path.name}, {room_kb} kB: a temporary file stays")
        return
    tally.note(outcome)
