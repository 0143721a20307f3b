"""A loop-back on the simulated interface: what a cable from an output to an input would bring back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Final

import numpy as np
import soundfile

from verve.core.errors import InputError
from verve.core.files import whole_file
from verve.core.measure import Loopback, LoopGuard, Stopped, loop_signal, loopback_of
from verve.core.session import Session
from verve.core.soundfiles import measure_file, read_sound
from verve.core.units import FloatArray
from verve.devices._heard import late_by
from verve.devices._system import SystemDevice, SystemInterface

SIMULATED_FIXED_MS: Final = 5.36
"""Converters and driver of the stand-in; its buffers are two."""
_BLOCK_FRAMES = 4096
_MOST_RETURNED = 16
_LOSS = 0.7
_NOISE = 2e-5


@dataclass(frozen=True, slots=True, kw_only=True)
class LoopResult:
    """What came of a loop-back: what was found, or why it stopped by itself."""

    found: Loopback | None
    stopped: Stopped | None = None
    dropouts: int = 0


def write_loop_signal(rate_hz: int, path: Path) -> Path:
    """The test signal as a sound file, to be played and recorded by whatever is used.

    raises: FileError if it cannot be written
    """
    with whole_file(path) as temporary:
        soundfile.write(
            str(temporary), loop_signal(rate_hz).T, rate_hz, format="WAV", subtype="PCM_24"
        )
    return path


def loop_of_file(path: Path, rate_hz: int) -> LoopResult:
    """What a recording of the test signal says, and how often the sound dropped out in it.

    raises: FileError if it cannot be read; InputError if it is of another rate, or holds nothing
    """
    returned, its_rate_hz = read_sound(path)
    if its_rate_hz != rate_hz:
        raise InputError(
            "sample rate", f"must be {rate_hz} Hz, that of the test signal", its_rate_hz
        )
    if not returned.any():
        raise InputError("recording", "must not be silent: nothing came back", path.name)
    found = loopback_of(loop_signal(rate_hz), returned, rate_hz)
    dropouts = sum(len(one.dropouts) for one in measure_file(path).channels)
    return LoopResult(found=found, dropouts=dropouts)


def simulated_loop(
    session: Session,
    report: Callable[[float], None],
    is_cancelled: Callable[[], bool],
    *,
    wait: Callable[[float], None] = lambda _: None,
    spoiled: Callable[[FloatArray], FloatArray] = lambda returned: returned,
) -> LoopResult:
    """Play the test signal through the simulated interface and read what comes back, watched block by block.

    `spoiled` is what goes wrong on the way, for tests. Cancelled gives back neither.
    """
    audio = session.setup.audio
    rate_hz = audio.sample_rate_hz
    sent = loop_signal(rate_hz)
    late = 2.0 * audio.buffer_frames + SIMULATED_FIXED_MS * rate_hz / 1000.0
    longer = np.pad(sent, ((0, 0), (0, round(late) + rate_hz // 4)))
    noise = np.random.default_rng(7).standard_normal(longer.shape) * _NOISE
    returned = spoiled(np.stack([late_by(one, late) for one in longer]) * _LOSS + noise)
    guard = LoopGuard(rate_hz=rate_hz)
    for begin in range(0, returned.shape[1], _BLOCK_FRAMES):
        if is_cancelled():
            return LoopResult(found=None)
        why = guard.feed(returned[:, begin : begin + _BLOCK_FRAMES])
        if why is not None:
            return LoopResult(found=None, stopped=why)
        report(min(1.0, (begin + _BLOCK_FRAMES) / returned.shape[1]))
        wait(_BLOCK_FRAMES / rate_hz)
    return LoopResult(found=loopback_of(sent, returned, rate_hz))


def live_loop(
    session: Session,
    device: SystemDevice,
    report: Callable[[float], None],
    is_cancelled: Callable[[], bool],
    output: SystemDevice | None = None,
) -> LoopResult:
    """Play the test signal through a sound device, in buffers of the session's size, and read what comes back.

    The guard hears every block before the next one is asked for: what it stops is silent within a buffer or two.

    raises: DeviceError if the device cannot be opened, or has gone; InputError if nothing came back
    """
    audio = session.setup.audio
    rate_hz = audio.sample_rate_hz
    sent = loop_signal(rate_hz)
    longer = np.pad(sent, ((0, 0), (0, rate_hz // 2)))
    channels = min(device.channels_in, _MOST_RETURNED)
    guard, came, done = LoopGuard(rate_hz=rate_hz), [], 0
    with SystemInterface(
        device, channels=channels, rate_hz=rate_hz, sent=longer, output=output, buffer_frames=audio.buffer_frames,
    ) as system:  # fmt: skip
        for block in system.blocks(longer.shape[1], is_cancelled):
            why = guard.feed(block.samples)
            if why is not None:
                return LoopResult(found=None, stopped=why)
            came.append(block.samples)
            done += block.samples.shape[1]
            report(min(1.0, done / longer.shape[1]))
        lost = system.lost
    if is_cancelled() or not came:
        return LoopResult(found=None)
    returned = np.concatenate(came, axis=1)
    if not returned.any():
        raise InputError("loop-back", "must not be silent: nothing came back", device.name)
    # Inputs without a cable hold hiss: the two loudest are those that were connected.
    powers = np.mean(returned**2, axis=1)
    chosen = np.sort(np.argsort(powers)[-2:])
    return LoopResult(found=loopback_of(sent, returned[chosen], rate_hz), dropouts=lost)
