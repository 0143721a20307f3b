"""What the application's own core says to cases of rooms, placement and hearing."""

from __future__ import annotations

from collections.abc import Callable

from verve.core.acoustics import (
    Point,
    RoomLevel,
    StereoPair,
    SumOfPaths,
    Surface,
    absorption_m2,
    absorption_of_m2,
    angle_between_deg,
    critical_distance_at_microphone_m,
    critical_distance_m,
    delay_ms,
    diffuse_db,
    direction,
    distance_factor,
    distance_m,
    is_safe,
    loop_gain_db,
    margin_db,
    mean_absorption,
    near_response_db,
    null_angle_deg,
    response,
    room_constant_m2,
    room_level,
    rt60_eyring_s,
    rt60_sabine_s,
    schroeder_hz,
)
from verve.core.monitor import Dose, HeadphoneDrive, Span
from verve.core.verify._place_cases import (
    BleedCase,
    CriticalDistanceCase,
    ExposureDoseCase,
    FeedbackCase,
    HeadphoneDriveCase,
    PlaceCase,
    PlacementCase,
    PolarCase,
    ReverberationCase,
    RoomLevelCase,
    StereoPairCase,
    SumOfPathsCase,
    Value,
)


def place_value(case: PlaceCase, quantity: str) -> Value:
    """One quantity of such a case."""
    return _VALUES[type(case)](case, quantity)


def _polar(case: PolarCase, quantity: str) -> Value:
    share = case.pressure_share
    match quantity:
        case "level_db":
            return near_response_db(
                share, hz=case.hz, distance_m=case.distance_m, angle_deg=case.angle_deg
            )
        case "is_inverted":
            return response(share, case.angle_deg) < 0.0
        case "diffuse_db":
            return diffuse_db(share)
        case "distance_factor":
            return distance_factor(share)
        case _:
            return null_angle_deg(share)


def _reverberation(case: ReverberationCase, quantity: str) -> Value:
    surfaces = [Surface(area_m2=one.area_m2, absorption=one.absorption) for one in case.surfaces]
    match quantity:
        case "absorption_m2":
            return absorption_m2(surfaces)
        case "mean_absorption":
            return mean_absorption(surfaces)
        case "rt60_sabine_s":
            return rt60_sabine_s(case.volume_m3, surfaces)
        case _:
            return rt60_eyring_s(case.volume_m3, surfaces)


def _critical_distance(case: CriticalDistanceCase, quantity: str) -> Value:
    absorbing_m2 = absorption_of_m2(case.volume_m3, case.rt60_s)
    counting_m2 = absorbing_m2
    if case.surface_m2 is not None:
        counting_m2 = room_constant_m2(absorbing_m2, case.surface_m2)
    match quantity:
        case "absorption_m2":
            return absorbing_m2
        case "critical_distance_m":
            return critical_distance_m(counting_m2, case.directivity_q)
        case "critical_distance_at_microphone_m":
            return critical_distance_at_microphone_m(
                counting_m2, case.directivity_q, case.pressure_share
            )
        case _:
            return schroeder_hz(case.volume_m3, case.rt60_s)


def _of_level(found: RoomLevel, quantity: str) -> Value:
    value: Value = getattr(found, quantity)
    return value


def _room_level(case: RoomLevelCase, quantity: str) -> Value:
    found = room_level(
        level_at_1m_db=case.level_at_1m_db,
        distance_m=case.distance_m,
        absorbing_m2=absorption_of_m2(case.volume_m3, case.rt60_s),
        directivity_q=case.directivity_q,
        source_off_axis_db=case.source_off_axis_db,
        pressure_share=case.pressure_share,
        angle_deg=case.angle_deg,
    )
    return _of_level(found, quantity)


def _placement(case: PlacementCase, quantity: str) -> Value:
    microphone = Point(case.microphone_x_m, case.microphone_y_m, case.microphone_z_m)
    source = Point(case.source_x_m, case.source_y_m, case.source_z_m)
    far_m = distance_m(microphone, source)
    match quantity:
        case "distance_m":
            return far_m
        case "angle_deg":
            return angle_between_deg(direction(case.aim_deg), microphone.to(source))
        case "delay_ms":
            return delay_ms(far_m)
        case _:
            return delay_ms(far_m) * case.sample_rate_hz / 1000.0


def _absorbing_m2(volume_m3: float | None, rt60_s: float | None) -> float | None:
    if volume_m3 is None or rt60_s is None:
        return None
    return absorption_of_m2(volume_m3, rt60_s)


def _bleed(case: BleedCase, quantity: str) -> Value:
    absorbing_m2 = _absorbing_m2(case.volume_m3, case.rt60_s)
    wanted = room_level(
        level_at_1m_db=case.wanted_level_db,
        distance_m=case.wanted_distance_m,
        absorbing_m2=absorbing_m2,
        directivity_q=case.wanted_q,
        pressure_share=case.pressure_share,
        angle_deg=case.wanted_angle_deg,
    )
    other = room_level(
        level_at_1m_db=case.other_level_db,
        distance_m=case.other_distance_m,
        absorbing_m2=absorbing_m2,
        directivity_q=case.other_q,
        pressure_share=case.pressure_share,
        angle_deg=case.other_angle_deg,
    )
    match quantity:
        case "wanted_db":
            return wanted.total_db
        case "other_db":
            return other.total_db
        case "bleed_db":
            return _above(wanted.total_db, other.total_db)
        case _:
            return _above(wanted.direct_db, other.direct_db)


def _above(one_db: float | None, other_db: float | None) -> float | None:
    return None if one_db is None or other_db is None else one_db - other_db


def _sum_of_paths(case: SumOfPathsCase, quantity: str) -> Value:
    late_ms = case.delay_ms
    if late_ms is None:
        assert case.path_difference_m is not None
        late_ms = delay_ms(case.path_difference_m)
    found = SumOfPaths(
        delay_ms=late_ms,
        level_difference_db=case.level_difference_db,
        polarity_inverted=case.polarity_inverted,
    )
    if quantity == "response_db":
        return found.response_db(case.hz)
    value: Value = getattr(found, quantity)
    return value


def _stereo_pair(case: StereoPairCase, quantity: str) -> Value:
    pair = StereoPair(
        technique=case.technique,
        pressure_share=case.pressure_share,
        opening_deg=case.opening_deg,
        spacing_m=case.spacing_m,
        side_gain_db=case.side_gain_db,
    )
    if quantity == "mono_db":
        return pair.mono_db(case.source_angle_deg, case.source_distance_m)
    value: Value = getattr(pair.hears(case.source_angle_deg, case.source_distance_m), quantity)
    return value


def _feedback(case: FeedbackCase, quantity: str) -> Value:
    arrives_db = room_level(
        level_at_1m_db=case.loudspeaker_at_1m_db,
        distance_m=case.loudspeaker_distance_m,
        absorbing_m2=_absorbing_m2(case.volume_m3, case.rt60_s),
        directivity_q=case.loudspeaker_q,
        source_off_axis_db=case.loudspeaker_off_axis_db,
        pressure_share=case.pressure_share,
        angle_deg=case.angle_deg,
    ).total_db
    loop_db = loop_gain_db(arrives_db, case.microphone_level_db, case.open_microphones)
    match quantity:
        case "loudspeaker_at_microphone_db":
            return arrives_db
        case "loop_gain_db":
            return loop_db
        case "margin_db":
            return margin_db(loop_db)
        case _:
            return is_safe(margin_db(loop_db), case.safety_db)


def _headphone_drive(case: HeadphoneDriveCase, quantity: str) -> Value:
    found = HeadphoneDrive(
        sensitivity_db_per_mw=case.sensitivity_db_per_mw,
        sensitivity_db_per_v=case.sensitivity_db_per_v,
        impedance_ohm=case.impedance_ohm,
        output_impedance_ohm=case.output_impedance_ohm,
        drive_dbu=case.drive_dbu,
        pairs=case.pairs,
    )
    if quantity == "needed_dbu":
        return None if case.target_spl_db is None else found.needed_dbu(case.target_spl_db)
    value: Value = getattr(found, quantity)
    return value


def _exposure_dose(case: ExposureDoseCase, quantity: str) -> Value:
    found = Dose(
        spans=tuple(Span(level_dba=one.level_dba, hours=one.hours) for one in case.spans),
        criterion_dba=case.criterion_dba,
        criterion_hours=case.criterion_hours,
        exchange_db=case.exchange_db,
    )
    match quantity:
        case "dose_percent":
            return found.percent
        case "average_dba":
            return found.average_dba
        case _:
            next_dba = case.next_level_dba
            return None if next_dba is None else found.remaining_hours(next_dba)


_VALUES: dict[type, Callable[..., Value]] = {
    PolarCase: _polar,
    ReverberationCase: _reverberation,
    CriticalDistanceCase: _critical_distance,
    RoomLevelCase: _room_level,
    PlacementCase: _placement,
    BleedCase: _bleed,
    SumOfPathsCase: _sum_of_paths,
    StereoPairCase: _stereo_pair,
    FeedbackCase: _feedback,
    HeadphoneDriveCase: _headphone_drive,
    ExposureDoseCase: _exposure_dose,
}
