"""From a route through gear and cables to the stages that the physics computes."""

from __future__ import annotations

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
class CapsuleResponse:
    """What the air and a microphone's own response make of a source before it is a voltage.

    `change_db` is how they change its level over all; `octave_bands_db` are the bands behind them;
    `delay_s` is how long the sound takes to the microphone.
    """

    octave_bands_db: tuple[float, ...]
    change_db: float
    delay_s: float = 0.0


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


def capsule_response_of(source: Source, step: RouteStep) -> CapsuleResponse:
    """What the air and the first device make of a source."""
    bands_db = source.figures.octave_bands_db
    if step.capsule is None:
        return CapsuleResponse(octave_bands_db=bands_db, change_db=0.0)
    delay_s = control_value(step.controls, "distance_m", 1.0) / SPEED_OF_SOUND_M_PER_S
    response_db = microphone_response_db(source, step)
    if not any(response_db):
        return CapsuleResponse(octave_bands_db=bands_db, change_db=0.0, delay_s=delay_s)
    return CapsuleResponse(
        octave_bands_db=sum_bands_db(bands_db, response_db),
        change_db=broadband_change_db(bands_db, response_db),
        delay_s=delay_s,
    )


def source_part(source: Source, step: RouteStep, room: Room, response: CapsuleResponse) -> Part:
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
        room_noise_dba=room.noise_dba,
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
        if response is not None and response.change_db and isinstance(stage, Microphone):
            # What its response does to the level is in the level already: its ceiling goes along.
            raised = raised_dbu(stage.max_spl_db, response.change_db)
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


def stage_line(route: Route, setup: Setup) -> StagedLine:
    """All stages of a route, cables included, with the source at its hardest."""
    source = route.source
    response = capsule_response_of(source, route.steps[0])
    parts = [source_part(source, route.steps[0], setup.room, response)]
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
