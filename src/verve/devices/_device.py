"""An audio device: channels in and out, a clock, and blocks. Which line arrives where is the patch's matter."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Protocol

from verve.core.assess import Assessment
from verve.core.errors import InputError
from verve.core.units import FloatArray


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Block:
    """One moment of a device: where it stands on the device's clock, and its channels; full scale is 1.

    shape: samples (n_channels, n_frames)
    """

    start_frame: int
    samples: FloatArray


class AudioDevice(Protocol):
    """Something that takes and gives sound."""

    @property
    def name(self) -> str:
        """What it is called."""

    @property
    def channels_in(self) -> int:
        """How many channels it records."""

    @property
    def channels_out(self) -> int:
        """How many channels it plays."""

    @property
    def sample_rate_hz(self) -> int:
        """Its clock."""

    def blocks(self, frames: int) -> Iterator[Block]:
        """What it records from now on, so many frames in all; the last block may be shorter."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Arrival:
    """Where a line arrives: the recorder in the session, and which of its channels, counted from 0."""

    device: str
    channel: int


def arrivals(assessment: Assessment) -> Mapping[str, Arrival]:
    """By line, the recorder and channel it arrives at; lines that end before are left out."""
    found = {}
    for item in assessment.lines:
        recorder = item.route.recorder
        if recorder is not None and item.state.staged is not None:
            ports = recorder.figures.input_ports()
            found[item.line.id] = Arrival(
                device=recorder.owner, channel=ports.index(recorder.in_port)
            )
    return found


def arrivals_of(assessment: Assessment, lines: tuple[str, ...]) -> Mapping[str, Arrival]:
    """The same for some lines.

    raises: InputError for a line that does not arrive anywhere
    """
    known = arrivals(assessment)
    for line_id in lines:
        if line_id not in known:
            raise InputError("line", f"must be one of {', '.join(known) or 'none'}", line_id)
    return {line_id: known[line_id] for line_id in lines}
