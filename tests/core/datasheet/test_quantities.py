"""Figures as data sheets word them, against values worked out by hand."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from verve.core.datasheet import FORMS, SheetKind, understand
from verve.core.errors import InputError
from verve.core.kind import numbers_of
from verve.core.quantities import (
    amperes,
    dial,
    dynamic_range,
    farads,
    gain_range,
    henries,
    hertz,
    least_volts,
    level_dbu,
    noise,
    ohms,
    pads,
    ratio,
    response,
    self_noise,
    sensitivity,
    spl,
    white_to_a_db,
)

A_OF_WHITE_DB = white_to_a_db()


@pytest.mark.parametrize(
    ("read", "text", "value"),
    [
        (sensitivity, "2 mV/Pa", 2.0),
        (sensitivity, "0.0019 V/Pa", 1.9),
        (sensitivity, "1,9 mV/Pa ±2 dB", 1.9),
        (sensitivity, "−54 dBV/Pa", 1000.0 * 10 ** (-54 / 20)),
        (sensitivity, "-54 dB re 1 V/Pa at 1 kHz", 1000.0 * 10 ** (-54 / 20)),
        (sensitivity, "-54 dB (0 dB = 1 V/Pa)", 1000.0 * 10 ** (-54 / 20)),
        (sensitivity, "-54 dBV/Pa (1.9 mV)", 1000.0 * 10 ** (-54 / 20)),
        # 1 µbar is 0.1 Pa, so a tenth of the sound: the same microphone reads 20 dB lower.
        (sensitivity, "−74 dB re 1 V/µbar", 1000.0 * 10 ** (-54 / 20)),
        (sensitivity, "-74 dBV/ubar", 1000.0 * 10 ** (-54 / 20)),
        (level_dbu, "+9 dBu", 9.0),
        (level_dbu, "0 dBV", 20 * math.log10(1 / math.sqrt(0.6))),
        (level_dbu, "7.74597 V RMS", 20.0),
        (level_dbu, "775 mV", 20 * math.log10(0.775 / math.sqrt(0.6))),
        (level_dbu, "2 V pp", 20 * math.log10((1 / math.sqrt(2)) / math.sqrt(0.6))),
        (level_dbu, "1 V peak", 20 * math.log10((1 / math.sqrt(2)) / math.sqrt(0.6))),
        (self_noise, "16 dB(A)", 16.0),
        (self_noise, "16 dB-A", 16.0),
        (self_noise, "78 dB S/N re 94 dB SPL", 16.0),
        (spl, "130 dB SPL (0.5 % THD)", 130.0),
        (dynamic_range, "110 dB(A)", 110.0),
        (dynamic_range, "107 dB unweighted", 107.0 - A_OF_WHITE_DB),
        (ohms, "200 Ω", 200.0),
        (ohms, "4k7", 4700.0),
        (ohms, "4K7", 4700.0),
        (ohms, "1.5 kohms", 1500.0),
        (ohms, "1 MΩ", 1e6),
        (farads, "120 pF", 1.2e-10),
        (farads, "22n", 2.2e-8),
        (henries, "4.4 H", 4.4),
        (hertz, "80 Hz, 12 dB/oct", 80.0),
        (amperes, "4 mA", 0.004),
        (least_volts, "44 V", 44.0),
        (least_volts, "48 V ±4 V", 44.0),
        (least_volts, "48 V ± 10 %", 43.2),
        (least_volts, "11 to 52 V", 11.0),
        (ratio, "12:1", 12.0),
        (ratio, "1 : 10", 0.1),
    ],
)
def test_a_figure_is_understood(
    read: Callable[[str, str], object], text: str, value: float
) -> None:
    assert read("Figure", text).value == pytest.approx(value, rel=1e-6)  # type: ignore[attr-defined]


@pytest.mark.parametrize(
    ("text", "ein_dbu", "source_ohm"),
    [
        ("−128 dBu, 150 Ω, unweighted, 20 Hz to 20 kHz", -128.0, 150.0),
        ("-128 dBu A-weighted, 200 ohms", -128.0 - A_OF_WHITE_DB, 200.0),
        ("-128 dBu(A) (150 Ω)", -128.0 - A_OF_WHITE_DB, 150.0),
        ("-130.2 dBV, 150 Ω unweighted 20Hz-20kHz", -130.2 + 20 * math.log10(1 / 0.6**0.5), 150.0),
        ("-128 dBu, 22 Hz - 22 kHz, 150 Ω", -128.0 + 10 * math.log10(19980 / 21978), 150.0),
        # 4 nV over √19,980 Hz is 0.565 µV.
        ("4 nV/√Hz", 20 * math.log10(4e-9 * math.sqrt(19980) / math.sqrt(0.6)), 0.0),
        ("4 nV/rtHz at 150 Ω", 20 * math.log10(4e-9 * math.sqrt(19980) / math.sqrt(0.6)), 150.0),
        ("1 µV, shorted input, 20 Hz to 20 kHz", 20 * math.log10(1e-6 / math.sqrt(0.6)), 0.0),
    ],
)
def test_a_noise_is_understood(text: str, ein_dbu: float, source_ohm: float) -> None:
    found = noise("Noise", text)
    assert found.ein_dbu == pytest.approx(ein_dbu, abs=2e-3)
    assert found.source_ohm == source_ohm


def test_what_a_noise_does_not_say_is_said_to_be_assumed() -> None:
    assert noise("Noise", "-128 dBu").assumed == (
        "measured with 150 Ω; unweighted; 20 Hz to 20 kHz"
    )
    assert noise("Noise", "-128 dBu, 150 Ω, unweighted, 20 Hz to 20 kHz").assumed == ""


def test_a_weighting_of_white_noise_against_a_plain_sum() -> None:
    hz = np.arange(20.0, 20_000.0, 0.5) + 0.25
    f2 = hz**2
    curve = 12194.217**2 * f2**2
    curve /= (f2 + 20.598997**2) * (f2 + 12194.217**2)
    curve /= np.sqrt((f2 + 107.65265**2) * (f2 + 737.86223**2))
    power = float(np.mean(curve**2)) * 10 ** (2.0 / 10.0)
    assert white_to_a_db() == pytest.approx(10 * math.log10(power), abs=0.01)


@pytest.mark.parametrize(
    ("text", "ends"),
    [
        ("10 to 65 dB", (10.0, 65.0)),
        ("0…60 dB", (0.0, 60.0)),
        ("-10 - 26 dB", (-10.0, 26.0)),
        ("−10–26", (-10.0, 26.0)),
        ("65 dB to 10 dB", (10.0, 65.0)),
        ("56 dB range", (None, 56.0)),
        ("range of 56 dB", (None, 56.0)),
        ("25 dB fixed", (25.0, 25.0)),
    ],
)
def test_a_gain_range_is_understood(text: str, ends: tuple[float | None, float]) -> None:
    found = gain_range("Gain", text)
    assert (found.low_db, found.high_db) == ends


def test_pads_numbers_and_responses() -> None:
    assert pads("Pads", "−20, -10 dB") == (10.0, 20.0)
    assert pads("Pads", "none") == ()
    assert numbers_of("Inputs", "1-2, 5") == (1, 2, 5)
    assert numbers_of("Inputs", "3 1 3") == (1, 3)
    points = response("Response", "63 Hz −6, 250 0, 1k 0, 4 kHz +3")
    # 125 Hz lies half-way between 63 and 250 Hz on a scale of octaves, but for the rounding of 63.
    assert points[2] == pytest.approx(-6 * math.log(2) / math.log(250 / 63), abs=1e-5)
    assert points[0] == -6.0
    assert points[-1] == 3.0
    assert points[6] == pytest.approx(1.5)


def test_a_measured_knob_goes_from_seven_over_noon_to_five() -> None:
    points = dial("Knob", "7: 0 dB, 12 30, half past 2: 45 dB, 5 o’clock 60 dB")
    assert points == ((7.0, 0.0), (12.0, 30.0), (14.5, 45.0), (17.0, 60.0))


@pytest.mark.parametrize(
    ("read", "text", "says"),
    [
        (sensitivity, "-54 dB", "relative to"),
        (sensitivity, "0 mV/Pa", "greater than 0"),
        (level_dbu, "loud", "must be a level"),
        (level_dbu, "3 V xx", "V RMS, V peak or V pp"),
        (noise, "-128 dB", "must be a noise like"),
        (self_noise, "25 dB CCIR", "A-weighted"),
        (gain_range, "lots", "must be like 10 to 65 dB"),
        (ohms, "-3", "at least 0"),
        (ratio, "0:1", "ratio like"),
        (pads, "soft", "must be like"),
        (numbers_of, "0-3", "1 to 64"),
        (numbers_of, "one", "numbers of inputs"),
        (response, "63 Hz low", "points like"),
        (spl, "99999 dB", "within 400"),
        (dial, "7: 0 dB", "two points"),
        (dial, "7: 0, 12: 0", "must rise"),
        (dial, "noon", "points like"),
    ],
)
def test_what_is_no_figure_is_refused_with_the_rule(
    read: Callable[[str, str], object], text: str, says: str
) -> None:
    with pytest.raises(InputError, match=says) as caught:
        read("Figure", text)
    assert caught.value.place == "Figure"


@given(
    st.sampled_from(sorted(FORMS)),
    st.dictionaries(
        st.sampled_from([f.key for form in FORMS.values() for f in form.fields]),
        st.one_of(
            st.text(max_size=30),
            st.from_regex(r"[-+]?\d{1,4}([.,]\d)? ?(dBu|dBV|dB|dBA|mV/Pa|Ω|kΩ|nV/√Hz|H|pF)?"),
            st.sampled_from(["1-2", "0 to 60 dB", "needs", "all", "pairs"]),
        ),
        max_size=12,
    ),
)
def test_no_sheet_whatever_it_says_breaks_anything(kind: SheetKind, texts: dict[str, str]) -> None:
    sheet = understand(kind, texts)
    assert (sheet.figures is None) == bool(sheet.errors)
    assert set(sheet.rows) <= {field.key for field in FORMS[kind].fields}
