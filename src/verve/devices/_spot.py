"""What a microphone would hear where it stands: simulated players, through the air of the room."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import numpy as np
import soundfile

from verve.core.air import Hearing, hearing_of, positions_of
from verve.core.errors import InputError
from verve.core.files import whole_file
from verve.core.session import Session, Sound, Spot, choose_spot, spot_of
from verve.core.sound import (
    as_played,
    heard_through,
    levelled,
    manner_of,
    noise_like,
    perform,
    seed_of,
)
from verve.core.soundfiles import read_sound
from verve.core.units import FloatArray

Whom = Literal["all", "wanted", "others"]
SECONDS = 6.0
LONGEST_S = 20.0
"""So much of a recording is heard of a spot: longer nobody remembers how the other one was."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SpotRequest:
    """Through which microphone, `device:port`, one listens, and to whom."""

    microphone: str
    whom: Whom = "all"


def spot_sound(session: Session, request: SpotRequest) -> tuple[FloatArray, int]:
    """Some seconds of it at the session's rate, at a usual level to listen to: spots are compared equally loud.

    shape: (n_frames,)
    raises: InputError if there is no such microphone, or nobody to be heard
    """
    hearing = hearing_of(positions_of(session.setup))
    names = [one.id for one in hearing.positions.microphones]
    if request.microphone not in names:
        raise InputError("microphone", "must stand in the room", request.microphone)
    microphone = names.index(request.microphone)
    rate_hz = session.setup.audio.sample_rate_hz
    wanted = set(hearing.wanted[microphone])
    chosen = [
        source
        for source in range(len(hearing.positions.sources))
        if request.whom == "all" or (source in wanted) == (request.whom == "wanted")
    ]
    sounds = {source: _sound_of(hearing, source, rate_hz) for source in chosen}
    sounds = {source: sound for source, sound in sounds.items() if sound.any()}
    if not sounds:
        raise InputError("microphone", "must hear somebody: nobody else sounds in this room")
    return levelled(heard_through(hearing, microphone, sounds, rate_hz)), rate_hz


def write_spot(session: Session, request: SpotRequest, path: Path) -> Path:
    """The same as a sound file.

    raises: InputError as `spot_sound`; FileError if it cannot be written
    """
    samples, rate_hz = spot_sound(session, request)
    with whole_file(path) as temporary:
        soundfile.write(str(temporary), samples, rate_hz, format="WAV", subtype="FLOAT")
    return path


def write_noted(session: Session, spot_id: str, path: Path) -> Path:
    """What is heard at a spot that was noted, as loud as every other one: its recording, else simulated players.

    raises: EditError for no such spot; InputError for a silent recording, or as `spot_sound`; FileError if a file
    cannot be read or written
    """
    spot = spot_of(session, spot_id)
    recording = next((one for one in session.sounds if one.id == spot.sound), None)
    if recording is None:
        there = choose_spot(session, spot_id, spot.chosen_at)
        return write_spot(there, SpotRequest(microphone=spot.microphone), path)
    samples, rate_hz = read_sound(Path(recording.file))
    heard = samples[_channel(session, recording, spot)]
    begin = round(recording.figures.silence_s * rate_hz)
    heard = np.asarray(heard[begin : begin + round(LONGEST_S * rate_hz)], dtype=np.float64)
    if not heard.any():
        raise InputError("recording", "must hold some sound", recording.name)
    with whole_file(path) as temporary:
        soundfile.write(str(temporary), levelled(heard), rate_hz, format="WAV", subtype="FLOAT")
    return path


def _channel(session: Session, recording: Sound, spot: Spot) -> int:
    """The channel of a file that holds the signal of a spot's microphone; the first one where none is said to."""
    ends = {link.id: link.end for link in session.setup.links}
    lines = {one.id for one in session.setup.lines if ends[one.first_link] == spot.microphone}
    return next((number for number, line in enumerate(recording.signals) if line in lines), 0)


def _sound_of(hearing: Hearing, source: int, rate_hz: int) -> FloatArray:
    one = hearing.positions.sources[source]
    frames = round(SECONDS * rate_hz)
    if one.figures is None:
        return noise_like(hearing, source, frames, rate_hz)
    made = perform(
        player=manner_of(one.figures),
        octave_bands_db=one.figures.octave_bands_db,
        playing=one.figures.playing(),
        play="typical",
        seconds=SECONDS,
        rate_hz=rate_hz,
        seed=seed_of(one.id),
    )
    return np.asarray(as_played(made, hearing, source))
