"""Spots that a microphone was tried at: what it hears at each, so that they can be held against one another."""

from __future__ import annotations

import math

from verve.core.air import hearing_of, positions_of
from verve.core.errors import EditError
from verve.core.place import _words as words
from verve.core.session import Session, Sound, Spot, choose_spot
from verve.core.words import fill


def spots_of(session: Session, microphone: str) -> tuple[Spot, ...]:
    """Those of one microphone, in the order they were noted."""
    return tuple(one for one in session.spots if one.microphone == microphone)


def recording_of(session: Session, spot: Spot) -> Sound | None:
    """The sound file that was made there; None where what is heard is simulated."""
    return next((one for one in session.sounds if one.id == spot.sound), None)


def spot_line(session: Session, spot: Spot) -> str:
    """Where it is and what is heard there, in a line."""
    try:
        there = choose_spot(session, spot.id, spot.chosen_at)
    except EditError as error:
        return fill(words.SPOT_GONE, name=spot.name, why=str(error))
    hearing = hearing_of(positions_of(there.setup))
    number = next(
        (n for n, one in enumerate(hearing.positions.microphones) if one.id == spot.microphone),
        None,
    )
    if number is None:
        return fill(words.SPOT_GONE, name=spot.name, why=words.SPOT_UNUSED)
    own = hearing.path(number, hearing.wanted[number][0])
    parts = [
        fill(
            words.SPOT_AT, name=spot.name, distance_cm=spot.distance_m * 100.0,
            bearing_deg=spot.aim.bearing_deg, rise_deg=spot.aim.rise_deg,
        )
    ]  # fmt: skip
    if own.direct_db is not None:
        parts.append(fill(words.SPOT_LEVEL, level_db=own.direct_db))
    if own.direct_db is not None and own.room_db is not None:
        parts.append(fill(words.SPOT_DIRECT, over_db=own.direct_db - own.room_db))
    beside = [
        (float(hearing.bleed_db[number, other]), one.name)
        for other, one in enumerate(hearing.positions.sources)
        if other not in hearing.wanted[number] and math.isfinite(hearing.bleed_db[number, other])
    ]
    if beside:
        below_db, name = min(beside)
        parts.append(fill(words.SPOT_BLEED, name=name, below_db=-below_db))
    recording = recording_of(session, spot)
    if recording is not None:
        loudness = recording.figures.integrated_lufs
        noise = recording.figures.channels[0].noise_dbfs_a
        parts.append(fill(words.SPOT_RECORDED, name=recording.name))
        if loudness is not None:
            parts.append(fill(words.SPOT_LOUDNESS, lufs=loudness))
        if noise is not None:
            parts.append(fill(words.SPOT_NOISE, noise_dbfs_a=noise))
    if spot.chosen_at:
        parts.append(fill(words.SPOT_CHOSEN, at=spot.chosen_at[:16].replace("T", " ")))
    return words.SPOT_JOIN.join(parts)


def spot_lines(session: Session, microphone: str) -> tuple[str, ...]:
    """All spots of a microphone, a line each."""
    return tuple(spot_line(session, one) for one in spots_of(session, microphone))
