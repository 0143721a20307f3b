"""The computer on the day of a recording: what can be looked up, and is told only where it is not right."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from verve.core.monitor import day_words
from verve.core.session import Session

_LEAST_MEMORY_GB: Final = 8.0
_LEAST_FREE_MEMORY: Final = 0.15
_HOURS: Final = 4.0
"""So long a day's recording may run; typical."""
_GOVERNOR = "sys/devices/system/cpu/cpu0/cpufreq/scaling_governor"


@dataclass(frozen=True, slots=True, kw_only=True)
class DayFault:
    """Something that is not right today, and what to do about it."""

    key: str
    words: str


def day_faults(session: Session, folder: Path, root: Path = Path("/")) -> tuple[DayFault, ...]:
    """Everything that is wrong with the computer for this session, takes going to `folder`.

    What cannot be looked up here is left out: no answer is no fault. `root` is another file system in tests.
    """
    found: list[DayFault] = []
    for key, places in (
        *_disk(session, folder), *_memory(root), *_power(root), *_speed(root), *_held(root),
        *_rates(session, root), *_load(root),
    ):  # fmt: skip
        found.append(DayFault(key=key, words=day_words(key, **places)))
    return tuple(found)


_Found = Iterator[tuple[str, dict[str, str | float]]]


def _names(folder: Path) -> list[str]:
    """What is in a folder; nothing where it cannot be looked into."""
    try:
        return sorted(one.name for one in folder.iterdir())
    except OSError:
        return []


def _text(path: Path) -> str:
    try:
        return path.read_text(encoding="utf-8", errors="replace").strip()
    except OSError:
        return ""


def _disk(session: Session, folder: Path) -> _Found:
    """Space for a day, and whether anything can be written there at all."""
    there = next((one for one in (folder, *folder.parents) if one.exists()), None)
    if there is None:
        return
    if not os.access(there, os.W_OK):
        yield "not_writable", {"folder": str(there)}
        return
    audio = session.setup.audio
    tracks = max(1, len(session.setup.lines))
    need_gb = tracks * audio.sample_rate_hz * audio.bit_depth / 8 * _HOURS * 3600.0 / 1e9
    free_gb = shutil.disk_usage(there).free / 1e9
    if free_gb < need_gb:
        hours = _HOURS * free_gb / need_gb
        yield "disk", {"free_gb": free_gb, "need_gb": need_gb, "hours": hours}


def _memory(root: Path) -> _Found:
    said = {
        line.split(":")[0]: float(line.split()[1])
        for line in _text(root / "proc/meminfo").splitlines()
        if len(line.split()) > 1 and line.split()[1].isdigit()
    }
    total, free = said.get("MemTotal"), said.get("MemAvailable")
    if total is None or free is None:
        return
    if total / 1e6 < _LEAST_MEMORY_GB * 0.9:
        yield "memory_small", {"total_gb": total / 1e6}
    if free < _LEAST_FREE_MEMORY * total:
        yield "memory_full", {"free_gb": free / 1e6}


def _power(root: Path) -> _Found:
    """A battery that runs down takes the take with it; a charger can bring a hum."""
    supplies = root / "sys/class/power_supply"
    names = _names(supplies)
    status = {name: _text(supplies / name / "status").lower() for name in names}
    batteries = [name for name in names if _text(supplies / name / "type").lower() == "battery"]
    for name in batteries:
        charge = _text(supplies / name / "capacity")
        if status[name] == "discharging" and charge.isdigit() and int(charge) < 50:
            yield "battery", {"percent": float(charge)}
    if any(status[name] == "charging" for name in batteries):
        yield "charger", {}


def _speed(root: Path) -> _Found:
    if (
        _text(root / _GOVERNOR) == "powersave"
        and not (root / "sys/devices/system/cpu/intel_pstate").exists()
    ):
        yield "slow", {}


def _cards(root: Path) -> Iterator[Path]:
    asound = root / "proc/asound"
    for name in _names(asound):
        if name.startswith("card") and name[4:].isdigit():
            yield asound / name


def _streams(card: Path) -> Iterator[Path]:
    for device in _names(card):
        if device.startswith("pcm"):
            yield from (
                card / device / sub for sub in _names(card / device) if sub.startswith("sub")
            )


def _held(root: Path) -> _Found:
    """A device that another program has open, and which program that is."""
    for card, program in _holders(root):
        yield "held", {"card": card, "program": program}


def holder_of(root: Path = Path("/")) -> str:
    """The program that has a sound device open just now; empty for none, or where nobody can tell."""
    return next((program for _, program in _holders(root)), "")


def _holders(root: Path) -> Iterator[tuple[str, str]]:
    """Sound cards that another program has open, each with its name."""
    for card in _cards(root):
        for stream in _streams(card):
            said = {
                name.strip(): value.strip()
                for name, _, value in (
                    line.partition(":") for line in _text(stream / "status").splitlines()
                )
            }
            owner = said.get("owner_pid", "")
            if owner.isdigit() and int(owner) != os.getpid():
                program = _text(root / "proc" / owner / "comm") or owner
                yield _text(card / "id") or card.name, program
                break


def _rates(session: Session, root: Path) -> _Found:
    """A device that runs at another rate now: what is played then is slow and flat, or quick and sharp."""
    wanted = session.setup.audio.sample_rate_hz
    for card in _cards(root):
        for stream in _streams(card):
            for line in _text(stream / "hw_params").splitlines():
                if line.startswith("rate:") and line.split()[1].isdigit():
                    rate = int(line.split()[1])
                    if rate != wanted:
                        yield "rate", {
                            "card": _text(card / "id") or card.name, "rate_hz": float(rate),
                            "wanted_hz": float(wanted),
                        }  # fmt: skip
                        return


def _load(root: Path) -> _Found:
    """Something else that keeps it busy."""
    first = _text(root / "proc/loadavg").split(" ")[0]
    cores = sum(line.startswith("processor") for line in _text(root / "proc/cpuinfo").splitlines())
    try:
        load = float(first)
    except ValueError:
        return
    if cores and load > 0.7 * cores:
        yield "busy", {"load": load, "cores": float(cores)}
