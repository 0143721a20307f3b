"""What every microphone hears beside the straight sound of its own source: others, and the room.

Only what somebody has placed counts: where things usually stand is good enough to draw, and no ground for a level.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

import numpy as np

from verve.core.engine import Engine, Remembered
from verve.core.kind import PlayingRange
from verve.core.session import GIVES_BACK, Setup
from verve.core.units import SPEED_OF_SOUND_M_PER_S, FloatArray

if TYPE_CHECKING:
    from verve.core.air import Hearing, PlacedSource

Bands = tuple[float, ...]
"""Powers by octave; 1 is the hardest peak of the microphone's own source there, before any pattern and response."""

LOUDSPEAKER_CREST_DB: Final = 12.0
"""Peak over mean of what loudspeakers play; typical."""
_SOUNDS_FOR_S: Final[Mapping[str, float]] = {
    "voice": 0.5, "plucked": 0.2, "bowed": 0.7, "struck": 0.06, "keys": 0.9,
}  # fmt: skip
"""How long one note keeps at its level; typical. A room takes its time to answer a short one."""
_LEAST = 1e-7
"""Of a power: what is 70 dB below the microphone's own source is not followed."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Heard:
    """One sound in a microphone that is not there for it: straight, and from the room.

    `softer_db` is how far its softest and its typical playing are below its hardest.
    """

    source: str
    name: str
    softer_db: tuple[float, float]
    delay_s: float
    direct: Bands
    room: Bands


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomSound:
    """What a microphone hears of the room it stands in.

    `facing_db` is what its own source sends that way, by octave, against straight ahead; `room` is the own source's
    sound from the room; `noise_dba` is what runs beside, as the noise of a room that would be as loud in it.
    """

    facing_db: Bands
    room: Bands
    others: tuple[Heard, ...]
    noise_dba: float | None
    rt60_s: float


RoomSounds = Mapping[tuple[str, str], RoomSound]
"""By source and microphone, which is `device:port`."""
NOBODY: RoomSounds = {}


def hearing_in(setup: Setup, engine: Engine) -> Hearing | None:
    """What every microphone hears; None where nothing has been placed, and nothing is loaded for it."""
    placement = setup.placement
    if not (placement.stands or placement.aims or placement.things):
        return None
    from verve.core.air import hearing_of, positions_of

    table: Remembered[Hearing] = engine.table("hearing", 16)
    parts = (setup.sources, setup.devices, setup.links, placement, setup.room)
    return table.get(parts, lambda: hearing_of(positions_of(setup)))


def room_sounds(hearing: Hearing | None, engine: Engine) -> RoomSounds:
    """What there is beside the straight sound in each microphone whose own source has been placed."""
    if hearing is None:
        return NOBODY
    table: Remembered[Mapping[tuple[str, str], RoomSound]] = engine.table("room sounds", 16)
    return table.get((hearing,), lambda: _all(hearing, engine))


def _all(hearing: Hearing, engine: Engine) -> dict[tuple[str, str], RoomSound]:
    positions = hearing.positions
    raised = np.array([_peak_over_mean(one) for one in positions.sources])
    answers = np.array([_answer(one, positions.room.rt60_s) for one in positions.sources])
    # Equal ones are the very same, so that lines that an edit leaves as they are keep their physics.
    table: Remembered[RoomSound] = engine.table("a room's sound", 512)
    everybody = tuple((one.id, one.name, one.is_given) for one in positions.sources)
    same = (everybody, raised.tobytes(), answers.tobytes(), positions.room.rt60_s)
    found: dict[tuple[str, str], RoomSound] = {}
    for number, microphone in enumerate(positions.microphones):
        own = hearing.wanted[number][0]
        if not positions.sources[own].is_given:
            continue
        # What a microphone hears is compared as it was computed: making it takes longer.
        rows = (hearing.direct, hearing.room, hearing.distance_m, hearing.sent)
        capsule = (microphone.capsule.pattern, microphone.capsule.response_db)
        key = (*same, own, *capsule, *(row[number].tobytes() for row in rows))
        known = table.find_equal(key)
        if known is None:
            known = table.keep_equal(key, _one(hearing, number, own, raised, answers))
        found[positions.sources[own].id, microphone.id] = known
    return found


def _one(
    hearing: Hearing, number: int, own: int, raised: FloatArray, answers: FloatArray
) -> RoomSound:
    from verve.core.air import source_powers

    positions = hearing.positions
    source = positions.sources[own]
    assert source.figures is not None
    counted_m = source.figures.heard_from_m(float(hearing.distance_m[number, own]))
    unit = float(source_powers(source).sum()) * raised[own] / counted_m**2
    direct = hearing.direct[number] * raised[:, None] / unit
    room = hearing.room[number] * (raised * answers)[:, None] / unit
    others, noise = [], np.zeros(10)
    for other, one in enumerate(positions.sources):
        if other == own:
            continue
        is_heard = one.is_given or other in hearing.wanted[number]
        if one.thing is not None and not is_played(one):
            noise += hearing.direct[number, other] + hearing.room[number, other]
        elif is_heard and direct[other].sum() + room[other].sum() > _LEAST:
            others.append(
                Heard(
                    source=one.id,
                    name=one.name,
                    softer_db=_softer_db(one),
                    delay_s=float(hearing.distance_m[number, other]) / SPEED_OF_SOUND_M_PER_S,
                    direct=_bands(direct[other]),
                    room=_bands(room[other]),
                )
            )
    return RoomSound(
        facing_db=_bands(10.0 * np.log10(np.maximum(hearing.sent[number, own], 1e-6))),
        room=_bands(room[own]),
        others=tuple(others),
        noise_dba=_as_room_dba(hearing, number, noise),
        rt60_s=positions.room.rt60_s,
    )


def _softer_db(source: PlacedSource) -> tuple[float, float]:
    if source.figures is None:
        return (0.0, 0.0)
    return softer_db(source.figures.playing())


def softer_db(playing: PlayingRange) -> tuple[float, float]:
    """How far softest and typical playing are below the hardest."""
    hardest = playing.hardest_db
    return (hardest - playing.softest_db, hardest - playing.typical_db)


def _bands(values: FloatArray) -> Bands:
    return tuple(values.tolist())


def is_played(source: PlacedSource) -> bool:
    """Whether it gives back what is played, and is no noise: a loudspeaker, headphones."""
    return source.thing is not None and source.thing.kind in GIVES_BACK


def _peak_over_mean(source: PlacedSource) -> float:
    """Power of the hardest peak against the mean that is heard of it."""
    if source.figures is None:
        return float(10.0 ** (LOUDSPEAKER_CREST_DB / 10.0))
    playing = source.figures.playing()
    over_db = playing.hardest_db - playing.typical_db + source.figures.crest_db
    return float(10.0 ** (over_db / 10.0))


def _answer(source: PlacedSource, rt60_s: float) -> float:
    """How much of its steady level a room reaches while one note sounds.

    source: Kuttruff, Room Acoustics: the energy grows as 1 − 10^(−6·t/RT60)
    """
    if source.figures is None:
        return 1.0
    return float(1.0 - 10.0 ** (-6.0 * _SOUNDS_FOR_S[source.figures.player] / rt60_s))


def _as_room_dba(hearing: Hearing, number: int, powers: FloatArray) -> float | None:
    """Noise that comes straight and from around, as the level of a room's noise from all around; None for none.

    powers: as the microphone takes them, shape (10,)
    """
    from verve.core.acoustics import diffuse_power
    from verve.core.air import response_of
    from verve.core.line import OCTAVE_CENTRES_HZ
    from verve.core.units import a_weighting_power

    microphone = hearing.positions.microphones[number]
    weights = a_weighting_power(np.array(OCTAVE_CENTRES_HZ))
    around = diffuse_power(hearing.pressure_share(microphone))
    heard = float((powers / response_of(microphone)) @ weights) / around
    return 10.0 * math.log10(heard) if heard > 0.0 else None
