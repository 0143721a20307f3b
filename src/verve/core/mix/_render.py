"""Takes and backing as one stereo sound, stretch by stretch: cross-faded, cut low, panned, with a room."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from scipy.signal import butter, sosfilt

from verve.core.errors import CancelledError
from verve.core.mix._heard import Heard, backings, heard_of
from verve.core.mix._standing import Stand, standing_of
from verve.core.session import Session, Sound
from verve.core.soundfiles import read_span
from verve.core.units import FloatArray

BLOCK_S = 4.0
CROSS_S = 0.02
"""Between two takes of a signal, half on each side: long enough not to click, too short to hear two of them."""
_EDGE_S = 0.005
_ACTIVE_DB = -30.0
"""A voice this far under its own loudest tenth of a second is silent (a choice)."""
_ATTACK_S, _RELEASE_S, _HOP_S = 0.08, 0.5, 0.02
_ROOM_S, _ROOM_RT_S = 0.6, 0.5
"""The shared touch of room: noise that dies by 60 dB in half a second, the same for all."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Voice:
    """A signal in the mix: how it stands, and what is heard of it."""

    stand: Stand
    heard: tuple[Heard, ...]


@dataclass(slots=True)
class _State:
    """What filters remember from one stretch to the next."""

    cuts: dict[str, FloatArray] = field(default_factory=dict)
    room_tail: FloatArray = field(default_factory=lambda: np.zeros((2, 0)))
    duck_db: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """Everything that a mix is made of, looked up once: nothing of the session is asked while it sounds."""

    rate_hz: int
    voices: tuple[Voice, ...]
    backings: tuple[Sound, ...]
    backing_db: float
    duck_lu: float
    room_db: float | None
    breaths_db: float
    start_s: float
    end_s: float
    fade_in_s: float
    fade_out_s: float


def plan_of_mix(session: Session) -> Plan:
    """The rough mix of a session: all signals that are not muted, and the backing."""
    mix = session.mix
    stands = [one for one in standing_of(session) if not one.is_muted]
    voices = tuple(Voice(stand=one, heard=heard_of(session, one.line)) for one in stands)
    tracks = backings(session)
    ends = [one.until_s for voice in voices for one in voice.heard]
    ends += [one.offset_s + one.seconds for one in tracks]
    last = max(ends, default=0.0)
    return Plan(
        rate_hz=session.setup.audio.sample_rate_hz,
        voices=voices,
        backings=tracks,
        backing_db=mix.backing_db,
        duck_lu=mix.duck_lu,
        room_db=mix.room_db,
        breaths_db=mix.breaths_db,
        start_s=mix.start_s,
        end_s=min(last, mix.end_s) if mix.end_s is not None else last,
        fade_in_s=mix.fade_in_s,
        fade_out_s=mix.fade_out_s,
    )


def files_of(plan: Plan) -> tuple[str, ...]:
    """Every file that a mix reads."""
    found = [one.file for voice in plan.voices for one in voice.heard]
    return tuple(dict.fromkeys([*found, *(one.file for one in plan.backings)]))


def rendered(
    plan: Plan,
    *,
    block_s: float = BLOCK_S,
    progress: Callable[[float], bool] | None = None,
) -> Iterator[FloatArray]:
    """The mix from its start to its end, stretch by stretch, without limit: it may go over full scale.

    shape: (2, n_frames)
    raises: FileError for a file that cannot be read; CancelledError if `progress` has said so
    """
    rate_hz = plan.rate_hz
    first, last = round(plan.start_s * rate_hz), round(plan.end_s * rate_hz)
    size = max(1, round(block_s * rate_hz))
    state = _State()
    loudest = _loudest(plan)
    for begin in range(first, last, size):
        if progress is not None and not progress((begin - first) / max(1, last - first)):
            raise CancelledError
        frames = min(size, last - begin)
        block = _block(plan, state, loudest, begin, frames)
        _fade(block, plan, begin - first, last - first)
        yield block


def _fade(block: FloatArray, plan: Plan, at: int, total: int) -> None:
    """In at the head, out at the tail."""
    where = at + np.arange(block.shape[1])
    for fade_s, distance in ((plan.fade_in_s, where), (plan.fade_out_s, total - 1 - where)):
        frames = round(fade_s * plan.rate_hz)
        if frames:
            block *= np.clip(distance / frames, 0.0, 1.0)


def line_span(heard: Sequence[Heard], begin: int, frames: int, rate_hz: int) -> FloatArray:
    """What is heard of one signal in a stretch of the song, cross-faded from take to take.

    shape: (n_frames,)
    """
    found = np.zeros(frames)
    for one in heard:
        ahead = CROSS_S / 2.0 if one.has_before else 0.0
        behind = CROSS_S / 2.0 if one.has_after else 0.0
        low = max(begin, round((one.from_s - ahead) * rate_hz))
        high = min(begin + frames, round((one.until_s + behind) * rate_hz))
        if high <= low:
            continue
        offset = round(one.offset_s * rate_hz)
        part = read_span(Path(one.file), low - offset, high - low, rate_hz, one.channel)[0]
        at = np.arange(low, high) / rate_hz
        rise = np.clip((at - (one.from_s - ahead)) / (2.0 * ahead or _EDGE_S), 0.0, 1.0)
        fall = np.clip(((one.until_s + behind) - at) / (2.0 * behind or _EDGE_S), 0.0, 1.0)
        # Two takes of one part are alike enough that amplitudes add: a straight fade keeps the level.
        shape = np.minimum(rise, fall)
        found[low - begin : high - begin] += part * shape * 10.0 ** (one.gain_db / 20.0)
    return found


def _block(
    plan: Plan, state: _State, loudest: dict[str, float], begin: int, frames: int
) -> FloatArray:
    rate_hz = plan.rate_hz
    dry = np.zeros((2, frames))
    sung = np.zeros(-(-frames // max(1, round(_HOP_S * rate_hz))), dtype=bool)
    for voice in plan.voices:
        samples = line_span(voice.heard, begin, frames, rate_hz)
        stand = voice.stand
        if stand.low_cut_hz > 0.0:
            samples = _cut(samples, stand, state, rate_hz)
        if stand.is_voice:
            active = _active(samples, loudest.get(stand.line, 0.0), rate_hz)
            sung |= active
            if plan.breaths_db < 0.0:
                samples = samples * _gate(active, frames, rate_hz, plan.breaths_db)
        dry += _panned(samples, stand.pan) * 10.0 ** (stand.trim_db / 20.0)
    if plan.room_db is not None:
        dry = dry + _room(dry, state, rate_hz) * 10.0 ** (plan.room_db / 20.0)
    if plan.backings:
        under = np.zeros((2, frames))
        for sound in plan.backings:
            under += backing_span(sound, begin, frames, rate_hz)
        dry = dry + under * _ducked(sung, state, plan, frames) * 10.0 ** (plan.backing_db / 20.0)
    return dry


def backing_span(sound: Sound, begin: int, frames: int, rate_hz: int) -> FloatArray:
    """A backing track in a stretch of the song, as loud as it is set.

    shape: (2, n_frames)
    """
    offset = round(sound.offset_s * rate_hz)
    part = read_span(Path(sound.file), begin - offset, frames, rate_hz)
    sides = part[:2] if part.shape[0] > 1 else np.repeat(part, 2, axis=0)
    return np.asarray(sides * 10.0 ** (sound.gain_db / 20.0))


def _cut(samples: FloatArray, stand: Stand, state: _State, rate_hz: int) -> FloatArray:
    """Without what lies below its low cut: 12 dB an octave."""
    sections = butter(
        2, min(stand.low_cut_hz, 0.45 * rate_hz), "highpass", fs=rate_hz, output="sos"
    )
    before = state.cuts.get(stand.line, np.zeros((sections.shape[0], 2)))
    found, state.cuts[stand.line] = sosfilt(sections, samples, zi=before)
    return np.asarray(found)


def _panned(samples: FloatArray, pan: float) -> FloatArray:
    """On both sides, as loud in sum wherever it stands: −3 dB each in the middle.

    shape: (2, n_frames)
    """
    angle = (pan + 1.0) * np.pi / 4.0
    return np.stack([samples * np.cos(angle), samples * np.sin(angle)])


def _hops(samples: FloatArray, rate_hz: int) -> FloatArray:
    """Mean squares of 20 ms each."""
    hop = max(1, round(_HOP_S * rate_hz))
    count = -(-len(samples) // hop)
    padded = np.pad(samples, (0, count * hop - len(samples)))
    return np.asarray(np.mean(padded.reshape(count, hop) ** 2, axis=1))


def _loudest(plan: Plan) -> dict[str, float]:
    """The loudest tenth of a second of each voice, as a mean square: looked for once, in all that is heard of it."""
    wanted = plan.breaths_db < 0.0 or (plan.duck_lu > 0.0 and plan.backings)
    if not wanted:
        return {}
    found = {}
    size = round(BLOCK_S * plan.rate_hz)
    for voice in plan.voices:
        if not voice.stand.is_voice:
            continue
        most = 0.0
        for begin in range(
            round(plan.start_s * plan.rate_hz), round(plan.end_s * plan.rate_hz), size
        ):
            hops = _hops(line_span(voice.heard, begin, size, plan.rate_hz), plan.rate_hz)
            most = max(most, float(np.convolve(hops, np.ones(5) / 5.0).max(initial=0.0)))
        found[voice.stand.line] = most
    return found


def _active(samples: FloatArray, loudest: float, rate_hz: int) -> FloatArray:
    """Where a voice sounds, for every 20 ms."""
    if loudest <= 0.0:
        return np.zeros(len(_hops(samples, rate_hz)), dtype=bool)
    return np.asarray(_hops(samples, rate_hz) > loudest * 10.0 ** (_ACTIVE_DB / 10.0))


def _gate(active: FloatArray, frames: int, rate_hz: int, down_db: float) -> FloatArray:
    """Gains that let the pauses of a voice down, with rounded edges."""
    wide = np.convolve(active.astype(float), np.ones(7), mode="same") > 0.0
    gains = np.where(wide, 1.0, 10.0 ** (down_db / 20.0))
    soft = np.convolve(np.pad(gains, 3, mode="edge"), np.ones(7) / 7.0, mode="valid")
    return _at_frames(soft, frames, rate_hz)


def _at_frames(hops: FloatArray, frames: int, rate_hz: int) -> FloatArray:
    hop = max(1, round(_HOP_S * rate_hz))
    return np.asarray(np.interp(np.arange(frames), (np.arange(len(hops)) + 0.5) * hop, hops))


def _ducked(sung: FloatArray, state: _State, plan: Plan, frames: int) -> FloatArray:
    """Gains of the backing: down while somebody sings or speaks, quickly there and slowly back."""
    if plan.duck_lu <= 0.0:
        return np.ones(frames)
    course = np.empty(len(sung))
    now = state.duck_db
    down, up = (_HOP_S / one for one in (_ATTACK_S, _RELEASE_S))
    for index, is_sung in enumerate(sung):
        target = -plan.duck_lu if is_sung else 0.0
        share = down if target < now else up
        now += (target - now) * min(1.0, share)
        course[index] = now
    first, state.duck_db = state.duck_db, now
    gains = 10.0 ** (np.concatenate([[first], course]) / 20.0)
    hop = max(1, round(_HOP_S * plan.rate_hz))
    return np.asarray(np.interp(np.arange(frames), np.arange(len(gains)) * hop, gains))


def _room(dry: FloatArray, state: _State, rate_hz: int) -> FloatArray:
    """What the shared room gives back: as loud as what goes in, its sides apart.

    shape: (2, n_frames)
    """
    from scipy.signal import oaconvolve

    frames = round(_ROOM_S * rate_hz)
    rng = np.random.default_rng(11)
    decay = 10.0 ** (-3.0 * np.arange(frames) / (_ROOM_RT_S * rate_hz))
    response = rng.standard_normal((2, frames)) * decay
    response[:, : round(0.012 * rate_hz)] = 0.0
    response /= np.sqrt(np.sum(response**2, axis=1, keepdims=True))
    mono = np.repeat(dry.mean(axis=0, keepdims=True) * np.sqrt(2.0), 2, axis=0)
    wet = np.asarray(oaconvolve(mono, response, axes=1))
    count = min(state.room_tail.shape[1], wet.shape[1])
    wet[:, :count] += state.room_tail[:, :count]
    state.room_tail = wet[:, dry.shape[1] :].copy()
    return wet[:, : dry.shape[1]]
