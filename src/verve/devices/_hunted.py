"""What is heard while somebody looks for a fault: the simulated interface in the true session, with what is odd."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Final, Literal

import numpy as np
import soundfile
from scipy import signal

from verve.core.assess import assess
from verve.core.causes import FLOOR_DBFS
from verve.core.errors import CancelledError
from verve.core.files import whole_file
from verve.core.hunt import NOBODY, ROOM, Oddity, World, signs_of
from verve.core.session import Play, cue_of
from verve.core.sound import seed_of
from verve.core.units import FloatArray, a_weighting_power
from verve.devices._device import arrivals
from verve.devices._heard import late_by
from verve.devices._simulated import SimulatedInterface
from verve.devices._spoils import hum_wave

Moment = Literal["live", "back", "pause"]
"""In the headphones while one plays; five seconds played back; nobody plays."""
SECONDS: Final = 5.0
_SOFTER: Final = 10.0 ** (-12.0 / 20.0)
"""What clips is heard as well, and no ear is to be startled by it."""
_GAP_S, _POP_S, _POPS_PER_S = 0.006, 0.06, 1.2
_POP_DBFS, _RUMBLE_HZ = -12.0, 400.0
_REVERB_S, _REVERB_DB = 1.2, -9.0
_ROOM_BELOW_DB: Final = 20.0
"""How far below the headphones one hears oneself in the room; typical of closed ones."""


def write_hunted(
    path: Path, world: World, moment: Moment, goes_on: Callable[[], bool] = lambda: True
) -> int:
    """Five seconds of a moment of a hunt, in two channels, softer by a fixed amount; the rate is given back.

    raises: CancelledError if it is no longer wanted; FileError if it cannot be written
    """
    samples, rate_hz = hunted_sound(world, moment, goes_on)
    with whole_file(path) as temporary:
        soundfile.write(str(temporary), samples.T * _SOFTER, rate_hz, format="WAV", subtype="FLOAT")
    return rate_hz


def hunted_sound(
    world: World, moment: Moment, goes_on: Callable[[], bool] = lambda: True
) -> tuple[FloatArray, int]:
    """The same as samples.

    shape: (2, n_frames)
    raises: CancelledError if it is no longer wanted
    """
    odd, case = world.odd, world.case
    rate_hz: int = case.session.setup.audio.sample_rate_hz
    frames = round(SECONDS * rate_hz)
    signs = signs_of(world)
    heard = {"live": signs.live, "back": signs.back}.get(moment, frozenset())
    if "nothing" in heard or (moment == "pause" and signs.pause == "nothing"):
        return np.zeros((2, frames)), rate_hz
    mono = _signal(world, moment, frames, goes_on)
    if moment != "pause":
        mono = _of_monitoring(mono, odd, rate_hz, is_live=moment == "live", world=world)
    sides = np.stack([mono, mono])
    if "one ear" in heard:
        sides[1] = 0.0
    return np.clip(sides, -1.0, 1.0), rate_hz


def _signal(world: World, moment: Moment, frames: int, goes_on: Callable[[], bool]) -> FloatArray:
    """What is on the track, or comes straight from the input where that is heard."""
    odd, case = world.odd, world.case
    source = case.state.route.source
    ways = cue_of(case.session.setup, source.performer or source.id).ways
    is_direct = moment == "live" and bool({"direct", "mixer"} & set(ways))
    if odd.reads == ROOM and not is_direct:
        return _noise(frames, case.session.setup.audio.sample_rate_hz, -55.0, _RUMBLE_HZ * 4.0)
    if odd.reads == NOBODY and not is_direct:
        return np.zeros(frames)
    line = case.line if is_direct or not odd.reads else odd.reads
    # Of another signal one hears who plays it, of one's own oneself.
    only = frozenset({source.id}) if line == case.line else None
    if moment == "pause":
        only = frozenset()
    dry = _rendered(world, line, "hardest", frames, only, goes_on)
    return _of_signal(dry, odd, world, frames, goes_on, is_pause=moment == "pause")


def _rendered(
    world: World,
    line: str,
    play: Play,
    frames: int,
    only: frozenset[str] | None,
    goes_on: Callable[[], bool],
) -> FloatArray:
    assessment = assess(world.session, world.case.engine)
    arrival = arrivals(assessment).get(line)
    if arrival is None:
        return np.zeros(frames)
    interface = SimulatedInterface(
        assessment, arrival.device, play=play, seconds=SECONDS,
        wanted=frozenset({arrival.channel}), only=only,
    )  # fmt: skip
    found = []
    for block in interface.blocks(frames):
        if not goes_on():
            raise CancelledError
        found.append(block.samples[arrival.channel])
    return np.concatenate(found)


def _of_signal(
    dry: FloatArray,
    odd: Oddity,
    world: World,
    frames: int,
    goes_on: Callable[[], bool],
    *,
    is_pause: bool,
) -> FloatArray:
    """A signal with what is odd about it, wherever it is heard."""
    rate_hz = world.case.session.setup.audio.sample_rate_hz
    found = dry * 10.0 ** ((odd.gain_db + odd.louder_db) / 20.0)
    peak = 10.0 ** (world.case.base.peak_dbfs / 20.0)
    if odd.ceiling_db is not None:
        ceiling = peak * 10.0 ** (-odd.ceiling_db / 20.0)
        found = np.clip(found, -ceiling, ceiling)
    noise_dbfs = world.case.base.noise_dbfs_a
    noise_dbfs = FLOOR_DBFS if noise_dbfs is None else noise_dbfs
    if odd.hum_hz:
        t = np.arange(frames) / rate_hz
        found = found + hum_wave(t, odd.hum_hz) * 10.0 ** ((noise_dbfs + odd.hum_over_db) / 20.0)
    if odd.rumble_over_db:
        found = found + _noise(frames, rate_hz, noise_dbfs + odd.rumble_over_db, _RUMBLE_HZ)
    if odd.spill_db is not None:
        mixed = _others(world, frames, goes_on)
        highest = float(np.abs(mixed).max(initial=0.0))
        if highest:
            found = found + mixed * (peak * 10.0 ** (-odd.spill_db / 20.0) / highest)
    if odd.pops and not is_pause:
        found = found + _pops(frames, rate_hz)
    return np.asarray(np.clip(found, -1.0, 1.0))


def _others(world: World, frames: int, goes_on: Callable[[], bool]) -> FloatArray:
    """The first two of all others, as their own signals have them."""
    case = world.case
    own = case.state.route.source.id
    recorder = case.state.route.recorder
    assert recorder is not None
    assessment = assess(case.session, case.engine)
    there = [
        one.channel
        for line, one in arrivals(assessment).items()
        if one.device == recorder.owner and line != case.line
    ]
    interface = SimulatedInterface(
        assessment, recorder.owner, play="typical", seconds=SECONDS, wanted=frozenset(there[:2]),
        only=frozenset(s.id for s in case.session.setup.sources) - {own},
    )  # fmt: skip
    found = []
    for block in interface.blocks(frames):
        if not goes_on():
            raise CancelledError
        found.append(block.samples.sum(axis=0))
    return np.concatenate(found)


def _of_monitoring(
    mono: FloatArray, odd: Oddity, rate_hz: int, *, is_live: bool, world: World
) -> FloatArray:
    """What becomes of it on its way to the ears, or in the file."""
    found = mono
    if odd.crackles_per_s:
        found = _with_gaps(found, odd.crackles_per_s, rate_hz)
    if odd.is_printed and (not is_live or "effect" in signs_of(world).live):
        found = _with_room(found, rate_hz)
    if is_live and odd.echo_ms:
        found = (found + late_by(found, odd.echo_ms * rate_hz / 1000.0)) / 2.0
    if is_live and odd.late_ms:
        softly = found * 10.0 ** (-_ROOM_BELOW_DB / 20.0)
        found = softly + late_by(found, odd.late_ms * rate_hz / 1000.0)
    if not is_live and odd.speed != 1.0:
        found = _slower(found, odd.speed)
    return np.asarray(found)


def _slower(sound: FloatArray, speed: float) -> FloatArray:
    """Played at another speed, as many frames as before."""
    at = np.arange(len(sound)) * speed
    return np.asarray(np.interp(at, np.arange(len(sound)), sound))


def _noise(frames: int, rate_hz: int, dbfs: float, below_hz: float) -> FloatArray:
    """Noise that falls off above a frequency, so strong A-weighted, against a full-scale sine."""
    rng = np.random.default_rng(seed_of(f"noise {dbfs:.1f}"))
    made = signal.lfilter(*signal.butter(1, below_hz, fs=rate_hz), rng.standard_normal(frames))
    hz = np.asarray(np.fft.rfftfreq(frames, 1.0 / rate_hz), dtype=np.float64)
    power = np.abs(np.fft.rfft(made)) ** 2 * a_weighting_power(hz)
    # Parseval: both halves of the spectrum, of a sine the mean square is a half.
    rms = float(np.sqrt(2.0 * power.sum())) / frames
    return np.asarray(made * (10.0 ** (dbfs / 20.0) / (rms * np.sqrt(2.0))))


def _pops(frames: int, rate_hz: int) -> FloatArray:
    """Thumps as of breath on a capsule: a half wave of low frequency."""
    found = np.zeros(frames)
    size = round(_POP_S * rate_hz)
    wave = np.sin(np.pi * np.arange(size) / size) * 10.0 ** (_POP_DBFS / 20.0)
    for number in range(int(SECONDS * _POPS_PER_S)):
        begin = round((number + 0.4) / _POPS_PER_S * rate_hz)
        part = found[begin : begin + size]
        part += wave[: len(part)]
    return found


def _with_gaps(sound: FloatArray, per_s: float, rate_hz: int) -> FloatArray:
    found = sound.copy()
    rng = np.random.default_rng(7)
    for begin in rng.integers(0, len(sound), round(per_s * SECONDS)):
        found[begin : begin + round(_GAP_S * rate_hz)] = 0.0
    return found


def _with_room(sound: FloatArray, rate_hz: int) -> FloatArray:
    """A plain reverberation: noise that dies away."""
    frames = round(_REVERB_S * rate_hz)
    tail = np.random.default_rng(5).standard_normal(frames)
    tail *= 10.0 ** (-3.0 * np.arange(frames) / frames)
    tail *= 10.0 ** (_REVERB_DB / 20.0) / float(np.sqrt(np.sum(tail**2)))
    return np.asarray(sound + signal.oaconvolve(sound, tail)[: len(sound)])
