"""What the computer must do: tracks, rate and depth as megabytes; sockets; power from the bus."""

from __future__ import annotations

from dataclasses import dataclass

from verve.core.kind import DeviceFigures
from verve.core.session import Audio, Computer

LEAST_MEMORY_GB = 8.0
"""Below it, recording with a few effects gets tight (typical)."""
_SAFETY = 4.0
"""A disk should be so much faster than the stream, for everything else that it does (typical)."""
_BUS_MW = 2500.0
"""What a plain computer socket gives: 5 V, 500 mA (USB 2.0)."""
_EVERYTHING_ELSE_MW = 1500.0
"""Converters, preamps, lamps and headphones of a small interface (typical)."""
_PHANTOM_EFFICIENCY = 0.7
"""Of the 48 V converter in an interface (typical)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Check:
    """One question about the computer: the answer, whether it is well, and how it was worked out.

    `is_well` is None where something is not known.
    """

    label: str
    text: str
    is_well: bool | None
    how: str


def stream_mb_per_s(tracks: int, audio: Audio) -> float:
    """What recording writes; 8 tracks at 48 kHz and 24 bits are 1.15 MB/s.

    source: derivation, tracks × rate × bytes
    """
    return tracks * audio.sample_rate_hz * audio.bit_depth / 8.0 / 1e6


def checks_of(
    tracks: int,
    audio: Audio,
    computer: Computer,
    interface: DeviceFigures | None,
    phantom_ma: float,
) -> tuple[Check, ...]:
    """Disk, transfer, memory, socket and bus power."""
    rate = stream_mb_per_s(tracks, audio)
    per_hour_gb = rate * 3600.0 / 1000.0
    formula = f"{tracks} tracks × {audio.sample_rate_hz} Hz × {audio.bit_depth} bit"
    free, speed, memory = computer.free_disk_gb, computer.write_mb_per_s, computer.memory_gb
    found = [
        Check(
            label="Disk for an hour",
            text=f"{per_hour_gb:.1f} GB",
            is_well=None if free is None else free >= per_hour_gb,
            how=formula
            + ("" if free is None else f"; {free:g} GB free are {free / per_hour_gb:.1f} hours")
            if per_hour_gb
            else formula,
        ),
        Check(
            label="Written all the time",
            text=f"{rate:.2f} MB/s",
            is_well=None if speed is None else speed >= _SAFETY * rate,
            how=f"{formula} ÷ 8; a disk should write {_SAFETY:g} times as fast",
        ),
        Check(
            label="Memory",
            text="not known" if memory is None else f"{memory:g} GB",
            is_well=None if memory is None else memory >= LEAST_MEMORY_GB,
            how=f"{LEAST_MEMORY_GB:g} GB are the least to record and listen through effects",
        ),
    ]
    if interface is not None:
        found += _interface(interface, computer, phantom_ma)
    return tuple(found)


def _interface(figures: DeviceFigures, computer: Computer, phantom_ma: float) -> list[Check]:
    words = {"usb_a": "USB A", "usb_c": "USB C"}
    sockets, plug = computer.sockets, figures.computer_plug()
    if plug is None:
        return []
    found = [
        Check(
            label="The interface’s plug",
            text=words[plug],
            is_well=None if not sockets else plug in sockets,
            how="the computer has " + (", ".join(words[s] for s in sockets) or "unknown sockets"),
        )
    ]
    power = socket_power(figures, phantom_ma)
    return found if power is None else [*found, power]


def socket_power(figures: DeviceFigures, phantom_ma: float) -> Check | None:
    """What an interface asks of the computer's socket; None where it has a supply of its own."""
    if not figures.is_powered_by_computer():
        return None
    total_mw = _EVERYTHING_ELSE_MW + 48.0 * phantom_ma / _PHANTOM_EFFICIENCY
    return Check(
        label="Power from the socket",
        text=f"{total_mw / 1000.0:.1f} W of {_BUS_MW / 1000.0:.1f} W",
        is_well=total_mw <= _BUS_MW,
        how=f"{_EVERYTHING_ELSE_MW / 1000.0:g} W for itself (typical), and 48 V × "
        f"{phantom_ma:.1f} mA ÷ {_PHANTOM_EFFICIENCY:g} for phantom power",
    )
