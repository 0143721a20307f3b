"""Buffer sizes against one another: how late, and how likely the computer is to be too slow for them."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Final, Literal

from verve.core.monitor._ledger import of_computer
from verve.core.monitor._tasks import band_of
from verve.core.session import Session, cue_of, listeners

SIZES: Final = (32, 64, 128, 256, 512, 1024, 2048)
_OVERHEAD_MS: Final = 0.35
"""What a computer needs for each buffer, however small it is; typical."""
_TRACK_SHARE, _EFFECT_SHARE = 0.004, 0.02
"""Of its time, for each track and each effect; typical, and to be typed where the computer says so itself."""
_CALM, _TIGHT = 0.5, 0.8
Risk = Literal["calm", "tight", "drop-outs likely"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Option:
    """One buffer size: its round trip, and how much of the time between two buffers the computer needs."""

    buffer_frames: int
    round_trip_ms: float
    busy: float

    @property
    def risk(self) -> Risk:
        """In a word."""
        if self.busy < _CALM:
            return "calm"
        return "tight" if self.busy < _TIGHT else "drop-outs likely"


def load_share(session: Session) -> float:
    """How busy the computer is at a large buffer: as it says, else from tracks and effects."""
    monitoring = session.setup.monitoring
    if monitoring.load_percent is not None:
        return monitoring.load_percent / 100.0
    tracks = monitoring.tracks or len(session.setup.lines)
    return _TRACK_SHARE * tracks + _EFFECT_SHARE * monitoring.effects


def option(session: Session, buffer_frames: int, sample_rate_hz: float) -> Option:
    """A buffer size at a rate.

    source: derivation; a share of the time that grows with the rate, and a fixed time for each buffer
    """
    audio = session.setup.audio
    known = of_computer(session)
    period_ms = 1000.0 * buffer_frames / sample_rate_hz
    share = load_share(session) * sample_rate_hz / audio.sample_rate_hz
    return Option(
        buffer_frames=buffer_frames,
        round_trip_ms=known.round_trip_ms(buffer_frames, sample_rate_hz),
        busy=share + _OVERHEAD_MS / period_ms,
    )


def options(session: Session, sample_rate_hz: float | None = None) -> tuple[Option, ...]:
    """All sizes that are usual, at the session's rate or another one."""
    rate = float(session.setup.audio.sample_rate_hz) if sample_rate_hz is None else sample_rate_hz
    return tuple(option(session, size, rate) for size in SIZES)


def strictest_ms(session: Session) -> float:
    """What the most critical of those who hear themselves through the software can bear; infinite for nobody."""
    setup = session.setup
    found = [
        band_of(setup, who).disturbing_ms
        for who, _ in listeners(setup)
        if "software" in cue_of(setup, who).ways
    ]
    return min(found, default=math.inf)


def recommended(session: Session) -> tuple[int, int]:
    """A size to record with and one to mix with.

    To record: the smallest that the computer bears calmly, larger ones only where nobody hears through the software.
    To mix: one that it bears calmly by far, since nobody waits for it.
    """
    every = options(session)
    calm = [one for one in every if one.busy < _CALM]
    record = calm[0] if calm else min(every, key=lambda one: one.busy)
    mixing = [one for one in every if one.buffer_frames >= 512 and one.busy < _CALM]
    mix = mixing[min(1, len(mixing) - 1)] if mixing else every[-1]
    return record.buffer_frames, max(mix.buffer_frames, record.buffer_frames)
