"""A microphone and a direct signal of one instrument: how far apart they arrive, by geometry and as recorded."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from verve.core.air import Positions
from verve.core.place import _words as words
from verve.core.session import Line, Session, Setup, TakeTrack, split_port
from verve.core.units import SPEED_OF_SOUND_M_PER_S
from verve.core.words import fill

if TYPE_CHECKING:
    from verve.core.measure import Alignment


@dataclass(frozen=True, slots=True, kw_only=True)
class DirectPartner:
    """A direct signal of who plays into a microphone, beside the microphone's own signal."""

    direct: Line
    microphone: Line


def direct_partners(setup: Setup, microphone: str) -> tuple[DirectPartner, ...]:
    """Direct signals of the performer that a microphone records: pickups, outputs."""
    links = {link.id: link for link in setup.links}
    own = _line_of(setup, microphone)
    if own is None:
        return ()
    sources = {source.id: source for source in setup.sources}
    played = sources[split_port(links[own.first_link].start)[0]]
    found = []
    for line in setup.lines:
        source = sources.get(split_port(links[line.first_link].start)[0])
        if (
            source is not None
            and not source.figures.is_acoustic
            and source.performer is not None
            and source.performer == played.performer
        ):
            found.append(DirectPartner(direct=line, microphone=own))
    return tuple(found)


def _line_of(setup: Setup, microphone: str) -> Line | None:
    links = {link.id: link for link in setup.links}
    return next((line for line in setup.lines if links[line.first_link].end == microphone), None)


def line_of(session: Session, microphone: str) -> str | None:
    """The first signal that a microphone records."""
    found = _line_of(session.setup, microphone)
    return None if found is None else found.id


def pickup_text(setup: Setup, positions: Positions, microphone: str) -> str:
    """How much later than its direct signals a microphone hears an instrument; empty without any."""
    mic = positions.microphone(microphone)
    partners = direct_partners(setup, microphone)
    if mic is None or not partners:
        return ""
    late_ms = 1000.0 * mic.distance_m / SPEED_OF_SOUND_M_PER_S
    return " ".join(
        fill(
            words.PICKUP,
            direct=one.direct.name,
            microphone=mic.name,
            late_ms=late_ms,
            frames=late_ms * setup.audio.sample_rate_hz / 1000.0,
            rate_hz=setup.audio.sample_rate_hz,
        )
        for one in partners
    )


def recorded_pair(session: Session, microphone: str) -> tuple[TakeTrack, TakeTrack] | None:
    """The direct track and the microphone's in the newest whole take that has both."""
    for partner in direct_partners(session.setup, microphone):
        for take in reversed(session.takes):
            tracks = {track.line: track for track in take.tracks}
            both = (tracks.get(partner.direct.id), tracks.get(partner.microphone.id))
            if take.ended == "whole" and both[0] is not None and both[1] is not None:
                return both[0], both[1]
    return None


def measured_text(found: Alignment, direct: TakeTrack, microphone: TakeTrack) -> str:
    """Which track to shift by how much; or that nothing was found, and why."""
    if not found.found or found.delay_frames is None or found.delay_ms is None:
        return fill(words.PICKUP_NOT_FOUND, reason=found.reason or "")
    later = direct.name if found.delay_frames >= 0.0 else microphone.name
    said = fill(
        words.PICKUP_MEASURED,
        late_ms=abs(found.delay_ms),
        frames=abs(found.delay_frames),
        first=direct.name,
        second=microphone.name,
        later=later,
        confidence=found.confidence,
    )
    return f"{said} {words.PICKUP_INVERTED}" if found.polarity_inverted else said
