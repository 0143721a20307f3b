"""Computing validation cases with the application's own core and holding them against the answers."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from verve.core.acoustics import (
    delay_ms,
    first_null_hz,
    ripple_db,
    spacing_level_difference_db,
)
from verve.core.errors import InputError
from verve.core.line import Reading, read_at, response_db, source_impedance_ohm
from verve.core.monitor import (
    RoundTrip,
    allowed_hours,
    fitted_round_trip_ms,
    headphone_spl_db,
    round_trip_ms,
)
from verve.core.power import is_within_budget, total_current_ma, voltage_at_microphone_v
from verve.core.verify._cases import (
    Case,
    ExposureCase,
    HeadphoneCase,
    LineCase,
    LineExpectation,
    PhantomCase,
    RoundTripCase,
    RoundTripFitCase,
    SpacingCase,
    TwoPathsCase,
)
from verve.core.verify._place_cases import PlaceCase, Value
from verve.core.verify._place_values import place_value
from verve.core.verify._strict import Expectation


@dataclass(frozen=True, slots=True, kw_only=True)
class Result:
    """One expectation, computed."""

    case: str
    quantity: str
    expected: Value
    computed: Value
    tolerance: float | None
    ok: bool

    @property
    def difference(self) -> float | None:
        """Computed less expected; None unless both are numbers."""
        if _is_number(self.expected) and _is_number(self.computed):
            return float(self.computed) - float(self.expected)  # type: ignore[arg-type]
        return None


def _is_number(value: Value) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)


def _holds(expected: Value, computed: Value, tolerance: float | None) -> bool:
    if tolerance is not None and _is_number(expected) and _is_number(computed):
        return abs(float(computed) - float(expected)) <= tolerance  # type: ignore[arg-type]
    return type(expected) is type(computed) and expected == computed


def _line_value(case: LineCase, expectation: LineExpectation, readings: _Readings) -> Value:
    at = len(case.line) - 1 if expectation.at is None else expectation.at
    reading = readings.at(expectation.hz, expectation.reference_hz)
    grid_points = len(reading.band.hz)
    match expectation.quantity:
        case "peak_dbu":
            return reading.peak_dbu(at)
        case "peak_dbfs":
            return reading.peak_dbfs()
        case "response_db":
            return response_db(reading.junction(at), grid_points, grid_points + 1)
        case "loss_db":
            return reading.loss_db(at)
        case "source_impedance_ohm":
            return source_impedance_ohm(reading.junction(at), grid_points)
        case "noise_dbu":
            return reading.noise_dbu(at)
        case "noise_dba":
            return reading.noise_dba(at)
        case "noise_dbfs":
            return reading.noise_dbfs()
        case "noise_dbfs_a":
            return reading.noise_dbfs_a()
        case "snr_db":
            return reading.snr_db(at)
        case "headroom_db":
            return reading.headroom_db(at)
        case "first_to_clip":
            first = reading.first_to_clip()
            return None if first is None else case.line[first].stage
        case _:
            shares = reading.noise_shares()
            return None if shares is None else shares[at]


class _Readings:
    """The line of one case, solved once for each pair of frequencies asked for."""

    def __init__(self, case: LineCase) -> None:
        self._stages = case.line
        self._found: dict[tuple[float, float], Reading] = {}

    def at(self, hz: float, reference_hz: float) -> Reading:
        key = (hz, reference_hz)
        if key not in self._found:
            self._found[key] = read_at(self._stages, key)
        return self._found[key]


def _two_paths_value(case: TwoPathsCase, quantity: str) -> Value:
    late_ms = case.delay_ms
    if late_ms is None:
        assert case.path_difference_m is not None
        late_ms = delay_ms(case.path_difference_m)
    if quantity == "delay_ms":
        return late_ms
    if quantity == "first_null_hz":
        return first_null_hz(late_ms)
    if quantity == "ripple_db":
        return ripple_db(case.level_difference_db)
    assert case.sample_rate_hz is not None
    return late_ms * case.sample_rate_hz / 1000.0


def _phantom_value(case: PhantomCase, quantity: str) -> Value:
    if quantity == "voltage_at_microphone_v":
        return voltage_at_microphone_v(
            supply_v=case.supply_v,
            feed_resistance_ohm=case.feed_resistance_ohm,
            current_ma=case.current_ma,
        )
    total = total_current_ma(current_ma=case.current_ma, microphones=case.microphones)
    return total if quantity == "total_ma" else is_within_budget(total, case.budget_ma)


def _spacing_value(case: SpacingCase, quantity: str) -> Value:
    if quantity == "level_difference_db":
        return spacing_level_difference_db(case.near_m, case.far_m)
    if quantity == "ratio":
        return case.far_m / case.near_m
    return delay_ms(case.far_m - case.near_m)


def _other_value(case: Case, quantity: str) -> Value:
    """Kinds other than `line`."""
    if isinstance(case, PlaceCase):
        return place_value(case, quantity)
    if isinstance(case, RoundTripCase):
        return round_trip_ms(RoundTrip(**case.model_dump(exclude={"name", "kind", "expect"})))
    if isinstance(case, RoundTripFitCase):
        pairs = [(m.buffer_frames, m.round_trip_ms) for m in case.measured]
        return fitted_round_trip_ms(case.sample_rate_hz, pairs, case.predict_buffer_frames)
    if isinstance(case, PhantomCase):
        return _phantom_value(case, quantity)
    if isinstance(case, TwoPathsCase):
        return _two_paths_value(case, quantity)
    if isinstance(case, SpacingCase):
        return _spacing_value(case, quantity)
    if isinstance(case, HeadphoneCase):
        return headphone_spl_db(
            sensitivity_db_per_mw=case.sensitivity_db_per_mw,
            impedance_ohm=case.impedance_ohm,
            output_impedance_ohm=case.output_impedance_ohm,
            drive_dbu=case.drive_dbu,
        )
    assert isinstance(case, ExposureCase)
    return allowed_hours(
        level_dba=case.level_dba,
        criterion_dba=case.criterion_dba,
        criterion_hours=case.criterion_hours,
        exchange_db=case.exchange_db,
    )


def _result(case: Case, expectation: Expectation, computed: Value) -> Result:
    return Result(
        case=case.name,
        quantity=expectation.quantity,
        expected=expectation.value,
        computed=computed,
        tolerance=expectation.tolerance,
        ok=_holds(expectation.value, computed, expectation.tolerance),
    )


def run_case(case: Case) -> tuple[Result, ...]:
    """Every expectation of one case.

    raises: InputError if its numbers are so large that nothing finite can be computed
    """
    results = []
    readings = _Readings(case) if isinstance(case, LineCase) else None
    for index, expectation in enumerate(case.expect):
        place = f'case "{case.name}": expect[{index}]'
        try:
            if isinstance(case, LineCase) and isinstance(expectation, LineExpectation):
                assert readings is not None
                computed = _line_value(case, expectation, readings)
            else:
                computed = _other_value(case, expectation.quantity)
        except ArithmeticError as error:
            raise InputError(place, "must be computable in finite numbers") from error
        if isinstance(computed, float) and not math.isfinite(computed):
            raise InputError(place, "must be computable in finite numbers", computed)
        results.append(_result(case, expectation, computed))
    return tuple(results)


def run_cases(cases: Sequence[Case]) -> tuple[Result, ...]:
    """Every expectation of every case, in order."""
    return tuple(result for case in cases for result in run_case(case))
