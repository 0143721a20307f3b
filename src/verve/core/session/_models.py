"""The document: what is set up, the takes made with it, the brief, and what the user owns."""

from typing import Annotated, Literal

from pydantic import ConfigDict, Field, model_validator
from pydantic.dataclasses import dataclass

from verve.core.kind import Frozen, Positive
from verve.core.session._brief import Brief, Computer, Key, KitItem, Shopping
from verve.core.session._comparisons import Comparison
from verve.core.session._layers import (
    Chosen,
    LayerPatch,
    Mix,
    NamedSettings,
    Song,
    Tuning,
)
from verve.core.session._placement import Identifier, Spot
from verve.core.session._setup import Setup, check_once
from verve.core.session._snapshot import Snapshot
from verve.core.session._sounds import Sound

FORMAT = "verve-session"
VERSION = 10

Play = Literal["softest", "typical", "hardest", "phrase"]


_AS_FROZEN = ConfigDict(strict=True, extra="forbid", allow_inf_nan=False, defer_build=True)
"""What takes have thousands of is checked as all is that is frozen, but is one thing in memory, not three."""


@dataclass(frozen=True, slots=True, kw_only=True, config=_AS_FROZEN)
class Figure:
    """One measured figure beside its prediction; None where there is no finite level."""

    measured: float | None = None
    predicted: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True, config=_AS_FROZEN)
class TakeTrack:
    """One recorded line of a take: a channel of a file, which has that one alone unless it was brought in.

    `content` is a digest of the file's bytes, by which it is found again. `begin_frame` is where in it the take
    begins: all rounds of a loop are in one. `late_ms` is how far behind the beat it was played, as a median, ahead
    with a minus; `off_cents` how far above its notes; None where nobody has looked.
    """

    line: Identifier
    name: str
    file: str
    peak_dbfs: Figure
    noise_dbfs_a: Figure
    rms_dbfs: float | None = None
    clipped_frames: Annotated[int, Field(ge=0)]
    channel: Annotated[int, Field(ge=0)] = 0
    begin_frame: Annotated[int, Field(ge=0)] | None = None
    content: Annotated[str, Field(pattern=r"^[0-9a-f]{32}$")] | None = None
    size_bytes: Annotated[int, Field(ge=1)] | None = None
    late_ms: float | None = None
    off_cents: float | None = None


Ending = Literal["whole", "stopped", "cut_off"]
"""How a recording ended: after its time, by somebody's hand, or by a fault, which `reason` tells."""


class Take(Frozen):
    """A recording with everything that was set when it was made.

    `start_s` is when in the song its first sample was played; None where it was not recorded to the song. What is
    `aside` is a false start: kept, and not shown among what is chosen from. `marks_s` are moments, in seconds since
    its beginning, that somebody has marked while playing.
    """

    id: Identifier
    name: str
    recorded_at: str
    seconds: Positive
    play: Play
    tracks: tuple[TakeTrack, ...]
    snapshot: Snapshot = Field(alias="setup")
    ended: Ending = "whole"
    reason: str = ""
    notes: str = ""
    rating: Annotated[int, Field(ge=0, le=5)] = 0
    layer: Key | None = None
    section: Key | None = None
    start_s: float | None = None
    aside: bool | None = None
    marks_s: tuple[float, ...] | None = None

    @property
    def setup(self) -> Setup | None:
        """What was set up for it; None where its file holds what nobody can read, which `snapshot` tells."""
        return self.snapshot.setup


class Session(Frozen):
    """The whole document; `a4_hz` is the pitch that all tune to.

    `layer` is the layer of the brief that is set up now, `patches` is what was patched for the others.
    """

    title: str = "Untitled session"
    setup: Setup = Field(default_factory=Setup)
    takes: tuple[Take, ...] = ()
    brief: Brief = Brief()
    later: Brief | None = None
    kit: tuple[KitItem, ...] = ()
    shopping: Shopping = Shopping()
    computer: Computer = Computer()
    sounds: tuple[Sound, ...] = ()
    spots: tuple[Spot, ...] = ()
    comparisons: tuple[Comparison, ...] = ()
    layer: Key | None = None
    patches: tuple[LayerPatch, ...] = ()
    song: Song = Song()
    named_settings: tuple[NamedSettings, ...] = ()
    chosen: tuple[Chosen, ...] = ()
    mix: Mix = Mix()
    tuning: Tuning = Tuning()
    a4_hz: Annotated[float, Field(ge=300.0, le=600.0)] = 440.0

    @model_validator(mode="after")
    def _kit_stands_once(self) -> "Session":
        check_once("kit", self.kit)
        check_once("wishes", self.shopping.wishes)
        check_once("sounds", self.sounds)
        check_once("spots", self.spots)
        check_once("comparisons", self.comparisons)
        check_once("named_settings", self.named_settings)
        return self
