"""What every performer hears: by which way, through what, beside what; and how the two buffer sizes are used."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from verve.core.kind import Frozen, Positive
from verve.core.session._placement import Identifier

Way = Literal["direct", "software", "mixer"]
"""How one's own sound comes back: straight in the interface, through the computer, through a mixer before it."""
Worn = Literal["closed_headphones", "open_headphones", "in_ears", "loudspeaker", "nothing"]
Effects = Literal["none", "heard", "printed"]
"""Effects on what is recorded: none, in the monitoring only, or in the recording as well."""
Limit = Literal["leisure", "work"]
_Level = Annotated[float, Field(ge=-60.0, le=40.0)]


class Cue(Frozen):
    """What one performer hears; `who` is a performer, or a source that nobody is named for.

    `level_db` of backing and click is against their own sound; None where they do not hear any. `drive_dbu` is what
    the headphone output gives unloaded, as a mean; None where nobody knows. `effect_frames` is by how much effects
    in the software delay.
    """

    who: Identifier
    ways: Annotated[tuple[Way, ...], Field(max_length=3)] = ("direct",)
    worn: Worn = "closed_headphones"
    has_one_ear_free: bool = False
    is_mono: bool = True
    effects: Effects = "none"
    effect_frames: Annotated[int, Field(ge=0, le=1_000_000)] = 0
    backing_db: _Level | None = None
    click_db: _Level | None = None
    headphones: Identifier | None = None
    """An entry of the catalogue."""
    drive_dbu: Annotated[float | None, Field(ge=-80.0, le=40.0)] = None
    output_impedance_ohm: Annotated[float | None, Field(ge=0.0, le=1000.0)] = None
    pairs: Annotated[int, Field(ge=1, le=16)] = 1
    loudspeaker_m: Annotated[float, Field(gt=0.0, le=100.0)] = 1.5


class Monitoring(Frozen):
    """What all of them hear, and how hard the computer works for it.

    `mixing_frames` is the buffer size for mixing; the one for recording is that of the recorder. `load_percent` is
    how busy the computer says it is at a large buffer; None where it is estimated from tracks and effects.
    `input_is_output` says that one device does both, with one clock.
    """

    cues: tuple[Cue, ...] = ()
    mixing_frames: Annotated[int, Field(ge=16, le=8192)] = 1024
    input_is_output: bool = True
    tracks: Annotated[int, Field(ge=0, le=1000)] = 0
    effects: Annotated[int, Field(ge=0, le=1000)] = 0
    load_percent: Annotated[float | None, Field(ge=0.0, le=100.0)] = None
    limit: Limit = "leisure"
    hours: Annotated[float, Field(gt=0.0, le=24.0)] = 2.0
    """How long they will listen on such a day."""


class LearnedTrip(Frozen):
    """A round trip of this computer, as its recorder reports it or as a loop-back has measured it."""

    buffer_frames: Annotated[int, Field(ge=1, le=65_536)]
    sample_rate_hz: Positive
    round_trip_ms: Annotated[float, Field(gt=0.0, le=10_000.0)]
    is_measured: bool = False


class RecordingOffset(Frozen):
    """What is left after the recording software's own compensation, from a loop-back recorded in that software.

    Only for this rate and buffer size; with two devices only until either is started again.
    """

    frames: Annotated[float, Field(ge=-1e7, le=1e7)]
    buffer_frames: Annotated[int, Field(ge=1, le=65_536)]
    sample_rate_hz: Positive
    measured_at: Annotated[str, Field(max_length=40)] = ""
