"""Cases of rooms, placement, hearing: what stands in them, and what cannot be."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from verve.core.acoustics import Technique
from verve.core.errors import InputError
from verve.core.line import PRESSURE_SHARE
from verve.core.verify._strict import AtLeastOne, CaseOf, NotNegative, Positive, Strict

Value = float | bool | str | None


def _share(value: object) -> object:
    return PRESSURE_SHARE.get(value, value) if isinstance(value, str) else value  # type: ignore[call-overload]


PressureShare = Annotated[float, BeforeValidator(_share), Field(ge=0, le=1)]
Absorption = Annotated[float, Field(ge=0, le=1)]
NotAbove = Annotated[float, Field(le=0)]


class PolarCase(CaseOf):
    """A first-order microphone and a source at an angle."""

    kind: Literal["polar"]
    pressure_share: PressureShare
    angle_deg: float = 0.0
    distance_m: Positive | None = None
    hz: Positive = 1000.0


class SurfaceOf(Strict):
    """Some of a room's boundary."""

    area_m2: NotNegative
    absorption: Absorption


class ReverberationCase(CaseOf):
    """A room by its surfaces."""

    kind: Literal["reverberation"]
    volume_m3: Positive
    surfaces: Annotated[tuple[SurfaceOf, ...], Field(min_length=1)]


class CriticalDistanceCase(CaseOf):
    """Where a room is as loud as the direct sound."""

    kind: Literal["critical_distance"]
    volume_m3: Positive
    rt60_s: Positive
    directivity_q: Positive = 1.0
    pressure_share: PressureShare = 1.0
    surface_m2: Positive | None = None


class RoomLevelCase(CaseOf):
    """One source in a microphone, in a room."""

    kind: Literal["room_level"]
    level_at_1m_db: float
    distance_m: Positive
    volume_m3: Positive
    rt60_s: Positive
    directivity_q: Positive = 1.0
    source_off_axis_db: NotAbove = 0.0
    pressure_share: PressureShare = 1.0
    angle_deg: float = 0.0


class PlacementCase(CaseOf):
    """A microphone and a source in space."""

    kind: Literal["placement"]
    microphone_x_m: float
    microphone_y_m: float
    microphone_z_m: float = 0.0
    aim_deg: float = 0.0
    source_x_m: float
    source_y_m: float
    source_z_m: float = 0.0
    sample_rate_hz: Positive = 48_000.0


class BleedCase(CaseOf):
    """A wanted source and another one in one microphone."""

    kind: Literal["bleed"]
    wanted_level_db: float
    wanted_distance_m: Positive
    wanted_angle_deg: float = 0.0
    wanted_q: Positive = 1.0
    other_level_db: float
    other_distance_m: Positive
    other_angle_deg: float = 0.0
    other_q: Positive = 1.0
    pressure_share: PressureShare = 1.0
    volume_m3: Positive | None = None
    rt60_s: Positive | None = None


class SumOfPathsCase(CaseOf):
    """One sound by two paths, summed."""

    kind: Literal["sum_of_paths"]
    delay_ms: NotNegative | None = None
    path_difference_m: NotNegative | None = None
    level_difference_db: float
    polarity_inverted: bool = False
    hz: Positive = 1000.0


class StereoPairCase(CaseOf):
    """Two microphones and a source."""

    kind: Literal["stereo_pair"]
    technique: Technique
    pressure_share: PressureShare = 0.5
    opening_deg: float = 0.0
    spacing_m: NotNegative = 0.0
    side_gain_db: float = 0.0
    source_angle_deg: float
    source_distance_m: Positive | None = None


class FeedbackCase(CaseOf):
    """A loudspeaker heard by the microphone it makes loud."""

    kind: Literal["feedback"]
    microphone_level_db: float
    loudspeaker_at_1m_db: float
    loudspeaker_distance_m: Positive
    loudspeaker_off_axis_db: NotAbove = 0.0
    loudspeaker_q: Positive = 1.0
    pressure_share: PressureShare = 1.0
    angle_deg: float = 0.0
    volume_m3: Positive | None = None
    rt60_s: Positive | None = None
    open_microphones: AtLeastOne = 1
    safety_db: float = 6.0


class HeadphoneDriveCase(CaseOf):
    """Headphones on an output."""

    kind: Literal["headphone_drive"]
    sensitivity_db_per_mw: float | None = None
    sensitivity_db_per_v: float | None = None
    impedance_ohm: Positive
    output_impedance_ohm: NotNegative = 0.0
    drive_dbu: float
    pairs: AtLeastOne = 1
    target_spl_db: float | None = None


class SpanOf(Strict):
    """A level for a time."""

    level_dba: float
    hours: NotNegative


class ExposureDoseCase(CaseOf):
    """What a day of sound does to an ear."""

    kind: Literal["exposure_dose"]
    spans: tuple[SpanOf, ...]
    criterion_dba: float = 85.0
    criterion_hours: Positive = 8.0
    exchange_db: Positive = 3.0
    next_level_dba: float | None = None


PlaceCase = (
    PolarCase
    | ReverberationCase
    | CriticalDistanceCase
    | RoomLevelCase
    | PlacementCase
    | BleedCase
    | SumOfPathsCase
    | StereoPairCase
    | FeedbackCase
    | HeadphoneDriveCase
    | ExposureDoseCase
)


def _both_or_neither(place: str, first: tuple[str, object], second: tuple[str, object]) -> None:
    if (first[1] is None) != (second[1] is None):
        raise InputError(f"{place}: {first[0]}", f"must stand together with {second[0]}")


def _either(place: str, first: tuple[str, object], second: tuple[str, object]) -> None:
    if (first[1] is None) == (second[1] is None):
        raise InputError(f"{place}: {first[0]}", f"must stand alone or leave it to {second[0]}")


def check_place(case: PlaceCase, place: str) -> None:
    """What cannot be, though each number by itself could.

    raises: InputError naming the field
    """
    match case:
        case ReverberationCase():
            if not any(one.area_m2 for one in case.surfaces):
                raise InputError(f"{place}: surfaces", "must have some area")
        case BleedCase() | FeedbackCase():
            _both_or_neither(place, ("volume_m3", case.volume_m3), ("rt60_s", case.rt60_s))
        case SumOfPathsCase():
            difference = case.path_difference_m
            _either(place, ("delay_ms", case.delay_ms), ("path_difference_m", difference))
        case HeadphoneDriveCase():
            first = ("sensitivity_db_per_mw", case.sensitivity_db_per_mw)
            _either(place, first, ("sensitivity_db_per_v", case.sensitivity_db_per_v))
        case PlacementCase():
            here = (case.microphone_x_m, case.microphone_y_m, case.microphone_z_m)
            if here == (case.source_x_m, case.source_y_m, case.source_z_m):
                raise InputError(f"{place}: source_x_m", "must not be in the microphone")
        case StereoPairCase():
            _check_pair(case, place)


def _check_pair(case: StereoPairCase, place: str) -> None:
    is_in_one_point = case.technique in ("coincident", "middle_side")
    if is_in_one_point and case.spacing_m:
        rule = f"must be 0 for {case.technique.replace('_', ' ')}"
        raise InputError(f"{place}: spacing_m", rule, case.spacing_m)
    if case.technique == "middle_side" and case.opening_deg:
        raise InputError(f"{place}: opening_deg", "must be 0 for middle side", case.opening_deg)


QUANTITIES: Mapping[str, frozenset[str]] = {
    "polar": frozenset(
        {"level_db", "is_inverted", "diffuse_db", "distance_factor", "null_angle_deg"}
    ),
    "reverberation": frozenset(
        {"absorption_m2", "mean_absorption", "rt60_sabine_s", "rt60_eyring_s"}
    ),
    "critical_distance": frozenset(
        {
            "absorption_m2",
            "critical_distance_m",
            "critical_distance_at_microphone_m",
            "schroeder_hz",
        }
    ),
    "room_level": frozenset(
        {"direct_db", "reverberant_db", "total_db", "direct_to_reverberant_db"}
    ),
    "placement": frozenset({"distance_m", "angle_deg", "delay_ms", "frames"}),
    "bleed": frozenset({"wanted_db", "other_db", "bleed_db", "direct_bleed_db"}),
    "sum_of_paths": frozenset(
        {"response_db", "first_null_hz", "first_peak_hz", "peak_db", "dip_db", "ripple_db"}
    ),
    "stereo_pair": frozenset(
        {"level_difference_db", "time_difference_ms", "is_inverted", "mono_db"}
    ),
    "feedback": frozenset({"loudspeaker_at_microphone_db", "loop_gain_db", "margin_db", "is_safe"}),
    "headphone_drive": frozenset({"power_mw", "spl_db", "current_ma", "needed_dbu"}),
    "exposure_dose": frozenset({"dose_percent", "average_dba", "remaining_hours"}),
}
