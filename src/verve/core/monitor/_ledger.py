"""The ledger of delays: everything that one's own sound passes on its way back, in turn."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final

from verve.core.gear import DEFAULT_DISTANCE_M
from verve.core.kind import NOTHING_SET
from verve.core.monitor import _words as words
from verve.core.monitor._learned import Learned, learned
from verve.core.session import Cue, Session, Setup, Source, Way, split_port
from verve.core.units import SPEED_OF_SOUND_M_PER_S
from verve.core.words import FactOrigin, fill

DIRECT_MS: Final = 1.0
"""Through the converters and the mixer within a usual interface; typical, 0 where it is a switch, up to 2."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Delay:
    """One part of a way."""

    name: str
    ms: float
    origin: FactOrigin
    how: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Ledger:
    """One way of hearing oneself, part by part."""

    who: str
    way: Way
    delays: tuple[Delay, ...]
    sample_rate_hz: float

    @property
    def total_ms(self) -> float:
        """All of it."""
        return math.fsum(one.ms for one in self.delays)

    @property
    def frames(self) -> float:
        """The same at the session's rate."""
        return self.total_ms * self.sample_rate_hz / 1000.0

    @property
    def metres(self) -> float:
        """How far away one would stand to hear it so late."""
        return self.total_ms * SPEED_OF_SOUND_M_PER_S / 1000.0


def sources_of(setup: Setup, who: str) -> tuple[Source, ...]:
    """What somebody plays."""
    return tuple(one for one in setup.sources if (one.performer or one.id) == who)


def _air_m(setup: Setup, who: str) -> float | None:
    """From what somebody plays to its nearest microphone; None for what goes by wire."""
    mine = {one.id for one in sources_of(setup, who) if one.figures.is_acoustic}
    devices = {one.id: one for one in setup.devices}
    found = []
    for link in setup.links:
        if split_port(link.start)[0] not in mine:
            continue
        owner, port = split_port(link.end)
        device = devices[owner]
        if device.figures.capsule(port) is not None:
            distance = device.settings.get(port, NOTHING_SET).distance_m
            found.append(DEFAULT_DISTANCE_M if distance is None else distance)
    return min(found, default=None)


def of_computer(session: Session) -> Learned:
    """What is known of the computer's round trip at the session's rate."""
    return learned(session.computer.round_trips, float(session.setup.audio.sample_rate_hz))


def ledger_of(session: Session, cue: Cue, way: Way) -> Ledger:
    """One way of one performer, part by part.

    source: derivation, frames / rate, path / speed of sound
    """
    setup, audio = session.setup, session.setup.audio
    rate = float(audio.sample_rate_hz)
    delays: list[Delay] = []
    air_m = _air_m(setup, cue.who)
    if air_m is not None:
        delays.append(
            Delay(
                name=words.AIR_IN, ms=1000.0 * air_m / SPEED_OF_SOUND_M_PER_S, origin="computed",
                how=fill(words.AIR_HOW, metres=air_m),
            )
        )  # fmt: skip
    if way == "direct":
        delays.append(
            Delay(name=words.INTERFACE, ms=DIRECT_MS, origin="typical", how=words.INTERFACE_HOW)
        )
    elif way == "software":
        delays += _through_software(session, cue, rate)
    if cue.worn == "loudspeaker":
        late = 1000.0 * cue.loudspeaker_m / SPEED_OF_SOUND_M_PER_S
        how = fill(words.AIR_HOW, metres=cue.loudspeaker_m)
        delays.append(Delay(name=words.AIR_OUT, ms=late, origin="computed", how=how))
    return Ledger(who=cue.who, way=way, delays=tuple(delays), sample_rate_hz=rate)


def _through_software(session: Session, cue: Cue, rate: float) -> list[Delay]:
    audio, known = session.setup.audio, of_computer(session)
    one_ms = 1000.0 * audio.buffer_frames / rate
    how = fill(words.BUFFER_HOW, frames=audio.buffer_frames, rate_hz=rate)
    fixed: FactOrigin = "typical" if known.known == "typical" else "measured"
    fixed_how = {
        "typical": words.FIXED_TYPICAL, "reported": words.FIXED_REPORTED, "measured": words.FIXED_MEASURED,
    }[known.known]  # fmt: skip
    found = [
        Delay(name=words.BUFFER_IN, ms=one_ms, origin="computed", how=how),
        Delay(
            name=words.FIXED, ms=max(0.0, known.fixed_ms), origin=fixed,
            how=fill(fixed_how, trips=known.trips),
        ),
    ]  # fmt: skip
    if cue.effects != "none" and cue.effect_frames:
        late = 1000.0 * cue.effect_frames / rate
        how_late = fill(words.EFFECTS_HOW, frames=cue.effect_frames)
        found.append(Delay(name=words.EFFECTS, ms=late, origin="yours", how=how_late))
    out_ms = (known.buffers - 1.0) * one_ms
    how_out = how if not known.is_counted else fill(words.COUNTED_HOW, buffers=known.buffers)
    found.append(Delay(name=words.BUFFER_OUT, ms=out_ms, origin="computed", how=how_out))
    return found
