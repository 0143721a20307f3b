"""Round trips: how long a sound takes through the computer and back to the ears."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from verve.core.units import SPEED_OF_SOUND_M_PER_S


@dataclass(frozen=True, slots=True, kw_only=True)
class RoundTrip:
    """Everything a monitored sound passes: buffers, converters, plug-ins, driver, air."""

    sample_rate_hz: float
    buffer_frames: int
    input_buffers: int = 1
    output_buffers: int = 1
    fixed_ms: float = 0.0
    converter_in_frames: float = 0.0
    converter_out_frames: float = 0.0
    plugin_frames: float = 0.0
    air_m: float = 0.0


def round_trip_ms(trip: RoundTrip) -> float:
    """All delays in turn; 128 frames in and out at 48 kHz alone are 5.33 ms.

    source: derivation, frames / rate, path / speed of sound
    """
    frames = (
        trip.buffer_frames * (trip.input_buffers + trip.output_buffers)
        + trip.converter_in_frames
        + trip.converter_out_frames
        + trip.plugin_frames
    )
    return (
        1000.0 * frames / trip.sample_rate_hz
        + trip.fixed_ms
        + 1000.0 * trip.air_m / SPEED_OF_SOUND_M_PER_S
    )


def fitted_round_trip_ms(
    sample_rate_hz: float,
    measured: Sequence[tuple[int, float]],
    predict_buffer_frames: int,
) -> float:
    """Round trip at another buffer size, from (buffer_frames, round_trip_ms) pairs.

    source: least squares for the one constant of t = 2·N/rate + c, which is the mean of t − 2·N/rate
    """
    per_frame_ms = 2000.0 / sample_rate_hz
    fixed_ms = float(np.mean([ms - per_frame_ms * frames for frames, ms in measured]))
    return per_frame_ms * predict_buffer_frames + fixed_ms
