"""From a route through gear and cables to the stages that the physics computes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from verve.core.kind import Air, control_value
from verve.core.line import (
    OCTAVE_CENTRES_HZ,
    PRESSURE_SHARE,
    broadband_change_db,
    diffuse_response_db,
    pattern_response_db,
    sum_bands_db,
)
from verve.core.network._room import RoomSound, softer_db
from verve.core.session import Audio, Room, Route, RouteStep, Setup, Source
from verve.core.stages import (
    Cable,
    Converter,
    DitheredConverter,
    Microphone,
    Stage,
    raised_dbu,
)
from verve.core.units import SPEED_OF_SOUND_M_PER_S

_DEAFEST_DB = -60.0
"""Where a pattern hears nothing at all, real ones still hear about so much."""

_NOTHING = 1e-20

_AROUND_DB = {pattern: diffuse_response_db(pattern) for pattern in PRESSURE_SHARE}

NodeKey = tuple[str, str]
"""A place in the network: its owner, and which of its places."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """One stage with what it stands for: which owner, its role there, and its place in the network."""

    stage: Stage
    owner: str
    role: str
    step_index: int | None
    key: NodeKey


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """One of the sounds in a microphone: whose, by which way.

    `powers` by octave are shares of everything in it at the hardest; `softer_db` is how far softest and typical
    playing of its source are below that.
    """

    source: str
    name: str
    delay_s: float
    powers: tuple[float, ...]
    softer_db: tuple[float, float] = (0.0, 0.0)
    is_room: bool = False

    @property
    def octave_bands_db(self) -> tuple[float, ...]:
        """The same in decibels."""
        return bands_db(self.powers)


@dataclass(frozen=True, slots=True, kw_only=True)
class CapsuleResponse:
    """What the air and a microphone's own response make of a source before it is a voltage.

    `change_db` is how they change its level over all, with whatever else the microphone hears; `octave_bands_db`
    are the bands behind them; `delay_s` is how long the sound takes to the microphone. `response_db` is what the
    microphone's own response does to the level. `columns` are the sounds that it consists of, the straight one of its
    own source first; none where that is the only one.
    """

    octave_bands_db: tuple[float, ...]
    change_db: float
    delay_s: float = 0.0
    response_db: float = 0.0
    columns: tuple[Column, ...] = ()
    rt60_s: float = 0.0

    @property
    def own_db(self) -> float:
        """How far the straight sound of its own source is below everything that the microphone hears."""
        return _db(math.fsum(self.columns[0].powers)) if self.columns else 0.0

    def played_db(self, play: str) -> tuple[float, float, float]:
        """All that it hears while everybody plays so, against all of it at the hardest.

        The loudest one alone, which is what it comes to where hardest moments never meet; all as powers; and with
        the peaks of the two loudest meeting in one instant.
        """
        found: dict[str, float] = {}
        for column in self.columns:
            softest, typical = column.softer_db
            below_db = {"softest": softest, "typical": typical}.get(play, 0.0)
            power = math.fsum(column.powers) * 10.0 ** (-below_db / 10.0)
            found[column.source] = found.get(column.source, 0.0) + power
        powers = sorted(found.values(), reverse=True)
        if not powers:
            return (0.0, 0.0, 0.0)
        met = math.fsum(math.sqrt(power) for power in powers[:2]) ** 2 + math.fsum(powers[2:])
        first, together = powers[0], math.fsum(powers)
        return (_db(first), _db(together), _db(met))


@dataclass(frozen=True, slots=True, kw_only=True)
class StagedLine:
    """A route with its stages, the source playing its hardest."""

    route: Route
    parts: tuple[Part, ...]
    response: CapsuleResponse
    _places: dict[tuple[str, str], int] = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        places: dict[tuple[str, str], int] = {}
        for index, part in enumerate(self.parts):
            places.setdefault((part.owner, part.role), index)
        object.__setattr__(self, "_places", places)

    @property
    def stages(self) -> tuple[Stage, ...]:
        """The stages alone, for the physics."""
        return tuple(part.stage for part in self.parts)

    def index(self, owner: str, role: str) -> int | None:
        """Where a stage stands; None if it does not."""
        return self._places.get((owner, role))


def _switched_response_db(step: RouteStep) -> list[tuple[float, ...]]:
    """What a microphone makes of sound from its front, far away, as it is switched."""
    capsule, controls = step.capsule, step.controls
    assert capsule is not None
    responses = [capsule.response_db]
    for name, there in (("presence", capsule.presence_db), ("foam", capsule.foam_db)):
        if there is not None and controls[name].value:
            responses.append(there)
    return responses


def room_response_db(step: RouteStep) -> tuple[float, ...]:
    """What a microphone makes of a room's noise, which comes from all around and far away, by octave."""
    assert step.capsule is not None
    response_db = sum_bands_db(*_switched_response_db(step))
    if step.capsule.pattern is None:
        return response_db
    around_db = _AROUND_DB[step.capsule.pattern]
    return tuple(db + around_db for db in response_db)


def microphone_response_db(source: Source, step: RouteStep) -> tuple[float, ...]:
    """Response of a microphone to a source where it stands and as it is switched, by octave.

    Nearness counts from all of what sounds, as for the level: something large is never very near.

    range: −60 dB at the least, where a pattern hears nothing
    """
    capsule, controls = step.capsule, step.controls
    assert capsule is not None
    responses = _switched_response_db(step)
    if capsule.pattern is not None:
        distance_m = source.figures.heard_from_m(control_value(controls, "distance_m", 1.0))
        angle_deg = control_value(controls, "angle_deg", 0.0)
        heard = (
            pattern_response_db(capsule.pattern, hz=hz, distance_m=distance_m, angle_deg=angle_deg)
            for hz in OCTAVE_CENTRES_HZ
        )
        responses.append(tuple(_DEAFEST_DB if db is None else max(_DEAFEST_DB, db) for db in heard))
    return sum_bands_db(*responses)


def _db(power: float) -> float:
    return 10.0 * math.log10(max(power, _NOTHING))


def bands_db(powers: Sequence[float]) -> tuple[float, ...]:
    """Powers by octave in decibels; what is nothing is far down."""
    return tuple(_db(power) for power in powers)


def capsule_response_of(
    source: Source, step: RouteStep, heard: RoomSound | None = None
) -> CapsuleResponse:
    """What the air and the first device make of a source, and of what `heard` says is there beside it."""
    bands = source.figures.octave_bands_db
    if step.capsule is None:
        return CapsuleResponse(octave_bands_db=bands, change_db=0.0)
    delay_s = control_value(step.controls, "distance_m", 1.0) / SPEED_OF_SOUND_M_PER_S
    response_db = microphone_response_db(source, step)
    if heard is not None:
        return _with_room(source, step, response_db, delay_s, heard)
    if not any(response_db):
        return CapsuleResponse(octave_bands_db=bands, change_db=0.0, delay_s=delay_s)
    change = broadband_change_db(bands, response_db)
    return CapsuleResponse(
        octave_bands_db=sum_bands_db(bands, response_db),
        change_db=change,
        delay_s=delay_s,
        response_db=change,
    )


def _with_room(
    source: Source,
    step: RouteStep,
    response_db: tuple[float, ...],
    delay_s: float,
    heard: RoomSound,
) -> CapsuleResponse:
    """Everything that a microphone hears, each with its share.

    source: derivation, sounds of different origin add as powers
    """
    bands = source.figures.octave_bands_db
    own_db = sum_bands_db(bands, response_db, heard.facing_db)
    whole = math.fsum(10.0 ** (db / 10.0) for db in bands)
    own = tuple(10.0 ** (db / 10.0) / whole for db in own_db)
    # As it is switched: presence and foam are not in what the air says.
    assert step.capsule is not None
    switched = sum_bands_db(*_switched_response_db(step))
    switches = [
        10.0 ** ((s - c) / 10.0) for s, c in zip(switched, step.capsule.response_db, strict=True)
    ]
    softer = softer_db(source.figures.playing())
    found = [
        Column(
            source=source.id,
            name=source.name,
            delay_s=delay_s,
            powers=powers,
            softer_db=softer,
            is_room=is_room,
        )
        for powers, is_room in ((own, False), (_times(heard.room, switches), True))
    ]
    found += [
        Column(
            source=one.source, name=one.name, delay_s=one.delay_s, powers=_times(powers, switches),
            softer_db=one.softer_db, is_room=is_room,
        )
        for one in heard.others
        for powers, is_room in ((one.direct, False), (one.room, True))
    ]  # fmt: skip
    total = math.fsum(math.fsum(column.powers) for column in found)
    if not math.fsum(own) > 0.0:
        return CapsuleResponse(octave_bands_db=bands, change_db=0.0, delay_s=delay_s)
    columns = tuple(
        replace(column, powers=tuple(power / total for power in column.powers))
        for column in found
        if any(column.powers)
    )
    together = [math.fsum(values) for values in zip(*(c.powers for c in columns), strict=True)]
    return CapsuleResponse(
        octave_bands_db=bands_db(together),
        change_db=10.0 * math.log10(total),
        delay_s=delay_s,
        response_db=broadband_change_db(bands, response_db),
        columns=columns,
        rt60_s=heard.rt60_s,
    )


def _times(powers: Sequence[float], factors: Sequence[float]) -> tuple[float, ...]:
    return tuple(power * factor for power, factor in zip(powers, factors, strict=True))


def source_part(
    source: Source,
    step: RouteStep,
    room: Room,
    response: CapsuleResponse,
    heard: RoomSound | None = None,
) -> Part:
    """What a signal begins with; a sound once for each microphone that it meets."""
    capsule = step.capsule
    if not source.figures.is_acoustic or capsule is None:
        stage = source.figures.stage(source.settings, None)
        return Part(
            stage=stage,
            owner=source.id,
            role="source",
            step_index=None,
            key=(source.id, "source"),
        )
    air = Air(
        distance_m=control_value(step.controls, "distance_m", 1.0),
        room_noise_dba=_noise_dba(room, heard),
        change_db=response.change_db,
        room_response_db=room_response_db(step),
    )
    stage = source.figures.stage(source.settings, air)
    return Part(
        stage=stage,
        owner=source.id,
        role="source",
        step_index=None,
        key=(source.id, step.link.id),
    )


def _noise_dba(room: Room, heard: RoomSound | None) -> float:
    """The room's own noise with what runs in it."""
    if heard is None or heard.noise_dba is None:
        return room.noise_dba
    return 10.0 * math.log10(10.0 ** (room.noise_dba / 10.0) + 10.0 ** (heard.noise_dba / 10.0))


def cable_part(step: RouteStep, step_index: int | None) -> Part | None:
    """The cable that leads to a device; None through the air, whatever a file says of one."""
    link, cable = step.link, step.link.cable
    if cable is None or step.capsule is not None:
        return None
    stage = Cable(
        length_m=cable.length_m,
        capacitance_f_per_m=cable.capacitance_f_per_m,
        resistance_ohm_per_m=cable.resistance_ohm_per_m,
    )
    return Part(
        stage=stage,
        owner=link.id,
        role="cable",
        step_index=step_index,
        key=(link.id, "cable"),
    )


def device_parts(
    step: RouteStep, audio: Audio, response: CapsuleResponse | None, step_index: int | None
) -> list[Part]:
    """The stages of a device as a signal passes it; `colour` where it is the first."""
    found = []
    for role, stage in step.figures.stages(step, audio.bit_depth):
        if isinstance(stage, Converter):
            stage = DitheredConverter(
                full_scale_dbu=stage.full_scale_dbu,
                input_impedance_ohm=stage.input_impedance_ohm,
                dynamic_range_dba=stage.dynamic_range_dba,
                bit_depth=stage.bit_depth,
                dither_rate_hz=float(audio.sample_rate_hz),
            )
        if response is not None and response.response_db and isinstance(stage, Microphone):
            # What its response does to the level is in the level already: its ceiling goes along.
            raised = raised_dbu(stage.max_spl_db, response.response_db)
            stage = replace(stage, max_spl_db=raised)
        place = step.figures.place_of(role, step)
        found.append(
            Part(
                stage=stage,
                owner=step.owner,
                role=role,
                step_index=step_index,
                key=(step.owner, place),
            )
        )
    return found


def stage_line(route: Route, setup: Setup, heard: RoomSound | None = None) -> StagedLine:
    """All stages of a route, cables included, with the source at its hardest; `heard` beside it."""
    source = route.source
    response = capsule_response_of(source, route.steps[0], heard)
    parts = [source_part(source, route.steps[0], setup.room, response, heard)]
    for index, step in enumerate(route.steps):
        cable = cable_part(step, index)
        if cable is not None:
            parts.append(cable)
        first = response if index == 0 else None
        parts += device_parts(step, setup.audio, first, index)
    return StagedLine(route=route, parts=tuple(parts), response=response)


def is_physical(route: Route) -> bool:
    """Whether a route can be computed: sound must meet a microphone, and only sound may."""
    if not route.has_source:
        return False
    meets_microphone = route.steps[0].capsule is not None
    return meets_microphone == route.source.figures.is_acoustic and not any(
        step.capsule is not None for step in route.steps[1:]
    )
