"""Who is it? at work: one signal after the other is sounded, live or simulated, and found where it arrives."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Final

from verve.core.assess import Assessment, assess
from verve.core.check import Levels, Proof, Who, expected_of
from verve.core.errors import InputError
from verve.core.session import Session
from verve.core.units import FloatArray
from verve.devices._check import Commands
from verve.devices._players import CheckPlayers, Wish
from verve.devices._record import Live, wait

MOST_CHANNELS: Final = 32
"""So many inputs of a device are listened to: a signal may arrive on one that nobody thought of."""
_REPORTS_PER_S = 15


@dataclass(frozen=True, slots=True, kw_only=True)
class WhoRequest:
    """Which signals are looked for, in their order, and on which device."""

    session: Session
    lines: tuple[str, ...]
    live: Live | None = None
    is_paced: bool = True

    def __post_init__(self) -> None:
        if not self.lines:
            raise InputError("lines", "must have at least one signal")


def who_is_it(
    request: WhoRequest,
    report: Callable[[Who], None],
    is_cancelled: Callable[[], bool],
    commands: Commands,
) -> tuple[Proof, ...]:
    """Ask for one signal after the other until all are found or left out; a `skip` leaves one out.

    raises: DeviceError if the device cannot be opened, or has gone; InputError for a signal that arrives nowhere
    """
    assessment = assess(request.session)
    rate_hz = request.session.setup.audio.sample_rate_hz
    live = request.live
    channels: Mapping[str, int] = (
        {line: number for number, line in enumerate(request.lines)}
        if live is None
        else live.channels
    )
    who = Who.of(expected_of(assessment, {line: channels[line] for line in request.lines}))
    count = len(request.lines) if live is None else _count(live)
    levels = Levels(channels=count, rate_hz=rate_hz)
    state, began, frames, told = levels.start(), time.monotonic(), 0, -1.0
    players = CheckPlayers(assessment, request.lines) if live is None else None

    def heard() -> Iterator[FloatArray]:
        if live is None:
            assert players is not None
            yield from players.blocks()
            return
        with live.open(rate_hz, at_least=count) as system:
            for block in system.blocks(is_cancelled=is_cancelled):
                yield block.samples

    for samples in heard():
        if is_cancelled():
            break
        for command in commands.taken():
            who = who.skip() if command.deed == "skip" else who
        before = who
        state, moments = levels.fold(state, samples)
        for moment in moments:
            who = who.fold(moment)
        frames += samples.shape[1]
        if who.proofs != before.proofs or frames / rate_hz - told >= 1.0 / _REPORTS_PER_S:
            told = frames / rate_hz
            report(who)
        if who.is_done:
            break
        if players is not None:
            players.wish = _wish(who, assessment)
            if request.is_paced:
                wait(frames / rate_hz - (time.monotonic() - began), is_cancelled)
    return who.proofs


def _count(live: Live) -> int:
    needed = max(live.channels.values()) + 1
    return max(needed, min(MOST_CHANNELS, live.device.channels_in))


def _wish(who: Who, assessment: Assessment) -> Wish:
    asked = who.asked
    item = None if asked is None or who.is_between else assessment.line(asked.line)
    if item is None or not item.route.has_source:
        return Wish()
    return Wish(sources=frozenset({item.route.source.id}))
