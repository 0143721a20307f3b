"""Loop-backs, alignments and pitches for a terminal and as JSON data."""

from __future__ import annotations

from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from verve.core.words import number

if TYPE_CHECKING:
    from verve.core.measure import Alignment, Loopback, Pitch


def loopback_data(found: Loopback) -> dict[str, Any]:
    """Keys as in docs/recordings.md."""
    return asdict(found)


def loopback_text(found: Loopback) -> str:
    """Whether it came back, how late, and what is odd about it."""
    if not found.found or found.delay_frames is None or found.delay_ms is None:
        return f"Not found: {_REASONS.get(found.reason or '', found.reason)}."
    said = [f"It came back {found.delay_ms:.3f} ms later ({found.delay_frames:.2f} samples)."]
    if found.level_db is not None:
        said.append(f"Level: {number(found.level_db, 1, sign=True)} dB.")
    if found.polarity_inverted:
        said.append("Its polarity is inverted.")
    if found.clock_differs and found.clock_difference_ppm is not None:
        said.append(f"The clocks differ by {number(found.clock_difference_ppm, 0, sign=True)} ppm.")
    if not found.is_complete:
        said.append("Not all of it is in the file that came back.")
    swapped = [n for n in found.channel_map if n is not None]
    if len(swapped) > 1 and swapped != sorted(swapped):
        said.append("The channels are swapped.")
    for other in found.other_arrivals:
        behind = other.delay_frames - found.delay_frames
        said.append(
            f"Once more {behind:.1f} samples after that, {number(other.level_db, 1, sign=True)} dB beside it."
        )
    return "\n".join(said)


_REASONS = {
    "ambiguous": "what was sent repeats itself, so that a delay could be a whole period off; send a sweep or noise",
}


def alignment_data(found: Alignment) -> dict[str, Any]:
    """Keys as in docs/recordings.md."""
    return asdict(found)


def alignment_text(found: Alignment) -> str:
    """Which track to move, and how far."""
    if not found.found or found.shift is None or found.delay_ms is None:
        return f"Not found: {found.reason}."
    which = "The second" if found.shift.track == "second" else "The first"
    far = (
        "" if found.distance_m is None else f", as far as sound travels in {found.distance_m:.2f} m"
    )
    said = [
        f"{which} track is {abs(found.delay_ms):.3f} ms later{far}.",
        f"Move it earlier by {found.shift.frames:.1f} samples.",
    ]
    if found.polarity_inverted:
        said.append("The two have opposite polarity: invert one.")
    return "\n".join(said)


def pitch_data(found: Pitch) -> dict[str, Any]:
    """Keys as in docs/recordings.md."""
    return asdict(found)


def pitch_text(found: Pitch) -> str:
    """The note, and how far off it is."""
    if found.pitch_hz is None or found.cents is None:
        return "No single note sounds there."
    off = number(found.cents, 1, sign=True)
    return f"{found.note} {off} cents ({found.pitch_hz:.2f} Hz; A4 = {found.a4_hz:g} Hz)"
