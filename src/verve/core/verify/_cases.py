"""A validation file as values: cases of each kind, with their expectations, nothing ignored."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import fields
from pathlib import Path
from typing import Annotated, Any, Literal, NoReturn, get_args

from pydantic import BeforeValidator, Field, TypeAdapter, ValidationError

from verve.core.errors import FileError, InputError, from_validation_error
from verve.core.files import read_text
from verve.core.line import check_order
from verve.core.stages import Converter, Sound, Stage
from verve.core.verify._place_cases import QUANTITIES as PLACE_QUANTITIES
from verve.core.verify._place_cases import PlaceCase, check_place
from verve.core.verify._strict import (
    CaseOf,
    Count,
    Expectation,
    NotNegative,
    Positive,
    Strict,
    whole,
)


class LineExpectation(Expectation):
    """The same on a line, at a stage and a frequency."""

    at: Annotated[int, BeforeValidator(whole), Field(ge=0)] | None = None
    hz: Positive = 1000.0
    reference_hz: Positive = 1000.0


class LineCase(CaseOf):
    """A line of stages."""

    kind: Literal["line"]
    line: Annotated[tuple[Stage, ...], Field(min_length=1)]
    expect: tuple[LineExpectation, ...]


class RoundTripCase(CaseOf):
    """A round trip through buffers, converters and air."""

    kind: Literal["round_trip"]
    sample_rate_hz: Positive
    buffer_frames: Count
    input_buffers: Count = 1
    output_buffers: Count = 1
    fixed_ms: NotNegative = 0.0
    converter_in_frames: NotNegative = 0.0
    converter_out_frames: NotNegative = 0.0
    plugin_frames: Count = 0
    air_m: NotNegative = 0.0


class MeasuredTrip(Strict):
    """One measured round trip."""

    buffer_frames: Count
    round_trip_ms: NotNegative


class RoundTripFitCase(CaseOf):
    """Measured round trips that predict another."""

    kind: Literal["round_trip_fit"]
    sample_rate_hz: Positive
    measured: Annotated[tuple[MeasuredTrip, ...], Field(min_length=1)]
    predict_buffer_frames: Count


class PhantomCase(CaseOf):
    """Equal microphones on one phantom supply."""

    kind: Literal["phantom"]
    supply_v: NotNegative = 48.0
    feed_resistance_ohm: NotNegative = 6810.0
    current_ma: NotNegative
    microphones: Count = 1
    budget_ma: NotNegative | None = None


class TwoPathsCase(CaseOf):
    """One sound by two paths that are added."""

    kind: Literal["two_paths"]
    delay_ms: NotNegative | None = None
    path_difference_m: NotNegative | None = None
    level_difference_db: float
    sample_rate_hz: Positive | None = None


class SpacingCase(CaseOf):
    """One sound at two distances."""

    kind: Literal["spacing"]
    near_m: Positive
    far_m: Positive


class HeadphoneCase(CaseOf):
    """A headphone on an output."""

    kind: Literal["headphone"]
    sensitivity_db_per_mw: float
    impedance_ohm: Positive
    output_impedance_ohm: NotNegative = 0.0
    drive_dbu: float


class ExposureCase(CaseOf):
    """A level for so many hours."""

    kind: Literal["exposure"]
    level_dba: float
    criterion_dba: float = 85.0
    criterion_hours: NotNegative = 8.0
    exchange_db: Positive = 3.0


Case = Annotated[
    LineCase
    | RoundTripCase
    | RoundTripFitCase
    | PhantomCase
    | TwoPathsCase
    | SpacingCase
    | HeadphoneCase
    | ExposureCase
    | PlaceCase,
    Field(discriminator="kind"),
]
_ADAPTER: TypeAdapter[Case] = TypeAdapter(Case)

_IN_DBFS = {"peak_dbfs", "noise_dbfs", "noise_dbfs_a"}
_NOT_AT_CONVERTER = {"loss_db", "source_impedance_ohm"}
_AT_SOUND = {"noise_share", "headroom_db", "first_to_clip"}
QUANTITIES: Mapping[str, frozenset[str]] = {
    "line": frozenset(
        {"peak_dbu", "response_db", "noise_dbu", "noise_dba", "snr_db"}
        | _IN_DBFS
        | _NOT_AT_CONVERTER
        | _AT_SOUND
    ),
    "round_trip": frozenset({"round_trip_ms"}),
    "round_trip_fit": frozenset({"round_trip_ms"}),
    "phantom": frozenset({"voltage_at_microphone_v", "total_ma", "within_budget"}),
    "two_paths": frozenset({"delay_ms", "first_null_hz", "ripple_db", "frames"}),
    "spacing": frozenset({"level_difference_db", "ratio", "delay_ms"}),
    "headphone": frozenset({"spl_db"}),
    "exposure": frozenset({"allowed_hours"}),
    **PLACE_QUANTITIES,
}


_STAGE_TAGS = tuple(
    field.default
    for stage in get_args(get_args(Stage)[0])
    for field in fields(stage)
    if field.name == "stage"
)


def _check_line(case: LineCase, place: str) -> None:
    check_order(case.line, f"{place}: line")
    last = len(case.line) - 1
    for index, expectation in enumerate(case.expect):
        here = f"{place}: expect[{index}]"
        quantity = expectation.quantity
        at = last if expectation.at is None else expectation.at
        if at > last:
            raise InputError(f"{here}.at", f"must be a stage of the line, 0 to {last}", at)
        stage = case.line[at]
        if quantity in _IN_DBFS and not isinstance(stage, Converter):
            raise InputError(f"{here}.quantity", "must be asked at a converter", quantity)
        if quantity in _NOT_AT_CONVERTER and isinstance(stage, Converter):
            raise InputError(f"{here}.quantity", "must not be asked at a converter", quantity)
        if isinstance(stage, Sound) and quantity not in _AT_SOUND:
            raise InputError(f"{here}.quantity", "has no meaning at a sound", quantity)


def _check(case: Case, place: str) -> None:
    known = QUANTITIES[case.kind]
    for index, expectation in enumerate(case.expect):
        if expectation.quantity not in known:
            rule = f"must be a quantity of {case.kind}: {', '.join(sorted(known))}"
            raise InputError(f"{place}: expect[{index}].quantity", rule, expectation.quantity)
        if (
            isinstance(case, TwoPathsCase)
            and expectation.quantity == "frames"
            and case.sample_rate_hz is None
        ):
            raise InputError(f"{place}: sample_rate_hz", "is required for frames")
    if isinstance(case, PlaceCase):
        check_place(case, place)
    if isinstance(case, LineCase):
        _check_line(case, place)
    if isinstance(case, TwoPathsCase) and (case.delay_ms is None) == (
        case.path_difference_m is None
    ):
        raise InputError(f"{place}: delay_ms", "must stand alone or leave it to path_difference_m")


def _no_duplicates(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) != len(pairs):
        names = [name for name, _ in pairs]
        twice = next(name for name in names if names.count(name) > 1)
        raise InputError(twice, "must stand only once in an object")
    return found


def _no_constant(text: str) -> NoReturn:
    raise InputError("a value", "must be a finite number", text)


_LARGEST_BYTES = 200_000_000


def read_cases(path: Path) -> tuple[Case, ...]:
    """All cases of a validation file.

    raises: FileError if it cannot be read; InputError naming case and field if one is malformed
    """
    text = read_text(path, largest_bytes=_LARGEST_BYTES, what="validation cases")
    try:
        data = json.loads(text, object_pairs_hook=_no_duplicates, parse_constant=_no_constant)
    except InputError as error:
        raise InputError(f"{path}: {error.place}", error.rule, error.got) from error
    except (ValueError, RecursionError) as error:
        raise FileError(path, f"is not JSON: {error}", "Mend it at that place.") from error
    if not isinstance(data, dict):
        raise InputError(str(path), "must be an object with format, version and cases")
    if data.get("format") != "verve-validation":
        raise InputError(f"{path}: format", 'must be "verve-validation"', data.get("format"))
    if type(data.get("version")) not in {int, float} or data["version"] != 1:
        # Before anything else is looked at: a newer file may have what this version does not know.
        raise InputError(f"{path}: version", "must be 1", data.get("version"))
    for key in data:
        if key not in {"format", "version", "cases"}:
            raise InputError(f"{path}: {key}", "is not a known key")
    if not isinstance(data.get("cases"), list):
        raise InputError(f"{path}: cases", "must be a list")
    return tuple(_case(item, index) for index, item in enumerate(data["cases"]))


def _case(item: object, index: int) -> Case:
    name = item.get("name") if isinstance(item, dict) else None
    place = f'case "{name}"' if isinstance(name, str) else f"cases[{index}]"
    try:
        # JSON mode: a list is how JSON writes a tuple; strict in everything else.
        case = _ADAPTER.validate_json(json.dumps(item))
    except ValidationError as error:
        raise _named(from_validation_error(error, ""), place, item) from None
    except (ValueError, RecursionError) as error:
        raise InputError(place, f"must be readable: {error}") from error
    _check(case, place)
    return case


def _named(error: InputError, place: str, item: object) -> InputError:
    # The tags of the unions stand in the path too ("line.line[2].cable.length_m"): drop them.
    kind = item.get("kind") if isinstance(item, dict) else None
    path = error.place
    if isinstance(kind, str):
        path = path.removeprefix(kind).removeprefix(".")
    for tag in _STAGE_TAGS:
        path = path.replace(f"].{tag}.", "].")
    return InputError(f"{place}: {path}" if path else place, error.rule, error.got)
