"""What is to be recorded and with what: parts, passes, the kit, the shopping list, the computer."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from verve.core.errors import InputError
from verve.core.gear import AcousticFigures
from verve.core.kind import (
    CableFigures,
    DeviceFigures,
    Frozen,
    HostPlug,
    NotNegative,
    Positive,
    SourceFigures,
)
from verve.core.session._monitoring import LearnedTrip, RecordingOffset

Key = Annotated[str, Field(pattern=r"^[a-z0-9_]+$", max_length=80)]
Name = Annotated[str, Field(min_length=1, max_length=80)]
Capture = Literal["microphone", "pair", "plug", "stereo", "both", "computer"]
"""How a part is taken: one microphone, two, its plug, both sides of its plug, microphone and plug; or not at all,
since it sounds inside the computer."""
Principle = Literal["moving_coil", "ribbon", "condenser"]
Package = Literal["enough", "lasting", "both"]
"""Which of the two packages something on the list belongs to: enough for now, or not outgrown soon."""
Status = Literal["owned", "borrowed", "wished"]
"""Whether a thing is there for good, for this time, or only once it has been bought."""
MOST_PARTS = 500


class Part(Frozen):
    """Somebody's part: how it sounds in the air, what comes out of its plug, how it is taken.

    `doubles` is the part that it is played beside: the same again, or as a harmony another voice on the same chain.
    """

    id: Key
    name: Name
    performer: Annotated[str, Field(max_length=80)] = ""
    sound: AcousticFigures | None = None
    plug: SourceFigures | None = None
    capture: Capture = "microphone"
    principle: Principle | None = None
    distance_m: Positive | None = None
    doubles: Key | None = None
    is_harmony: bool = False

    @model_validator(mode="after")
    def _has_what_is_taken(self) -> Part:
        if self.capture in {"microphone", "pair", "both"} and self.sound is None:
            raise InputError("capture", "needs an acoustic sound", self.capture)
        if self.capture in {"plug", "stereo", "both"} and self.plug is None:
            raise InputError("capture", "needs something with a plug", self.capture)
        if (self.capture == "computer") != (self.plug is not None and self.plug.sounds_in_computer):
            rule = "must be “computer” for what sounds inside the computer, and for nothing else"
            raise InputError("capture", rule, self.capture)
        if self.plug is not None and self.plug.is_acoustic:
            raise InputError("plug", "must not be acoustic")
        return self


class Pass(Frozen):
    """Parts recorded together; `over` are the passes they are played over."""

    id: Key
    name: Name
    parts: tuple[Key, ...] = ()
    over: tuple[Key, ...] = ()


class Brief(Frozen):
    """Who plays what, and in which pass."""

    parts: Annotated[tuple[Part, ...], Field(max_length=MOST_PARTS)] = ()
    passes: tuple[Pass, ...] = ()

    @model_validator(mode="after")
    def _holds_together(self) -> Brief:
        for kind in ("parts", "passes"):
            seen: set[str] = set()
            for item in getattr(self, kind):
                if item.id in seen:
                    raise InputError(f"{kind}.{item.id}", "must stand only once")
                seen.add(item.id)
        parts = {part.id for part in self.parts}
        passes = {item.id for item in self.passes}
        for item in self.passes:
            for part in item.parts:
                if part not in parts:
                    raise InputError(f"passes.{item.id}.parts", "must name a part", part)
            for other in item.over:
                if other not in passes or other == item.id:
                    rule = "must name another pass"
                    raise InputError(f"passes.{item.id}.over", rule, other)
        return self

    def parts_of(self, item: Pass) -> tuple[Part, ...]:
        """The parts of a pass, in its order."""
        by_id = {part.id: part for part in self.parts}
        return tuple(by_id[part] for part in item.parts)


class KitItem(Frozen):
    """Something owned or borrowed, so many of it; one of `device`, `cable` or `accessory`.

    `accessory` is the key of a catalogue entry without a signal: a stand, a shield, headphones. What is
    borrowed or on approval goes back `until` a date, as 2026-12-03.
    """

    id: Key
    name: Name
    quantity: Annotated[int, Field(ge=0, le=999)] = 1
    device: DeviceFigures | None = None
    cable: CableFigures | None = None
    accessory: Key | None = None
    status: Status = "owned"
    until: Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$")] | None = None

    @property
    def there(self) -> int:
        """How many there are to be used: what is still to be bought is planned, not there."""
        return 0 if self.status == "wished" else self.quantity

    @model_validator(mode="after")
    def _is_one_thing(self) -> KitItem:
        if sum(x is not None for x in (self.device, self.cable, self.accessory)) != 1:
            raise InputError("kit", "must be one of device, cable or accessory", self.name)
        return self


class Wish(Frozen):
    """Something on the shopping list, with the price somebody typed; `per_pair` if it is for two.

    `within` is the wish whose one price covers this one too, as in a set; `parts` are those it is bought for,
    none for all of them.
    """

    id: Key
    name: Name
    item: KitItem | None = None
    quantity: Annotated[int, Field(ge=1, le=999)] = 1
    price: NotNegative | None = None
    per_pair: bool = False
    shop: Annotated[str, Field(max_length=80)] = ""
    package: Package = "both"
    within: Key | None = None
    parts: Annotated[tuple[Key, ...], Field(max_length=MOST_PARTS)] = ()


class Shopping(Frozen):
    """The list: its currency and tax as typed, and what is wished for."""

    currency: Annotated[str, Field(max_length=8)] = "€"
    tax_percent: Annotated[float, Field(ge=0, le=100)] = 0.0
    wishes: tuple[Wish, ...] = ()

    @model_validator(mode="after")
    def _sets_hold_together(self) -> Shopping:
        leading = {wish.id for wish in self.wishes if wish.within is None}
        for wish in self.wishes:
            if wish.within is not None and wish.within not in leading:
                rule = "must name an item on the list that is in no set itself"
                raise InputError(f"shopping.{wish.id}.within", rule, wish.within)
        return self


class Computer(Frozen):
    """The computer that records: its sockets, memory and disk; None is not known."""

    sockets: tuple[HostPlug, ...] = ()
    memory_gb: Positive | None = None
    free_disk_gb: NotNegative | None = None
    write_mb_per_s: Positive | None = None
    round_trips: tuple[LearnedTrip, ...] = ()
    recording_offset: RecordingOffset | None = None
