"""Sound through the air: what a microphone hears of everybody in the room, straight and from the room, offline."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from verve.core.air import Hearing, source_powers
from verve.core.line import OCTAVE_CENTRES_HZ
from verve.core.units import SPEED_OF_SOUND_M_PER_S, FloatArray

LEAD_FRAMES = 512
"""What every path is late by, so that linear phase has space before the first arrival; taken off again."""
_TAPS = 1_024
_LONGEST_TAIL_S = 3.0
_TAIL_AFTER_S = 0.002


def _gains(hz: FloatArray, powers: FloatArray) -> FloatArray:
    """Amplitude at each frequency from power ratios by octave, even between their middles in decibels and octaves."""
    octaves = np.log2(np.array(OCTAVE_CENTRES_HZ))
    levels_db = 10.0 * np.log10(np.maximum(powers, 1e-20))
    at = np.log2(np.maximum(hz, 10.0))
    return np.asarray(10.0 ** (np.interp(at, octaves, levels_db) / 20.0))


def direct_response(hearing: Hearing, microphone: int, source: int, rate_hz: int) -> FloatArray:
    """Impulse response of the direct sound, for a source whose sound at a metre is 1; `LEAD_FRAMES` late.

    Linear phase: the arrival is exact to a fraction of a frame.

    shape: (n_frames,)
    """
    delay = float(hearing.distance_m[microphone, source]) / SPEED_OF_SOUND_M_PER_S * rate_hz
    size = 1 << math.ceil(math.log2(delay + LEAD_FRAMES + _TAPS))
    hz = np.asarray(np.fft.rfftfreq(size, 1.0 / rate_hz), dtype=np.float64)
    own = source_powers(hearing.positions.sources[source])
    ratio = np.divide(hearing.direct[microphone, source], own, out=np.zeros(10), where=own > 0.0)
    turned = np.exp(-2j * np.pi * np.arange(len(hz)) * (delay + LEAD_FRAMES) / size)
    return np.asarray(np.fft.irfft(_gains(hz, ratio) * turned, size))


def room_response(
    hearing: Hearing, microphone: int, source: int, rate_hz: int, seed: int
) -> FloatArray:
    """Impulse response of the room: noise that dies away, of the power that the room has, `LEAD_FRAMES` late.

    Each path has noise of its own: what comes from all around has nothing to do with where it is heard.

    shape: (n_frames,)
    """
    rt60_s = hearing.positions.room.rt60_s
    tail = max(64, round(min(rt60_s, _LONGEST_TAIL_S) * rate_hz))
    rng = np.random.default_rng((seed, microphone, source))
    shape = 10.0 ** (-3.0 * np.arange(tail) / rate_hz / rt60_s)
    noise = rng.standard_normal(tail) * shape
    noise /= math.sqrt(float(noise @ noise))
    delay = float(hearing.distance_m[microphone, source]) / SPEED_OF_SOUND_M_PER_S
    begin = LEAD_FRAMES + round((delay + _TAIL_AFTER_S) * rate_hz)
    size = 1 << math.ceil(math.log2(begin + tail + _TAPS))
    padded = np.zeros(size)
    padded[begin : begin + tail] = noise
    hz = np.asarray(np.fft.rfftfreq(size, 1.0 / rate_hz), dtype=np.float64)
    own = source_powers(hearing.positions.sources[source])
    ratio = np.divide(hearing.room[microphone, source], own, out=np.zeros(10), where=own > 0.0)
    return np.asarray(np.fft.irfft(np.fft.rfft(padded) * _gains(hz, ratio), size))


def heard_through(
    hearing: Hearing,
    microphone: int,
    sounds: Mapping[int, FloatArray],
    rate_hz: int,
    *,
    seed: int = 0,
    has_room: bool = True,
) -> FloatArray:
    """What a microphone hears of some sources, by their numbers, each as it is at a metre.

    shape: sounds (n_frames,) each; as long as the longest, what rings on after it is left out
    """
    # Imported here: a first look at the step needs nothing of it.
    from scipy.signal import fftconvolve

    frames = max((len(sound) for sound in sounds.values()), default=0)
    found = np.zeros(frames)
    for source, sound in sounds.items():
        response = direct_response(hearing, microphone, source, rate_hz)
        if has_room:
            room = room_response(hearing, microphone, source, rate_hz, seed)
            size = max(len(response), len(room))
            response = np.pad(response, (0, size - len(response))) + np.pad(
                room, (0, size - len(room))
            )
        all_of_it = fftconvolve(sound, response)[LEAD_FRAMES : LEAD_FRAMES + frames]
        found[: len(all_of_it)] += all_of_it
    return found


def noise_like(
    hearing: Hearing, source: int, frames: int, rate_hz: int, seed: int = 0
) -> FloatArray:
    """What sounds all the time, a fan or a window, at a metre: noise with its octaves and its power.

    shape: (frames,)
    """
    powers = source_powers(hearing.positions.sources[source])
    total = float(powers.sum())
    if not total:
        return np.zeros(frames)
    spectrum = np.fft.rfft(np.random.default_rng((seed, source)).standard_normal(frames))
    hz = np.asarray(np.fft.rfftfreq(frames, 1.0 / rate_hz), dtype=np.float64)
    # An octave higher has twice as many frequencies to share its power.
    shaped = spectrum * _gains(hz, powers / total) / np.sqrt(np.maximum(hz, 10.0))
    found = np.fft.irfft(shaped, frames)
    return np.asarray(found * math.sqrt(total / float(np.mean(found**2))))


def as_played(performance: FloatArray, hearing: Hearing, source: int) -> FloatArray:
    """A performance at the level that its source has at a metre at typical playing, over what sounds of it.

    shape: performance (n_frames,)
    """
    loud = np.abs(performance) > 0.02 * float(np.abs(performance).max(initial=0.0))
    power = float(np.mean(performance[loud] ** 2)) if loud.any() else 0.0
    wanted = float(source_powers(hearing.positions.sources[source]).sum())
    return np.asarray(performance * math.sqrt(wanted / power)) if power else performance


def levelled(sound: FloatArray, rms_dbfs: float = -23.0, peak: float = 0.9) -> FloatArray:
    """A sound at a usual level to listen to, never over full scale.

    shape: sound (n_frames,)
    """
    power = float(np.mean(sound**2)) if len(sound) else 0.0
    if not power:
        return sound
    gain = 10.0 ** (rms_dbfs / 20.0) / math.sqrt(2.0 * power)
    return np.asarray(sound * min(gain, peak / float(np.abs(sound).max())))
