"""Sound files that belong to a session: takes brought in, measurements, backing tracks. Verve never changes one.

In memory each says where it lies as a whole path; in a session's file it says so from the folder of that file, so
that both can be moved together. One that has moved alone is known again by what it holds.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from verve.core.errors import InputError
from verve.core.kind import Frozen, NotNegative, Positive
from verve.core.session._brief import Name
from verve.core.session._placement import Identifier

SoundRole = Literal["take", "measurement", "backing"]
MOST_CHANNELS = 256
_Share = Annotated[float, Field(ge=-60.0, le=24.0)]
_LONGEST_S = 100 * 3600.0


class ChannelFigures(Frozen):
    """What was measured of one channel, levels in dBFS; None where there is none."""

    peak_dbfs: float | None = None
    true_peak_dbtp: float | None = None
    rms_dbfs: float | None = None
    noise_dbfs_a: float | None = None
    clipped_frames: Annotated[int, Field(ge=0)] = 0


class SoundFigures(Frozen):
    """What was measured of a file; `silence_s` is how long nothing is heard at its head."""

    channels: Annotated[tuple[ChannelFigures, ...], Field(min_length=1, max_length=MOST_CHANNELS)]
    integrated_lufs: float | None = None
    lra_lu: float | None = None
    true_peak_dbtp: float | None = None
    silence_s: NotNegative = 0.0


class Sound(Frozen):
    """A sound file of the session.

    `content` is a digest of all its bytes, by which it is known wherever it lies. `signals` says for each channel
    which signal it holds. A backing track begins `offset_s` after the recording does and is played with `gain_db`;
    it takes no input and no performer. `tempo_bpm` and `key` are those of its music, `sung_s` is from when to when,
    in seconds of the file, somebody sings or speaks in it. Several of them are its stems; a muted one is not heard.
    `recorded_at` is what the file itself says of when, by its recorder's clock; nothing where it does not.
    """

    id: Identifier
    name: Name
    file: Annotated[str, Field(min_length=1, max_length=4096)]
    content: Annotated[str, Field(pattern=r"^[0-9a-f]{32}$")]
    size_bytes: Annotated[int, Field(ge=1)]
    role: SoundRole = "take"
    sample_rate_hz: Annotated[int, Field(ge=1)]
    frames: Annotated[int, Field(ge=1)]
    bit_depth: Annotated[int | None, Field(ge=1, le=64)] = None
    added_at: Annotated[str, Field(max_length=40)] = ""
    recorded_at: Annotated[str, Field(max_length=40)] = ""
    figures: SoundFigures
    signals: Annotated[tuple[Identifier | None, ...], Field(max_length=MOST_CHANNELS)] = ()
    offset_s: Annotated[float, Field(ge=-_LONGEST_S, le=_LONGEST_S)] = 0.0
    gain_db: _Share = 0.0
    tempo_bpm: Annotated[Positive | None, Field(le=1000.0)] = None
    key: Annotated[str, Field(max_length=40)] = ""
    sung_s: Annotated[tuple[tuple[NotNegative, NotNegative], ...], Field(max_length=200)] = ()
    is_muted: bool = False
    notes: Annotated[str, Field(max_length=4000)] = ""

    @property
    def seconds(self) -> float:
        """How long it is."""
        return self.frames / self.sample_rate_hz

    @property
    def channels(self) -> int:
        """How many channels it has."""
        return len(self.figures.channels)

    def signal(self, channel: int) -> str | None:
        """The signal that a channel holds; None for none."""
        return self.signals[channel] if channel < len(self.signals) else None

    @model_validator(mode="after")
    def _holds_together(self) -> Sound:
        if self.signals and len(self.signals) != self.channels:
            raise InputError("signals", f"must be one for each of {self.channels} channels")
        named = [signal for signal in self.signals if signal is not None]
        if self.role == "backing" and named:
            raise InputError("signals", "must be none: a backing track takes no input", named[0])
        if len(set(named)) < len(named):
            raise InputError("signals", "must name each signal once")
        return self
