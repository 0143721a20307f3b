"""What every microphone hears of every source: straight, from the room, how late, from which side."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from verve.core.acoustics import SumOfPaths, diffuse_power
from verve.core.air._directivity import band_powers, shares_of
from verve.core.air._positions import PlacedMicrophone, PlacedSource, Positions
from verve.core.line import OCTAVE_CENTRES_HZ, PRESSURE_SHARE
from verve.core.units import SPEED_OF_SOUND_M_PER_S, FloatArray, power_to_db

DEAFEST = 1e-6
"""Power that real microphones still hear where a pattern hears nothing: −60 dB."""
_NEAREST_M = 0.02
WAVE_NUMBERS = 2.0 * np.pi * np.array(OCTAVE_CENTRES_HZ) / SPEED_OF_SOUND_M_PER_S


@dataclass(frozen=True, slots=True, kw_only=True)
class Path:
    """One source in one microphone. Levels are RMS, in dB SPL as the microphone takes them; None where it is off."""

    source: PlacedSource
    microphone: PlacedMicrophone
    is_wanted: bool
    distance_m: float
    angle_deg: float
    """Between the microphone's aim and the source."""
    off_axis_deg: float
    """Between where the source faces and the microphone."""
    direct_db: float | None
    room_db: float | None
    total_db: float | None
    below_wanted_db: float | None
    """How far it is below what the microphone is there for; None for that itself, and for what is off."""

    @property
    def delay_ms(self) -> float:
        """How long it is on its way."""
        return 1000.0 * self.distance_m / SPEED_OF_SOUND_M_PER_S

    def frames(self, rate_hz: float) -> float:
        """The same at a rate."""
        return self.delay_ms * rate_hz / 1000.0


@dataclass(frozen=True, eq=False, kw_only=True)
class Hearing:
    """Powers and geometry of all microphones × all sources.

    shape: distance_m, angle_deg, off_axis_deg (n_microphones, n_sources); direct, room (…, …, 10), mean squares of
    which 1 is 0 dB SPL; sent (…, …, 10), the power a source sends that way against straight ahead
    """

    positions: Positions
    distance_m: FloatArray
    angle_deg: FloatArray
    off_axis_deg: FloatArray
    direct: FloatArray
    room: FloatArray
    sent: FloatArray

    @cached_property
    def direct_power(self) -> FloatArray:
        """All octaves together."""
        return np.asarray(self.direct.sum(axis=2))

    @cached_property
    def total_power(self) -> FloatArray:
        """With the room, all octaves together."""
        return np.asarray(self.direct_power + self.room.sum(axis=2))

    @cached_property
    def wanted(self) -> list[list[int]]:
        """Of each microphone, which sources it is there for; the first is what others are held against."""
        numbers = {one.id: number for number, one in enumerate(self.positions.sources)}
        return [[numbers[one] for one in mic.wants] for mic in self.positions.microphones]

    @cached_property
    def bleed_db(self) -> FloatArray:
        """How far each source is below the wanted one: nan for the wanted ones, inf for what is off."""
        first = np.array([wanted[0] for wanted in self.wanted], dtype=np.int64)
        own = np.take_along_axis(self.total_power, first[:, None], axis=1) if len(first) else None
        if own is None:
            return np.zeros(self.total_power.shape)
        with np.errstate(divide="ignore"):
            found = 10.0 * np.log10(own) - 10.0 * np.log10(self.total_power)
        for number, wanted in enumerate(self.wanted):
            found[number, wanted] = np.nan
        return np.asarray(found)

    def direct_below_db(self, microphone: int, source: int) -> float:
        """How far the direct sound of a source is below the wanted one; inf for what is off."""
        own = self.total_power[microphone, self.wanted[microphone][0]]
        other = self.direct_power[microphone, source]
        return float(10.0 * np.log10(own / other)) if other else float("inf")

    def path(self, microphone: int, source: int) -> Path:
        """One of them, by their numbers."""
        bleed = float(self.bleed_db[microphone, source])
        return Path(
            source=self.positions.sources[source],
            microphone=self.positions.microphones[microphone],
            is_wanted=source in self.wanted[microphone],
            distance_m=float(self.distance_m[microphone, source]),
            angle_deg=float(self.angle_deg[microphone, source]),
            off_axis_deg=float(self.off_axis_deg[microphone, source]),
            direct_db=power_to_db(float(self.direct_power[microphone, source])),
            room_db=power_to_db(float(self.room[microphone, source].sum())),
            total_db=power_to_db(float(self.total_power[microphone, source])),
            below_wanted_db=bleed if np.isfinite(bleed) else None,
        )

    def pressure_share(self, microphone: PlacedMicrophone) -> float:
        """How much of a microphone's pattern is pressure: 1 hears alike all around."""
        return share_of(microphone)

    def balance_db(self, microphone: int, source: int) -> float | None:
        """Of a source that it is there for too: how far above the first one."""
        first = self.wanted[microphone][0]
        one, other = self.total_power[microphone, source], self.total_power[microphone, first]
        return power_to_db(float(one / other)) if other and one else None

    def sum_with(self, microphone: int, own: int, source: int) -> SumOfPaths | None:
        """A source in its own microphone and in another one, mixed with what both are there for at one level.

        None where the other hears nothing of it.
        """
        share = self.direct_power[microphone, source]
        if not share:
            return None
        here = 10.0 * np.log10(share / self.total_power[microphone, self.wanted[microphone][0]])
        there = 10.0 * np.log10(
            self.direct_power[own, source] / self.total_power[own, self.wanted[own][0]]
        )
        later = float(self.distance_m[microphone, source] - self.distance_m[own, source])
        return SumOfPaths(
            delay_ms=1000.0 * abs(later) / SPEED_OF_SOUND_M_PER_S,
            level_difference_db=float(there - here),
        )


def hearing_of(positions: Positions) -> Hearing:
    """What every microphone hears of every source, straight and from the room.

    Direct: inverse distance with the source's size, its directivity and the microphone's pattern with proximity, by
    octave. Room: the same power everywhere (diffuse field), through the pattern from all around.

    source: Kuttruff, Room Acoustics (4/A); Eargle, The Microphone Book (pattern and proximity); derivation of
    √(r² + a²) in `effective_distance_m`
    """
    sources, microphones = positions.sources, positions.microphones
    here = np.array([_xyz(one) for one in microphones]).reshape(-1, 1, 3)
    there = np.array([_xyz(one) for one in sources]).reshape(1, -1, 3)
    way = there - here
    distance = np.maximum(np.linalg.norm(way, axis=2), _NEAREST_M)
    aims = np.array([one.toward for one in microphones]).reshape(-1, 1, 3)
    facing = np.radians([one.facing_deg for one in sources])
    fronts = np.stack([np.sin(facing), np.cos(facing), np.zeros(len(sources))], axis=1)[None]
    towards = np.clip((way * aims).sum(axis=2) / distance, -1.0, 1.0)
    sideways = np.clip(-(way * fronts).sum(axis=2) / distance, -1.0, 1.0)
    powers = np.array([band_powers(one) for one in sources]).reshape(1, -1, 10)
    shares = np.array([shares_of(one) for one in sources]).reshape(1, -1, 10)
    sizes = np.array([extent_m(one) for one in sources]).reshape(1, -1)
    counted = np.hypot(distance, sizes)
    sent = (shares + (1.0 - shares) * sideways[:, :, None]) ** 2
    responses = np.array([response_of(one) for one in microphones]).reshape(-1, 1, 10)
    pattern = np.array([share_of(one) for one in microphones]).reshape(-1, 1, 1)
    gradient = (1.0 - pattern) * towards[:, :, None]
    taken = (pattern + gradient) ** 2 + (gradient / (WAVE_NUMBERS * counted[:, :, None])) ** 2
    direct = powers * sent * np.maximum(taken, DEAFEST) * responses / (counted**2)[:, :, None]
    # On its axis a source with a narrow pattern gives less power to the room than one that sounds to all sides.
    all_around = shares**2 + (1.0 - shares) ** 2 / 3.0
    diffuse = np.array([diffuse_power(share_of(one)) for one in microphones]).reshape(-1, 1, 1)
    room = powers * all_around * 16.0 * np.pi / positions.room.absorbing_m2 * diffuse * responses
    return Hearing(
        positions=positions,
        distance_m=distance,
        angle_deg=np.degrees(np.arccos(towards)),
        off_axis_deg=np.degrees(np.arccos(sideways)),
        direct=direct,
        room=room,
        sent=np.broadcast_to(sent, direct.shape),
    )


def _xyz(one: PlacedSource | PlacedMicrophone) -> tuple[float, float, float]:
    return (one.at.x_m, one.at.y_m, one.at.z_m)


def extent_m(source: PlacedSource) -> float:
    """About half the size of what sounds."""
    return source.figures.extent_m if source.figures is not None else 0.0


def share_of(microphone: PlacedMicrophone) -> float:
    """Pressure share of its pattern."""
    pattern = microphone.capsule.pattern
    return 1.0 if pattern is None else PRESSURE_SHARE[pattern]


def response_of(microphone: PlacedMicrophone) -> FloatArray:
    """Its own response on its axis, as powers; shape (10,)."""
    return np.asarray(10.0 ** (np.array(microphone.capsule.response_db) / 10.0))
