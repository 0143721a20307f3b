"""The computer on the day: what is not right is told, what is right or cannot be seen is not."""

from __future__ import annotations

from pathlib import Path

import pytest

from verve.core.demo import demo_session
from verve.devices import day_faults


@pytest.fixture
def right(tmp_path: Path) -> Path:
    """A computer on which everything is right."""
    root = tmp_path / "root"
    write(root / "proc/meminfo", "MemTotal: 16000000 kB\nMemAvailable: 12000000 kB\n")
    write(root / "proc/loadavg", "0.20 0.3 0.4 1/200 999\n")
    write(root / "proc/cpuinfo", "processor : 0\nprocessor : 1\n")
    write(root / "sys/devices/system/cpu/cpu0/cpufreq/scaling_governor", "performance\n")
    write(root / "sys/class/power_supply/BAT0/type", "Battery\n")
    write(root / "sys/class/power_supply/BAT0/status", "Full\n")
    write(root / "sys/class/power_supply/BAT0/capacity", "97\n")
    write(root / "proc/asound/card0/id", "Interface\n")
    write(root / "proc/asound/card0/pcm0p/sub0/status", "closed\n")
    write(root / "proc/asound/card0/pcm0p/sub0/hw_params", "closed\n")
    return root


def write(path: Path, words: str) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(words)


def told(root: Path, folder: Path) -> dict[str, str]:
    return {one.key: one.words for one in day_faults(demo_session(), folder, root)}


def test_a_right_computer_is_silent_and_so_is_one_that_cannot_be_seen(
    right: Path, tmp_path: Path
) -> None:
    assert told(right, tmp_path) == {}
    assert told(tmp_path / "nowhere", tmp_path / "takes" / "deeper") == {}


@pytest.mark.parametrize(
    ("place", "words", "key", "says"),
    [
        (
            "proc/meminfo",
            "MemTotal: 4000000 kB\nMemAvailable: 3000000 kB\n",
            "memory_small",
            "4 GB",
        ),
        (
            "proc/meminfo",
            "MemTotal: 16000000 kB\nMemAvailable: 900000 kB\n",
            "memory_full",
            "0.9 GB",
        ),
        ("proc/loadavg", "1.9 1 1 1/2 3", "busy", "1.9 of 2 cores"),
        ("sys/devices/system/cpu/cpu0/cpufreq/scaling_governor", "powersave", "slow", "crackle"),
        ("sys/class/power_supply/BAT0/status", "Charging", "charger", "hums"),
        ("proc/asound/card0/pcm0p/sub0/hw_params", "rate: 44100 (44100/1)", "rate", "44100 Hz"),
    ],
)
def test_each_fault_is_told(
    right: Path, tmp_path: Path, place: str, words: str, key: str, says: str
) -> None:
    write(right / place, words)
    found = told(right, tmp_path)
    assert list(found) == [key]
    assert says in found[key]


def test_a_battery_that_runs_down_and_a_device_in_use_are_told(right: Path, tmp_path: Path) -> None:
    write(right / "sys/class/power_supply/BAT0/status", "Discharging")
    write(right / "sys/class/power_supply/BAT0/capacity", "31")
    write(right / "proc/asound/card0/pcm0p/sub0/status", "state: RUNNING\nowner_pid   : 4242\n")
    write(right / "proc/4242/comm", "somebody\n")
    found = told(right, tmp_path)
    assert "31%" in found["battery"]
    assert "Interface is in use by somebody" in found["held"]


def test_too_little_space_is_told_with_how_long_it_lasts(
    right: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from collections import namedtuple

    usage = namedtuple("usage", "total used free")
    monkeypatch.setattr(
        "verve.devices._day.shutil.disk_usage", lambda _: usage(1, 1, 7_000_000_000)
    )
    found = told(right, tmp_path)
    assert "7.0 GB free" in found["disk"]
    assert "h. Make space" in found["disk"]
