"""The day in time: the song, patches of layers that are not set up now, named settings, what is chosen and mixed."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from verve.core.errors import InputError
from verve.core.kind import ControlValue, Frozen, NotNegative, PlayingRange, Positive
from verve.core.session._brief import Key, Name
from verve.core.session._placement import Identifier
from verve.core.session._snapshot import Snapshot

MOST_SECTIONS = 200
_LONGEST_S = 24 * 3600.0
_Seconds = Annotated[float, Field(ge=0.0, le=_LONGEST_S)]
Standing = Literal["lead", "double", "harmony", "other"]
"""What a signal is in the mix: what stands in front, the same again, another voice beside it, anything else."""


class Section(Frozen):
    """A part of the song with a name, from when to when, in seconds since the song begins."""

    id: Key
    name: Name
    start_s: _Seconds
    end_s: _Seconds

    @model_validator(mode="after")
    def _ends_later(self) -> Section:
        if self.end_s <= self.start_s:
            raise InputError(f"sections.{self.id}.end_s", "must be after its start", self.end_s)
        return self


class Song(Frozen):
    """What is recorded, in time: its tempo, its sections, and how one comes into them.

    `first_beat_s` is when the first bar begins. A recording begins `lead_in_s` before its section and goes on for
    `tail_s` after it.
    """

    tempo_bpm: Annotated[Positive | None, Field(le=1000.0)] = None
    first_beat_s: NotNegative = 0.0
    beats: Annotated[int, Field(ge=1, le=16)] = 4
    key: Annotated[str, Field(max_length=40)] = ""
    sections: Annotated[tuple[Section, ...], Field(max_length=MOST_SECTIONS)] = ()
    has_click: bool = True
    count_in_bars: Annotated[int, Field(ge=0, le=8)] = 1
    lead_in_s: Annotated[float, Field(ge=0.0, le=60.0)] = 2.0
    tail_s: Annotated[float, Field(ge=0.0, le=60.0)] = 1.0

    def section(self, section_id: str | None) -> Section | None:
        """The section of that id; None for the whole song, or for one that is gone."""
        return next((one for one in self.sections if one.id == section_id), None)

    @model_validator(mode="after")
    def _stand_once(self) -> Song:
        seen: set[str] = set()
        for one in self.sections:
            if one.id in seen:
                raise InputError(f"sections.{one.id}", "must stand only once")
            seen.add(one.id)
        return self


class LayerPatch(Frozen):
    """What is patched and set when a layer is recorded, kept while another one is set up."""

    layer: Key
    snapshot: Snapshot = Field(alias="setup")


class Setting(Frozen):
    """One control at one value."""

    owner: Identifier
    channel: Annotated[str, Field(max_length=80)]
    name: Annotated[str, Field(max_length=80)]
    value: ControlValue


class NamedSettings(Frozen):
    """How one signal is set for one way of playing: talking, singing, screaming.

    `playing` is how loud that is, in the unit of its source; None where it is as always. `is_in_use` tells which
    ones were switched to last.
    """

    id: Key
    name: Name
    line: Identifier
    settings: Annotated[tuple[Setting, ...], Field(max_length=500)]
    playing: PlayingRange | None = None
    is_in_use: bool = False


class Chosen(Frozen):
    """Of one signal in one section: the take that is heard, and those that are kept beside it.

    `section` is None for the whole song.
    """

    line: Identifier
    section: Key | None = None
    take: Identifier
    spares: tuple[Identifier, ...] = ()


class MixLine(Frozen):
    """How one signal stands in the rough mix; None is what its standing usually has."""

    line: Identifier
    standing: Standing = "other"
    trim_db: Annotated[float | None, Field(ge=-60.0, le=24.0)] = None
    pan: Annotated[float | None, Field(ge=-1.0, le=1.0)] = None
    low_cut_hz: Annotated[float | None, Field(ge=0.0, le=1000.0)] = None
    is_muted: bool = False


class Mix(Frozen):
    """The rough mix: what differs from usual, and how it is bounced.

    `room_db` is how far the one shared touch of room lies below what goes into it; None for none. `duck_lu` is by
    how much the backing goes down while somebody sings or speaks. `reference` is a sound file to listen beside it.
    """

    lines: tuple[MixLine, ...] = ()
    room_db: Annotated[float | None, Field(ge=-60.0, le=0.0)] = None
    backing_db: Annotated[float, Field(ge=-60.0, le=24.0)] = 0.0
    duck_lu: Annotated[float, Field(ge=0.0, le=24.0)] = 0.0
    breaths_db: Annotated[float, Field(ge=-60.0, le=0.0)] = 0.0
    start_s: NotNegative = 0.0
    end_s: Positive | None = None
    fade_in_s: Annotated[float, Field(ge=0.0, le=60.0)] = 0.02
    fade_out_s: Annotated[float, Field(ge=0.0, le=60.0)] = 0.5
    loudness_lufs: Annotated[float, Field(ge=-40.0, le=-5.0)] = -16.0
    ceiling_dbtp: Annotated[float, Field(ge=-12.0, le=0.0)] = -1.0
    may_limit: bool = True
    reference: Identifier | None = None


class Tuning(Frozen):
    """How often the ready check asks for strings: before each take, every so many, or by feel.

    `tuned_at` is how many takes there were when it was tuned last; `declined` how often somebody did not want to on
    `day`: twice, and it is not asked again that day.
    """

    asked: Literal["never", "each", "every"] = "never"
    every: Annotated[int, Field(ge=1, le=100)] = 5
    tuned_at: Annotated[int, Field(ge=0)] = 0
    declined: Annotated[int, Field(ge=0)] = 0
    day: Annotated[str, Field(max_length=10)] = ""
