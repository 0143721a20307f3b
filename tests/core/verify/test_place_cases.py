"""Rooms, placement and hearing in validation files: the samples hold, what cannot be is refused at its field."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from verve.core.errors import InputError
from verve.core.verify import read_cases, run_cases

SAMPLES = Path(__file__).parent / "sample-place.json"
PAIR = {"kind": "stereo_pair", "technique": "coincident", "source_angle_deg": 20}
BLEED = {
    "kind": "bleed", "wanted_level_db": 80, "wanted_distance_m": 0.3, "other_level_db": 90,
    "other_distance_m": 2,
}  # fmt: skip
PLACEMENT = {
    "kind": "placement", "microphone_x_m": 1, "microphone_y_m": 2, "source_x_m": 1, "source_y_m": 3,
}  # fmt: skip
DRIVE = {"kind": "headphone_drive", "impedance_ohm": 50, "drive_dbu": 0}


def read(tmp_path: Path, case: dict[str, Any], quantity: str, value: Any = 0.0) -> Any:
    path = tmp_path / "cases.json"
    expect = [{"quantity": quantity, "value": value, "tolerance": None}]
    body = {
        "format": "verve-validation",
        "version": 1,
        "cases": [{"name": "this", "expect": expect} | case],
    }
    path.write_text(json.dumps(body))
    (result,) = run_cases(read_cases(path))
    return result.computed


def test_every_sample_holds() -> None:
    results = run_cases(read_cases(SAMPLES))
    assert [r for r in results if not r.ok] == []
    assert len(results) == 39


@pytest.mark.parametrize(
    ("case", "quantity", "field"),
    [
        ({"kind": "polar", "pressure_share": 1.2}, "level_db", "pressure_share"),
        ({"kind": "polar", "pressure_share": "kidney"}, "level_db", "pressure_share"),
        ({"kind": "polar", "pressure_share": 1, "distance_m": 0}, "level_db", "distance_m"),
        ({"kind": "reverberation", "volume_m3": 50, "surfaces": []}, "absorption_m2", "surfaces"),
        (
            {
                "kind": "reverberation",
                "volume_m3": 50,
                "surfaces": [{"area_m2": 1, "absorption": 1.1}],
            },
            "absorption_m2",
            "absorption",
        ),
        (
            {
                "kind": "reverberation",
                "volume_m3": 50,
                "surfaces": [{"area_m2": 0, "absorption": 1}],
            },
            "mean_absorption",
            "surfaces",
        ),
        (BLEED | {"volume_m3": 50}, "bleed_db", "volume_m3"),
        (BLEED | {"rt60_s": 0.5}, "bleed_db", "volume_m3"),
        (
            PLACEMENT | {"source_y_m": 2},
            "distance_m",
            "source_x_m",
        ),
        ({"kind": "sum_of_paths", "level_difference_db": 3}, "peak_db", "delay_ms"),
        (
            {
                "kind": "sum_of_paths",
                "level_difference_db": 3,
                "delay_ms": 1,
                "path_difference_m": 1,
            },
            "peak_db",
            "delay_ms",
        ),
        (DRIVE, "spl_db", "sensitivity_db_per_mw"),
        (DRIVE | {"sensitivity_db_per_mw": 96, "pairs": 1.5}, "spl_db", "pairs"),
        (PAIR | {"spacing_m": 0.1}, "mono_db", "spacing_m"),
        (PAIR | {"technique": "middle_side", "opening_deg": 90}, "mono_db", "opening_deg"),
        (PAIR | {"technique": "middle_side", "spacing_m": 1}, "mono_db", "spacing_m"),
        (
            {"kind": "exposure_dose", "spans": [{"level_dba": 90, "hours": -1}]},
            "dose_percent",
            "hours",
        ),
        (PAIR, "dose_percent", "expect[0].quantity"),
        (PAIR | {"angle": 3}, "mono_db", "angle"),
    ],
)
def test_what_cannot_be_is_refused_at_its_field(
    tmp_path: Path, case: dict[str, Any], quantity: str, field: str
) -> None:
    with pytest.raises(InputError) as error:
        read(tmp_path, case, quantity)
    assert 'case "this"' in error.value.place
    assert field in error.value.place


@pytest.mark.parametrize(
    ("case", "quantity", "value"),
    [
        ({"kind": "polar", "pressure_share": "figure_eight", "angle_deg": 90}, "level_db", None),
        (
            {"kind": "polar", "pressure_share": "figure_eight", "angle_deg": 270},
            "is_inverted",
            False,
        ),
        ({"kind": "polar", "pressure_share": 0.6}, "null_angle_deg", None),
        (
            {
                "kind": "reverberation",
                "volume_m3": 50,
                "surfaces": [{"area_m2": 9, "absorption": 0}],
            },
            "rt60_sabine_s",
            None,
        ),
        (
            {
                "kind": "reverberation",
                "volume_m3": 50,
                "surfaces": [{"area_m2": 9, "absorption": 1}],
            },
            "rt60_eyring_s",
            0.0,
        ),
        ({"kind": "sum_of_paths", "level_difference_db": 0, "delay_ms": 1}, "ripple_db", None),
        ({"kind": "sum_of_paths", "level_difference_db": 3, "delay_ms": 0}, "ripple_db", 0.0),
        (
            {"kind": "sum_of_paths", "level_difference_db": 3, "delay_ms": 0},
            "first_null_hz",
            None,
        ),
        ({"kind": "exposure_dose", "spans": []}, "average_dba", None),
        (
            {
                "kind": "exposure_dose",
                "spans": [{"level_dba": 100, "hours": 9}],
                "next_level_dba": 80,
            },
            "remaining_hours",
            0.0,
        ),
        (
            {
                "kind": "feedback",
                "microphone_level_db": 90,
                "loudspeaker_at_1m_db": 90,
                "loudspeaker_distance_m": 1,
                "pressure_share": 0.5,
                "angle_deg": 180,
            },
            "is_safe",
            True,
        ),
        (
            PAIR | {"pressure_share": 0, "opening_deg": 180},
            "mono_db",
            None,
        ),
    ],
)
def test_where_no_number_answers_or_it_is_exact(
    tmp_path: Path, case: dict[str, Any], quantity: str, value: Any
) -> None:
    assert read(tmp_path, case, quantity) == value
