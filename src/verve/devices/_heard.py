"""What somebody would hear of themselves: simulated playing by each of their ways, rendered."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

import numpy as np
import soundfile

from verve.core.air import hearing_of, positions_of
from verve.core.errors import InputError
from verve.core.files import whole_file
from verve.core.monitor import is_in_the_head, ledger_of, sources_of
from verve.core.session import Session, cue_of, listeners
from verve.core.sound import levelled, manner_of, perform, seed_of
from verve.core.units import FloatArray
from verve.devices._spot import SpotRequest, spot_sound

HeardPart = Literal["all", "direct", "others"]
"""All their ways as they are; what would be left with the direct way alone; who else is in their microphone."""
SECONDS = 6.0
_FADE_S = 0.5
_QUIET_DBFS = -30.0


def heard_sound(session: Session, who: str, part: HeardPart = "all") -> tuple[FloatArray, int]:
    """Some seconds of it at the session's rate, softly and faded in: every way as late as it is, all equally loud,
    and one's own voice at once where it is in the head; or a part of it, as loud as the whole.

    shape: (n_frames,)
    raises: InputError if nobody is called so, they hear nothing, or nobody else is in a microphone of theirs
    """
    if who not in dict(listeners(session.setup)):
        raise InputError("who", "must be somebody who plays in this session", who)
    if part == "others":
        request = SpotRequest(microphone=_microphone_of(session, who), whom="others")
        others, rate = spot_sound(session, request)
        return _softly(others, rate), rate
    cue = cue_of(session.setup, who)
    ways = cue.ways if cue.worn != "nothing" else ()
    if not ways:
        raise InputError("ways", "must be one at least: no monitoring is heard")
    if part == "direct":
        ways = ("direct",)
    rate_hz = session.setup.audio.sample_rate_hz
    source = sources_of(session.setup, who)[0]
    played = perform(
        player=manner_of(source.figures),
        octave_bands_db=source.figures.octave_bands_db,
        playing=source.figures.playing(),
        play="typical",
        seconds=SECONDS,
        rate_hz=rate_hz,
        seed=seed_of(source.id),
    )
    late_ms = [ledger_of(session, cue, way).total_ms for way in ways]
    if is_in_the_head(session.setup, cue):
        late_ms.append(0.0)
    found = np.asarray(sum(late_by(played, one * rate_hz / 1000.0) for one in late_ms))
    return _softly(found, rate_hz), rate_hz


def _softly(sound: FloatArray, rate_hz: int) -> FloatArray:
    fade = np.minimum(1.0, np.arange(len(sound)) / (_FADE_S * rate_hz))
    return levelled(np.asarray(sound * fade), rms_dbfs=_QUIET_DBFS)


def _microphone_of(session: Session, who: str) -> str:
    hearing = hearing_of(positions_of(session.setup))
    own = {one.id for one in sources_of(session.setup, who)}
    sources = hearing.positions.sources
    for microphone, wanted in zip(hearing.positions.microphones, hearing.wanted, strict=True):
        if any(sources[number].id in own for number in wanted):
            return microphone.id
    raise InputError("who", "must have a microphone: nobody else gets into what goes by wire", who)


def late_by(sound: FloatArray, frames: float) -> FloatArray:
    """A sound so many frames later, exact to a fraction of one; what comes after its end is left out.

    shape: sound (n_frames,)
    """
    size = 1 << (len(sound) + int(frames) + 64).bit_length()
    turn = np.exp(-2j * np.pi * np.arange(size // 2 + 1) * frames / size)
    return np.asarray(np.fft.irfft(np.fft.rfft(sound, size) * turn, size)[: len(sound)])


def write_heard(session: Session, who: str, path: Path, part: HeardPart = "all") -> Path:
    """The same as a sound file.

    raises: InputError as `heard_sound`; FileError if it cannot be written
    """
    samples, rate_hz = heard_sound(session, who, part)
    with whole_file(path) as temporary:
        soundfile.write(str(temporary), samples, rate_hz, format="WAV", subtype="FLOAT")
    return path
