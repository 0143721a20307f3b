"""What the computer must do: tracks, rate and depth as megabytes; sockets; power from the bus."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from verve.core.kind import DeviceFigures
from verve.core.needs import _words as words
from verve.core.session import Audio, Computer
from verve.core.words import fill

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
    plugged: Sequence[str] = (),
) -> tuple[Check, ...]:
    """Disk, transfer, memory, socket and bus power; `plugged` is what takes a socket, by name."""
    rate = stream_mb_per_s(tracks, audio)
    per_hour_gb = rate * 3600.0 / 1000.0
    formula = fill(
        words.STREAM, tracks=tracks, sample_rate_hz=audio.sample_rate_hz, bit_depth=audio.bit_depth
    )
    free, speed, memory = computer.free_disk_gb, computer.write_mb_per_s, computer.memory_gb
    found = [
        Check(
            label=words.DISK,
            text=fill(words.DISK_TEXT, per_hour_gb=per_hour_gb),
            is_well=None if free is None else free >= per_hour_gb,
            how=formula
            + (
                ""
                if free is None
                else fill(words.DISK_FREE, free_gb=free, hours=free / per_hour_gb)
            )
            if per_hour_gb
            else formula,
        ),
        Check(
            label=words.WRITTEN,
            text=fill(words.WRITTEN_TEXT, rate_mb_per_s=rate),
            is_well=None if speed is None else speed >= _SAFETY * rate,
            how=fill(words.WRITTEN_HOW, stream=formula, safety=_SAFETY),
        ),
        Check(
            label=words.MEMORY,
            text=words.NOT_KNOWN if memory is None else fill(words.MEMORY_TEXT, memory_gb=memory),
            is_well=None if memory is None else memory >= LEAST_MEMORY_GB,
            how=fill(words.MEMORY_HOW, least_gb=LEAST_MEMORY_GB),
        ),
    ]
    if interface is not None:
        found += _interface(interface, computer, phantom_ma)
    if len(plugged) > 1:
        found.append(
            Check(
                label=words.IN_USE,
                text=str(len(plugged)),
                is_well=None,
                how=fill(words.IN_USE_HOW, things=", ".join(plugged)),
            )
        )
    return tuple(found)


def _interface(figures: DeviceFigures, computer: Computer, phantom_ma: float) -> list[Check]:
    sockets, plug = computer.sockets, figures.computer_plug()
    if plug is None:
        return []
    found = [
        Check(
            label=words.PLUG,
            text=words.USB_PLUGS[plug],
            is_well=None if not sockets else plug in sockets,
            how=fill(words.SOCKETS, sockets=", ".join(words.USB_PLUGS[s] for s in sockets))
            if sockets
            else words.UNKNOWN_SOCKETS,
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
        label=words.SOCKET_POWER,
        text=fill(words.SOCKET_POWER_TEXT, total_w=total_mw / 1000.0, bus_w=_BUS_MW / 1000.0),
        is_well=total_mw <= _BUS_MW,
        how=fill(
            words.SOCKET_POWER_HOW,
            own_w=_EVERYTHING_ELSE_MW / 1000.0,
            phantom_ma=phantom_ma,
            efficiency=_PHANTOM_EFFICIENCY,
        ),
    )
