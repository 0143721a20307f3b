"""Loop-backs: noise that came back alone is not taken for what was sent, and what came back is found where it is."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from prove.report import Tally
from verve.core.assess import LineAssessment, assess
from verve.core.catalogue import add_chain, catalogue
from verve.core.errors import EditError
from verve.core.measure import Meter, loopback_of
from verve.core.network import PeakRange
from verve.core.pressing import pressed
from verve.core.session import Session, replace_source, set_audio
from verve.core.units import FloatArray, power_to_db
from verve.devices import Arrival, SimulatedInterface, arrivals

_RATE_HZ = 48_000
_OFF_FRAMES = 0.3


def _sent(kind: str, rng: np.random.Generator) -> FloatArray:
    """A test signal: an exponential sweep, white noise, or clicks of noise."""
    t = np.arange(round(rng.uniform(0.5, 1.5) * _RATE_HZ)) / _RATE_HZ
    if kind == "sweep":
        octaves = np.log(1_000.0)
        turns = 20.0 * t[-1] / octaves * (np.exp(t * octaves / t[-1]) - 1.0)
        return np.asarray(0.5 * np.sin(2.0 * np.pi * turns))
    noise = 0.2 * rng.standard_normal(len(t))
    if kind == "clicks":
        noise *= (t % 0.29) < 0.02
    return np.asarray(noise)


def _noise(kind: str, frames: int, rng: np.random.Generator) -> FloatArray:
    """White, red, rumbling or impulsive noise."""
    white = rng.standard_normal(frames)
    if kind == "red":
        red = np.cumsum(white)
        return np.asarray(1e-3 * (red - red.mean()))
    if kind == "rumble":
        return np.asarray(0.1 * np.convolve(white, np.hanning(400) / 20.0, "same"))
    if kind == "impulses":
        return np.asarray(0.1 * white * (rng.random(frames) < 0.002))
    return np.asarray(0.1 * white)


def loopbacks(count: int, seed: int) -> list[Tally]:
    """So many that hold only noise, and a tenth as many that hold what was sent under noise of its own level."""
    absent, present = Tally("loop-backs of noise alone"), Tally("loop-backs under noise, 0 dB")
    for number in range(count):
        rng = np.random.default_rng([seed, number])
        kind = ("sweep", "noise", "clicks")[number % 3]
        sent = _sent(kind, rng)
        noise_kind = ("white", "red", "rumble", "impulses")[number % 4]
        frames = len(sent) + int(rng.integers(0, 30_000))
        noise = _noise(noise_kind, frames, rng)
        found = loopback_of(sent[None], noise[None], _RATE_HZ)
        said = f"{kind} in {noise_kind} noise"
        if found.found:
            absent.fault(
                f"seed {seed}, number {number}: {said} was found at {found.delay_frames:.1f}"
            )
        else:
            absent.note(said)
        if number % 10 == 0:
            delay = int(rng.integers(0, 20_000))
            back = np.zeros(len(sent) + delay)
            back[delay:] = 0.5 * sent
            power = float(np.mean((0.5 * sent) ** 2))
            back += np.sqrt(power) * rng.standard_normal(len(back))
            held = loopback_of(sent[None], back[None], _RATE_HZ).delay_frames
            if held is None or abs(held - delay) > _OFF_FRAMES:
                present.fault(
                    f"seed {seed}, number {number}: {kind} at {delay} was found at {held}"
                )
            else:
                present.note(kind)
    return [absent, present]


_LEVEL_DB, _NOISE_DB = 0.5, 1.0
_MOST_DBFS = -3.0
"""Louder than this it may clip: that has a proof of its own."""
_SECONDS, _REST_S = 8.0, 4.0


def _plain() -> Iterator[Session]:
    """Every chain of the catalogue in a session of its own, and every source in the first chain that takes it."""
    chains = [
        add_chain(Session(title=chain.name), catalogue(), chain, chain.name)[0]
        for chain in catalogue().chains
    ]
    yield from chains
    for entry in catalogue().sources.values():
        for session in chains:
            source = session.setup.sources[0]
            kind = source.figures
            if (kind.is_acoustic, kind.kind) != (entry.figures.is_acoustic, entry.figures.kind):
                continue
            try:
                changed = replace_source(session, source.id, entry.figures)
            except EditError:
                continue
            yield changed.model_copy(update={"title": f"{entry.name} in {session.title}"})
            break


def _sessions(share: float) -> Iterator[Session]:
    """Those at both depths, gains set and powered."""
    plain = list(_plain())
    for session in plain[: max(2, round(share * len(plain)))]:
        well = pressed(session).session
        for bits in (16, 24):
            audio = well.setup.audio.model_copy(update={"bit_depth": bits})
            yield set_audio(well, audio)


def rendered(share: float) -> list[Tally]:
    """Prediction against sound: level within 0.5 dB, noise within 1 dB, over the catalogue at 16 and 24 bit."""
    level, noise = (
        Tally("predicted level, rendered sound"),
        Tally("predicted noise, rendered sound"),
    )
    for session in _sessions(share):
        assessment = assess(session)
        for line_id, arrival in arrivals(assessment).items():
            item = assessment.line(line_id)
            assert item is not None
            where = f"{session.title}, {item.line.name}, {session.setup.audio.bit_depth} bit"
            range_ = item.predicted_range("hardest")
            if not item.is_alive or range_ is None or range_.high_dbfs > _MOST_DBFS:
                level.note("dead, or near its ceiling")
                continue
            _hold(session, item, arrival, where, range_, level, noise)
    return [level, noise]


def _hold(
    session: Session,
    item: LineAssessment,
    arrival: Arrival,
    where: str,
    predicted: PeakRange,
    level: Tally,
    noise: Tally,
) -> None:
    interface = SimulatedInterface(
        assess(session),
        arrival.device,
        play="hardest",
        seconds=_SECONDS,
        wanted=frozenset({arrival.channel}),
    )
    frames = round(_SECONDS * interface.sample_rate_hz)
    samples = np.concatenate([b.samples[arrival.channel] for b in interface.blocks(frames)])
    meter = Meter(
        channels=1, rate_hz=interface.sample_rate_hz, bit_depth=session.setup.audio.bit_depth
    )
    (found,) = meter.result(meter.fold(meter.start(), samples[None, :])).channels
    peak = found.peak_dbfs
    if (
        peak is None
        or not predicted.low_dbfs - _LEVEL_DB <= peak <= predicted.high_dbfs + _LEVEL_DB
    ):
        level.fault(
            f"{where}: {peak} dBFS, {predicted.low_dbfs:.2f} to {predicted.high_dbfs:.2f} predicted"
        )
    else:
        level.note("within 0.5 dB")
    silent = SimulatedInterface(
        assess(session), arrival.device, play="hardest", seconds=_REST_S,
        wanted=frozenset({arrival.channel}), only=frozenset(),
    )  # fmt: skip
    count = round(_REST_S * silent.sample_rate_hz)
    rest = np.concatenate([b.samples[arrival.channel] for b in silent.blocks(count)])
    course = meter.result(meter.fold(meter.start(), rest[None, :])).course
    # All of it: nobody plays, so nothing has to be left out.
    heard = power_to_db(2.0 * float(np.mean(course.a_weighted[0])))
    expected = item.noise_dbfs_a
    if heard is None or expected is None or abs(heard - expected) > _NOISE_DB:
        noise.fault(f"{where}: {heard} dBFS A, {expected} predicted")
    else:
        noise.note("within 1 dB")
