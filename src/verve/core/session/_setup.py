"""What is set up: room, players, gear, cables, lines, and what is set on each."""

from typing import Annotated, Any, Literal

from pydantic import AliasChoices, Field, model_validator

from verve.core.errors import InputError
from verve.core.kind import (
    NOTHING_SET,
    OUT,
    CableFigures,
    ChannelSettings,
    DeviceFigures,
    Frozen,
    FrozenDict,
    FrozenMap,
    NotNegative,
    Positive,
    SourceFigures,
)
from verve.core.session._monitoring import Monitoring
from verve.core.session._placement import Furnishing, Identifier, Placement

LevelTarget = Literal["average", "peaks", "ceiling", "hot", "meter", "own"]
_FORMERLY_SCHOOL = Field(validation_alias=AliasChoices("level_target", "school"))
"""Files up to version 4 say `school`."""


Absorption = Annotated[float, Field(ge=0.01, le=0.99)]


class Room(Frozen):
    """Where the recording is made; `noise_dba` is its background noise.

    What is measured goes before what is estimated: a volume before its three lengths, a reverberation time before
    how much its surfaces swallow, and that before how it is furnished. Absorptions are shares, 0 to 1.
    """

    name: str = ""
    noise_dba: float = 35.0
    volume_m3: Positive | None = None
    reverberation_s: NotNegative | None = None
    length_m: Positive | None = None
    width_m: Positive | None = None
    height_m: Positive | None = None
    furnishing: Furnishing | None = None
    floor_absorption: Absorption | None = None
    ceiling_absorption: Absorption | None = None
    walls_absorption: Absorption | None = None


class Performer(Frozen):
    """Somebody who plays or sings."""

    id: Identifier
    name: str


class Source(Frozen):
    """What a signal comes from: a voice, an instrument, a pickup, an output.

    `over_test_db` is how far its player goes over the hardest of a test when it counts, as takes have shown.
    """

    id: Identifier
    name: str
    performer: Identifier | None = None
    figures: SourceFigures
    settings: ChannelSettings = NOTHING_SET
    part: Identifier | None = None
    over_test_db: Annotated[float, Field(ge=-20, le=30)] = 0.0


class Device(Frozen):
    """A piece of gear in use, with what is set on each of its channels."""

    id: Identifier
    name: str
    figures: DeviceFigures
    settings: FrozenMap[str, ChannelSettings] = Field(default_factory=FrozenDict)
    kit_item: Identifier | None = None


class Link(Frozen):
    """A connection between two ports, written `owner:port`; through the air it has no cable."""

    id: Identifier
    start: str
    end: str
    cable: CableFigures | None = None
    kit_item: Identifier | None = None


class Line(Frozen):
    """A signal the user follows: it begins with one link out of its source.

    Two lines with the same `pair` are the two sides of one stereo picture. `level_target` is its own one, None
    for the session's. What is not armed is left out of the next take.
    """

    id: Identifier
    name: str
    first_link: Identifier
    colour: Annotated[int, Field(ge=0)] = 0
    pair: str | None = None
    is_fixed: bool = False
    level_target: Annotated[LevelTarget | None, _FORMERLY_SCHOOL] = None
    is_armed: bool = True


class Audio(Frozen):
    """How the recorder is set."""

    sample_rate_hz: Literal[44100, 48000, 88200, 96000] = 48000
    bit_depth: Literal[16, 24] = 24
    buffer_frames: Annotated[int, Field(ge=16, le=8192)] = 64


class Setup(Frozen):
    """Everything that is set up: room, sources, gear, links, settings. A take keeps one."""

    room: Room = Room()
    performers: tuple[Performer, ...] = ()
    sources: tuple[Source, ...] = ()
    devices: tuple[Device, ...] = ()
    links: tuple[Link, ...] = ()
    lines: tuple[Line, ...] = ()
    audio: Audio = Audio()
    placement: Placement = Placement()
    monitoring: Monitoring = Monitoring()
    level_target: Annotated[LevelTarget, _FORMERLY_SCHOOL] = "ceiling"
    own_target_dbfs: Annotated[
        float,
        Field(ge=-40, le=-1, validation_alias=AliasChoices("own_target_dbfs", "own_aim_dbfs")),
    ] = -8.0

    @model_validator(mode="after")
    def _holds_together(self) -> "Setup":
        check_setup(self)
        return self


def split_port(reference: str) -> tuple[str, str]:
    """Owner and port of `owner:port`."""
    owner, _, port = reference.partition(":")
    return owner, port


def check_setup(setup: Setup) -> None:
    """Every identifier is there once and every reference leads somewhere.

    raises: InputError naming the place
    """
    for kind in ("performers", "sources", "devices", "links", "lines"):
        check_once(kind, getattr(setup, kind))
    check_once("things", setup.placement.things)
    heard = [one.who for one in setup.monitoring.cues]
    if len(set(heard)) < len(heard):
        raise InputError("monitoring.cues", "must say of everybody once what they hear", heard)
    owners: dict[str, tuple[tuple[str, ...], tuple[str, ...]]] = {
        source.id: ((), (OUT,)) for source in setup.sources
    }
    for device in setup.devices:
        if device.id in owners:
            raise InputError(f"devices.{device.id}", "must not have the id of a source")
        owners[device.id] = (device.figures.input_ports(), device.figures.output_ports())
    taken: dict[str, str] = {}
    for link in setup.links:
        place = f"links.{link.id}"
        for field, index in (("start", 1), ("end", 0)):
            owner, port = split_port(getattr(link, field))
            if owner not in owners:
                raise InputError(
                    f"{place}.{field}", "must name a source or device of this session", owner
                )
            if port not in owners[owner][index]:
                known = ", ".join(owners[owner][index]) or "none"
                raise InputError(f"{place}.{field}", f"must be a port of {owner} ({known})", port)
        if link.end in taken:
            raise InputError(
                f"{place}.end", f"is already taken by link {taken[link.end]}", link.end
            )
        taken[link.end] = link.id
    links = {link.id for link in setup.links}
    performers = {performer.id for performer in setup.performers}
    for line in setup.lines:
        if line.first_link not in links:
            raise InputError(f"lines.{line.id}.first_link", "must name a link", line.first_link)
    for source in setup.sources:
        if source.figures.sounds_in_computer:
            place = f"sources.{source.id}.figures"
            raise InputError(place, "must have an output or be acoustic", source.name)
        if source.performer is not None and source.performer not in performers:
            place = f"sources.{source.id}.performer"
            raise InputError(place, "must name a performer", source.performer)


def check_once(kind: str, items: tuple[Any, ...]) -> None:
    """raises: InputError naming the first identifier that stands twice"""
    seen: set[str] = set()
    for item in items:
        if item.id in seen:
            raise InputError(f"{kind}.{item.id}", "must stand only once")
        seen.add(item.id)
