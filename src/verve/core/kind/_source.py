"""What every kind of source is asked: how loud it is played, what it gives, how it can be recorded."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar, Literal

from pydantic import GetCoreSchemaHandler
from pydantic_core import CoreSchema, core_schema

from verve.core.kind._base import (
    FLAT_BANDS_DB,
    Bands,
    ChannelSettings,
    Figures,
    HostPlug,
    Mode,
    PhantomNeed,
    PlayingRange,
    Plug,
    Positive,
)
from verve.core.kind._control import Control, marked, range_control
from verve.core.kind._device import figure_fact
from verve.core.kind._sheet import SheetForm
from verve.core.words import Fact, number

if TYPE_CHECKING:
    from verve.core.stages import Stage

Player = Literal["voice", "plucked", "bowed", "struck", "keys"]
OUT = "out"
"""The one port of a source, and the channel of what is set on it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Air:
    """What stands between a sound and its microphone: distance, room noise, and what the microphone's
    response makes of the level, and of the room by octave."""

    distance_m: float
    room_noise_dba: float
    change_db: float
    room_response_db: tuple[float, ...]


class SourceFigures(Figures):
    """A kind of source by its figures; peak levels from softest to hardest playing in its own unit."""

    kind: str
    player: Player
    octave_bands_db: Bands = FLAT_BANDS_DB
    crest_db: Positive = 14.0
    plug: Plug = "jack_6"

    title: ClassVar[str]
    found_as: ClassVar[str] = "with an output"
    """What a list of sources says beside its name, to tell those of one instrument apart."""
    is_acoustic: ClassVar[bool] = False
    """Whether it is acoustic: only a microphone meets it."""
    unit: ClassVar[str] = "dBV"
    level_figure: ClassVar[str] = "peak_emf_dbv"
    """The name of the figure that holds its peak levels."""
    direct_modes: ClassVar[tuple[Mode, ...]] = ("instrument",)
    """Kinds of input its plug can go straight into, the best first."""
    needs_high_impedance: ClassVar[bool] = False
    """Whether the input it meets shapes its tone: coils and piezo elements."""
    fades_in_bass: ClassVar[bool] = False
    """Whether a low input resistance takes its bass, as it does with a capacitive source."""
    sounds_in_computer: ClassVar[bool] = False
    """Whether it sounds inside the computer alone: it is no source of a patch."""
    takes: ClassVar[tuple[str, ...]] = ("plug",)
    """The ways in which it can be recorded, the usual one first."""
    sheet: ClassVar[SheetForm[Any] | None] = None
    search_words: ClassVar[tuple[str, ...]] = ()
    kinds: ClassVar[dict[str, type[SourceFigures]]] = {}

    @classmethod
    def __pydantic_init_subclass__(cls, **_: Any) -> None:
        # What several kinds have in common is a class without a kind of its own.
        if isinstance(kind := cls.model_fields["kind"].default, str):
            SourceFigures.kinds[kind] = cls

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        """A field of this type takes any registered kind, told apart by its `kind`."""
        if cls is not SourceFigures:
            return handler(source)
        choices = {name: handler.generate_schema(one) for name, one in SourceFigures.kinds.items()}
        return core_schema.tagged_union_schema(choices, discriminator="kind")

    def playing(self) -> PlayingRange:
        """Its peak levels, in its own unit."""
        found = getattr(self, self.level_figure)
        assert isinstance(found, PlayingRange)
        return found

    def stage(self, settings: ChannelSettings, air: Air | None) -> Stage:
        """What a signal begins with, played its hardest; `air` for a sound that meets a microphone."""
        raise NotImplementedError(f"{self.kind}: what it gives is not said")

    def output_plug(self) -> Plug | None:
        """What comes out of it; None where it is sound."""
        return None if self.is_acoustic else self.plug

    def has_volume_knob(self) -> bool:
        """Whether it has a volume of its own."""
        return False

    def has_tone_knob(self) -> bool:
        """Whether it has a tone control of its own."""
        return False

    def at_phantom(self) -> PhantomNeed | None:
        """What phantom power at its output does; None where none can arrive."""
        return None

    def socket_of_computer(self) -> HostPlug | None:
        """The socket of the computer that what plays it is plugged into; None for none."""
        return None

    def hears_fields(self) -> bool:
        """Whether it is a coil that hears the fields of transformers and screens."""
        return False

    def hears_loudspeakers(self) -> bool:
        """Whether loudspeakers nearby come back through it: sound in the air, or a pickup in a hollow body."""
        return self.is_acoustic

    def is_on_mains(self) -> bool:
        """Whether it is an electronic output of a box that is earthed through the mains."""
        return False

    def is_amplifier_output(self) -> bool:
        """Whether it gives loudspeaker level."""
        return False

    def is_valve_output(self) -> bool:
        """Whether it must not run without its load."""
        return False

    def capacitance_of_source_f(self) -> float | None:
        """The capacitance it feeds its cable through; None for other sources."""
        return None

    def all_controls(self, owner: str, settings: ChannelSettings) -> list[Control]:
        """What can be set on the instrument itself."""
        knobs = (
            (self.has_volume_knob(), "volume_position", "Instrument volume",
             "Full up gives the best distance from noise"),
            (self.has_tone_knob(), "tone_position", "Instrument tone",
             "Turned down it takes away treble"),
        )  # fmt: skip
        return [
            range_control(
                owner, OUT, name, label, effect,
                low=0.0, high=1.0, now=getattr(settings, name), default=1.0, step=0.05,
            )
            for is_there, name, label, effect in knobs
            if is_there
        ]  # fmt: skip

    def controls(self, owner: str, settings: ChannelSettings) -> tuple[Control, ...]:
        """The same, what is locked marked so."""
        return marked(self.all_controls(owner, settings), {OUT: settings})

    def level_text(self, value_db: float) -> str:
        """One of its peak levels with its unit."""
        return f"{number(value_db)} {self.unit}"

    def heard_from_m(self, distance_m: float) -> float:
        """The distance that counts for a microphone: that of a point, unless the kind has a size."""
        return distance_m

    def fall_words(self, distance_m: float, reference_m: float) -> str:
        """How its level at a distance comes about, for sound in the air."""
        return ""

    def says(self) -> str:
        """How loud it is played, in a line."""
        playing = self.playing()
        return f"peaks {number(playing.softest_db)} to {self.level_text(playing.hardest_db)}"

    def facts(self) -> tuple[Fact, ...]:
        """How loud it is played, softest to hardest."""
        playing = self.playing()
        named = (
            ("Softest", playing.softest_db),
            ("Typical", playing.typical_db),
            ("Hardest", playing.hardest_db),
        )
        how = "the highest peak of such playing" + (" a metre away" if self.is_acoustic else "")
        return tuple(
            figure_fact(self, self.level_figure, f"{name} peak", self.level_text(value), how)
            for name, value in named
        )
