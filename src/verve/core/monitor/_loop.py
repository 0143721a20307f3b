"""Before a loop-back is played: what has to be safe, point by point."""

from __future__ import annotations

from dataclasses import dataclass

from verve.core.kind import NOTHING_SET, phantom_channel
from verve.core.monitor import _words as words
from verve.core.session import Session
from verve.core.words import fill, listed


@dataclass(frozen=True, slots=True, kw_only=True)
class SafePoint:
    """One thing to do and to tick, and what would happen otherwise."""

    words: str
    why: str


def loop_points(session: Session) -> tuple[SafePoint, ...]:
    """Everything to be made safe, in the order in which it harms nobody."""
    on = phantom_on(session)
    phantom = fill(words.LOOP_PHANTOM_ON, inputs=listed(on)) if on else words.LOOP_PHANTOM
    return (
        SafePoint(words=words.LOOP_EARS, why=words.LOOP_EARS_WHY),
        SafePoint(words=words.LOOP_MONITORS, why=words.LOOP_MONITORS_WHY),
        SafePoint(words=phantom, why=words.LOOP_PHANTOM_WHY),
        SafePoint(words=words.LOOP_LINE, why=words.LOOP_LINE_WHY),
        SafePoint(words=words.LOOP_DIRECT, why=words.LOOP_DIRECT_WHY),
    )


def phantom_on(session: Session) -> tuple[str, ...]:
    """Inputs of interfaces at which phantom power is on now, by name."""
    found = []
    for device in session.setup.devices:
        if not device.figures.records:
            continue
        for port in device.figures.input_ports():
            switch = device.figures.phantom_switch(port)
            if switch is None:
                continue
            if device.settings.get(phantom_channel(switch), NOTHING_SET).phantom:
                found.append(f"{device.name} {port.removeprefix('in.')}")
    return tuple(found)


def dropouts_told(count: int) -> tuple[str, ...]:
    """What to do about sound that dropped out; nothing where none did."""
    return (fill(words.LOOP_DROPOUTS, count=count),) if count else ()


def loop_told(stopped: str | None) -> str:
    """Why a loop-back ended without an answer."""
    return {
        "too loud": words.LOOP_TOO_LOUD, "rises": words.LOOP_RISES,
    }.get(stopped or "", words.LOOP_STOPPED)  # fmt: skip
