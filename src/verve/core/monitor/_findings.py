"""What can be wrong with what the players hear."""

from __future__ import annotations

from verve.core.findings import Finding
from verve.core.monitor import _words as words
from verve.core.monitor._latency import RoundTrip, round_trip_ms
from verve.core.session import Audio
from verve.core.words import Fact, fill, number

LARGEST_UNNOTICED_MS = 12.0
"""Above about this, players feel the delay (typical; singers notice less)."""
_RECORDING_FRAMES = 64


def monitoring_ms(audio: Audio) -> float:
    """Round trip of the recorder's buffers alone, in and out."""
    return round_trip_ms(
        RoundTrip(sample_rate_hz=float(audio.sample_rate_hz), buffer_frames=audio.buffer_frames)
    )


def round_trip_facts(audio: Audio) -> tuple[Fact, ...]:
    """How the round trip of the buffers comes about."""
    return (
        Fact(
            label=words.ROUND_TRIP,
            text=f"{number(monitoring_ms(audio), 1)} ms",
            origin="computed",
            how=fill(
                words.ROUND_TRIP_HOW,
                buffer_frames=audio.buffer_frames,
                sample_rate_hz=audio.sample_rate_hz,
            ),
        ),
    )


def findings(audio: Audio) -> list[Finding]:
    """A buffer that is meant for mixing, and a depth that costs noise."""
    found = []
    delay_ms = monitoring_ms(audio)
    if delay_ms > LARGEST_UNNOTICED_MS:
        better = audio.model_copy(update={"buffer_frames": _RECORDING_FRAMES})
        found.append(
            Finding(
                rule="buffer_large",
                severity="mend",
                line=None,
                words=words.BUFFER_LARGE,
                places={"delay_ms": delay_ms, "better_frames": _RECORDING_FRAMES},
                audio=better,
                facts=round_trip_facts(audio),
            )
        )
    if audio.bit_depth == 16:
        better = audio.model_copy(update={"bit_depth": 24})
        found.append(
            Finding(
                rule="sixteen_bits",
                severity="know",
                line=None,
                words=words.SIXTEEN_BITS,
                audio=better,
            )
        )
    return found
