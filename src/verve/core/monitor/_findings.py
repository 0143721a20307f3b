"""What can be wrong with what the players hear."""

from __future__ import annotations

from verve.core.findings import Finding, Remedy
from verve.core.monitor._latency import RoundTrip, round_trip_ms
from verve.core.session import Audio
from verve.core.words import Fact

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
            label="Round trip",
            text=f"{monitoring_ms(audio):.1f} ms",
            origin="computed",
            how=f"2 × {audio.buffer_frames} frames ÷ {audio.sample_rate_hz} Hz, "
            "converters and driver not counted",
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
                title="The headphones are late",
                brief="late in the headphones",
                cost=f"What is played comes back {delay_ms:.0f} ms later, and throws the player off.",
                to_do=f"Record with {_RECORDING_FRAMES} frames; go back up for mixing.",
                offered=Remedy(label=f"Use {_RECORDING_FRAMES} frames", audio=better),
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
                title="The recorder writes 16 bits",
                brief="16 bits",
                cost="A quiet take raised later brings up the recorder’s own noise, 98 dB down.",
                to_do="Record with 24 bits; the files grow by half.",
                offered=Remedy(label="Use 24 bits", audio=better),
            )
        )
    return found
