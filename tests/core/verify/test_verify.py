"""`verve verify`: the sample cases hold, wrong numbers are told, malformed files are refused."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verve.core.errors import FileError, InputError
from verve.core.sheets import verification_data, verification_text
from verve.core.verify import read_cases, run_cases

SAMPLES = Path(__file__).parent / "sample-cases.json"

LINE: list[dict[str, Any]] = [
    {"stage": "line_source", "peak_dbu": 4, "output_impedance_ohm": 100},
    {"stage": "cable", "length_m": 3, "capacitance_f_per_m": 1e-10},
    {"stage": "converter", "full_scale_dbu": 18},
]
PEAK = {"quantity": "peak_dbfs", "value": -14.0864, "tolerance": 0.05}


def case(**changes: Any) -> dict[str, Any]:
    return {"name": "a case", "kind": "line", "line": LINE, "expect": [PEAK]} | changes


def written(tmp_path: Path, *cases: Any, **top: Any) -> Path:
    path = tmp_path / "cases.json"
    body = {"format": "verve-validation", "version": 1, "cases": list(cases)} | top
    path.write_text(json.dumps(body))
    return path


def test_every_sample_case_holds() -> None:
    results = run_cases(read_cases(SAMPLES))
    assert [r for r in results if not r.ok] == []
    assert len(results) > 100


def test_a_wrong_expectation_is_off(tmp_path: Path) -> None:
    wrong = PEAK | {"value": -13.9}
    results = run_cases(read_cases(written(tmp_path, case(expect=[PEAK, wrong]))))
    assert [r.ok for r in results] == [True, False]
    text = verification_text(results).splitlines()
    assert text[0].endswith("| ok")
    assert text[1].endswith("| off")
    assert text[2] == "1 passed, 1 failed"
    data = verification_data(results)
    assert (data["passed"], data["failed"]) == (1, 1)
    assert set(data["results"][0]) == {
        "case",
        "quantity",
        "expected",
        "computed",
        "tolerance",
        "ok",
    }


def test_a_tolerance_of_null_asks_for_equality(tmp_path: Path) -> None:
    first = {"quantity": "first_to_clip", "value": "converter", "tolerance": None}
    none = {"quantity": "headroom_db", "at": 0, "value": None, "tolerance": None}
    results = run_cases(read_cases(written(tmp_path, case(expect=[first, none]))))
    assert all(r.ok for r in results)


def test_a_null_where_a_number_is_computed_is_off(tmp_path: Path) -> None:
    wrong = {"quantity": "headroom_db", "value": None, "tolerance": 0.1}
    (result,) = run_cases(read_cases(written(tmp_path, case(expect=[wrong]))))
    assert not result.ok
    assert result.difference is None


@pytest.mark.parametrize(
    ("changed", "said"),
    [
        ({"name": None}, "name"),
        ({"kind": "circle"}, "kind|must be one of"),
        ({"line": []}, "line: must have at least 1"),
        ({"line": "cable"}, "line: must be a list"),
        ({"extra": 1}, "extra: is not a known key"),
        ({"expect": [PEAK | {"quantity": "loudness"}]}, "must be a quantity of line"),
        ({"expect": [PEAK | {"at": 7}]}, "must be a stage of the line, 0 to 2"),
        ({"expect": [PEAK | {"at": -1}]}, "at: must be at least 0"),
        ({"expect": [PEAK | {"at": 1.5}]}, "at: must be a whole number"),
        ({"expect": [PEAK | {"at": 1}]}, "must be asked at a converter"),
        ({"expect": [PEAK | {"hz": 0}]}, "hz: must be greater than 0"),
        ({"expect": [PEAK | {"tolerance": -1}]}, "tolerance: must be at least 0"),
        ({"expect": [{"quantity": "peak_dbfs", "value": 1}]}, "tolerance: is required"),
        ({"expect": [PEAK | {"quantity": "loss_db"}]}, "must not be asked at a converter"),
    ],
)
def test_a_malformed_case_is_refused_with_its_name_and_field(
    tmp_path: Path, changed: dict[str, Any], said: str
) -> None:
    with pytest.raises(InputError, match=said) as caught:
        run_cases(read_cases(written(tmp_path, case(**changed))))
    if changed.get("name", "a case") is not None:
        assert 'case "a case"' in str(caught.value)


@pytest.mark.parametrize(
    ("stage", "key", "value", "said"),
    [
        (0, "output_impedance_ohm", -600, "output_impedance_ohm: must be at least 0; got -600"),
        (0, "output_impedance_ohm", None, "output_impedance_ohm: must be a number"),
        (0, "output_impedance_ohm", "600", "output_impedance_ohm: must be a number"),
        (0, "output_impedance_ohm", True, "output_impedance_ohm: must be a number"),
        (0, "colour", 1, "colour: is not a known key"),
        (0, "stage", "tape", "must be one of"),
        (1, "length_m", -3, "length_m: must be at least 0"),
        (1, "capacitance_f_per_m", -1e-10, "capacitance_f_per_m: must be at least 0"),
        (2, "input_impedance_ohm", 0, "input_impedance_ohm: must be greater than 0"),
        (2, "bit_depth", 24.5, "bit_depth: must be a whole number"),
        (2, "bit_depth", 0, "bit_depth: must be at least 1"),
    ],
)
def test_a_malformed_stage_is_refused_at_its_key(
    tmp_path: Path, stage: int, key: str, value: Any, said: str
) -> None:
    line = [dict(item) for item in LINE]
    line[stage][key] = value
    with pytest.raises(InputError, match=said) as caught:
        read_cases(written(tmp_path, case(line=line)))
    assert "a case" in str(caught.value)


def test_a_missing_key_is_named(tmp_path: Path) -> None:
    line = [dict(item) for item in LINE]
    del line[0]["peak_dbu"]
    with pytest.raises(InputError, match=r"line\[0\]\.peak_dbu: is required"):
        read_cases(written(tmp_path, case(line=line)))


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "is not JSON"),
        ("{", "is not JSON"),
        ("[]", "must be an object"),
        ("nul", "is not JSON"),
        ('{"format": "verve-session", "version": 1, "cases": []}', "format: must be"),
        ('{"format": "verve-validation", "version": 2, "cases": []}', "version: must be 1"),
        ('{"format": "verve-validation", "version": true, "cases": []}', "version: must be 1"),
        ('{"format": "verve-validation", "version": 1}', "cases: must be a list"),
        ('{"format": "verve-validation", "version": 1, "cases": [3]}', "cases"),
        ('{"format": "verve-validation", "version": 1, "cases": [], "x": 1}', "x: is not a known"),
        ('{"version": 1, "version": 1}', "version: must stand only once"),
        ('{"format": "verve-validation", "version": NaN, "cases": []}', "must be a finite number"),
        ("[" * 100_000, "is not JSON"),
    ],
)
def test_whatever_the_file_holds_it_is_one_clear_sentence(
    tmp_path: Path, text: str, said: str
) -> None:
    path = tmp_path / "cases.json"
    path.write_text(text)
    with pytest.raises((InputError, FileError), match=said) as caught:
        read_cases(path)
    assert len(str(caught.value).splitlines()) == 1


def test_infinity_and_huge_numbers_are_refused(tmp_path: Path) -> None:
    path = written(tmp_path, case())
    path.write_text(path.read_text().replace("0.05", "Infinity"))
    with pytest.raises(InputError, match="finite"):
        read_cases(path)
    line = [dict(item) for item in LINE]
    line[0]["peak_dbu"] = 1e9
    with pytest.raises(InputError, match="finite numbers"):
        run_cases(read_cases(written(tmp_path, case(line=line))))


def test_a_binary_or_absent_file_is_told(tmp_path: Path) -> None:
    path = tmp_path / "cases.json"
    path.write_bytes(b"\xff\xfe\x00\x01")
    with pytest.raises(FileError, match="is not text"):
        read_cases(path)
    with pytest.raises(FileError, match="cannot be read"):
        read_cases(tmp_path / "none.json")


@pytest.mark.parametrize(
    ("body", "said"),
    [
        ({"kind": "two_paths", "level_difference_db": 0}, "must stand alone"),
        (
            {"kind": "two_paths", "level_difference_db": 0, "delay_ms": 1, "path_difference_m": 1},
            "alone",
        ),
        ({"kind": "spacing", "near_m": 0, "far_m": 1}, "near_m: must be greater than 0"),
        ({"kind": "phantom", "current_ma": -1}, "current_ma: must be at least 0"),
        ({"kind": "exposure", "level_dba": 90, "exchange_db": 0}, "exchange_db"),
        ({"kind": "headphone", "impedance_ohm": 0}, "impedance_ohm|is required"),
        ({"kind": "round_trip", "sample_rate_hz": 0, "buffer_frames": 64}, "sample_rate_hz"),
        ({"kind": "round_trip", "sample_rate_hz": 48000, "buffer_frames": 1.5}, "buffer_frames"),
        (
            {
                "kind": "round_trip_fit",
                "sample_rate_hz": 48000,
                "measured": [],
                "predict_buffer_frames": 64,
            },
            "measured",
        ),
    ],
)
def test_other_kinds_are_checked_too(tmp_path: Path, body: dict[str, Any], said: str) -> None:
    with pytest.raises(InputError, match=said):
        read_cases(written(tmp_path, {"name": "another", "expect": []} | body))


def test_frames_need_a_sample_rate(tmp_path: Path) -> None:
    frames = {"quantity": "frames", "value": 48, "tolerance": 0.1}
    body = {"name": "c", "kind": "two_paths", "delay_ms": 1, "level_difference_db": 0}
    with pytest.raises(InputError, match="sample_rate_hz: is required for frames"):
        read_cases(written(tmp_path, body | {"expect": [frames]}))
    (result,) = run_cases(
        read_cases(written(tmp_path, body | {"expect": [frames], "sample_rate_hz": 48000}))
    )
    assert result.ok


@given(
    junk=st.recursive(
        st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=5),
        lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=5), inner),
        max_leaves=8,
    ),
    key=st.sampled_from(["name", "kind", "line", "expect"]),
)
def test_no_case_whatever_it_holds_ends_in_a_traceback(
    junk: Any, key: str, tmp_path_factory: pytest.TempPathFactory
) -> None:
    path = tmp_path_factory.mktemp("junk") / "cases.json"
    body = {"format": "verve-validation", "version": 1, "cases": [case(**{key: junk})]}
    path.write_text(json.dumps(body))
    try:
        run_cases(read_cases(path))
    except (InputError, FileError) as error:
        assert str(error)  # noqa: PT017 - either it is read, or it is refused in words
