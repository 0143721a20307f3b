"""One table of text and value: what people type, and what they are shown."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verve.core.errors import InputError
from verve.core.kind import Control, control_text, parse_control


def control(name: str, low: float, high: float, unit: str = "") -> Control:
    return Control(
        owner="o",
        channel="c",
        name=name,
        label=name.title(),
        kind="range",
        value=low,
        effect="does something",
        unit=unit,
        minimum=low,
        maximum=high,
    )


GAIN = control("gain_db", -8.0, 60.0, "dB")
DISTANCE = control("distance_m", 0.02, 10.0, "m")
VOLUME = control("volume_position", 0.0, 1.0)
PAN = control("pan", -1.0, 1.0)
ANGLE = control("angle_deg", 0.0, 180.0, "°")


@pytest.mark.parametrize(
    ("what", "text", "value"),
    [
        (GAIN, "34", 34.0),
        (GAIN, "+34 dB", 34.0),
        (GAIN, " 34dB ", 34.0),
        (GAIN, "-8", -8.0),
        (GAIN, "−8 dB", -8.0),
        (GAIN, "12,5", 12.5),
        (GAIN, ".5", 0.5),
        (GAIN, "7.", 7.0),
        (DISTANCE, "12 cm", 0.12),
        (DISTANCE, "0.12", 0.12),
        (DISTANCE, "1,5 m", 1.5),
        (DISTANCE, "30", 0.3),
        (DISTANCE, "1 ft", 0.3048),
        (DISTANCE, "12 in", 0.3048),
        (DISTANCE, "250 mm", 0.25),
        (VOLUME, "80 %", 0.8),
        (VOLUME, "80%", 0.8),
        (VOLUME, "0.8", 0.8),
        (VOLUME, "80", 0.8),
        (VOLUME, "full up", 1.0),
        (VOLUME, "off", 0.0),
        (PAN, "hard left", -1.0),
        (PAN, "Right", 1.0),
        (PAN, "centre", 0.0),
        (PAN, "30 % left", -0.3),
        (PAN, "30% right", 0.3),
        (PAN, "-0.5", -0.5),
        (ANGLE, "45°", 45.0),
        (ANGLE, "45 deg", 45.0),
        (ANGLE, "45", 45.0),
    ],
)
def test_what_people_type_is_understood(what: Control, text: str, value: float) -> None:
    assert parse_control(what, text) == pytest.approx(value)


@pytest.mark.parametrize(
    ("what", "text", "said"),
    [
        (GAIN, "", "must be -8 to 60 dB"),
        (GAIN, "loud", "must be -8 to 60 dB; got 'loud'"),
        (GAIN, "61", "must be -8 to 60 dB"),
        (GAIN, "3 m", "must be in dB"),
        (GAIN, "1e3", "must be"),
        (GAIN, "nan", "must be"),
        (GAIN, "--3", "must be"),
        (DISTANCE, "3 dB", "must be in m"),
        (DISTANCE, "0 cm", "must be 0.02 to 10 m"),
        (DISTANCE, "11 m", "must be 0.02 to 10 m"),
        (VOLUME, "120 %", "must be 0 to 1"),
        (PAN, "2", "must be -1 to 1"),
        (PAN, "3 dB", "must be in plain numbers"),
        (ANGLE, "200", "must be 0 to 180 °"),
        (ANGLE, "3 dB", "must be in °"),
    ],
)
def test_what_cannot_be_is_refused_with_its_rule(what: Control, text: str, said: str) -> None:
    with pytest.raises(InputError, match=said):
        parse_control(what, text)


@pytest.mark.parametrize(
    ("what", "value", "text"),
    [
        (GAIN, 34.0, "+34 dB"),
        (GAIN, -8.0, "−8 dB"),
        (GAIN, 12.5, "+12.5 dB"),
        (GAIN, 0.0, "0 dB"),
        (DISTANCE, 0.12, "12 cm"),
        (DISTANCE, 1.5, "150 cm"),
        (VOLUME, 1.0, "full up"),
        (VOLUME, 0.8, "80%"),
        (PAN, -1.0, "hard left"),
        (PAN, 0.0, "centre"),
        (PAN, 0.3, "30% right"),
        (ANGLE, 45.0, "45°"),
        (control("pad_db", 0.0, 20.0), 10.0, "−10 dB"),
        (control("pad_db", 0.0, 20.0), 0.0, "out"),
        (GAIN, True, "on"),
        (GAIN, False, "off"),
        (GAIN, None, "none"),
        (GAIN, "line", "line"),
    ],
)
def test_what_people_are_shown(what: Control, value: object, text: str) -> None:
    assert control_text(what, value) == text


@given(value=st.floats(-8.0, 60.0).map(lambda v: round(v, 1)))
def test_a_gain_survives_being_shown_and_typed(value: float) -> None:
    assert parse_control(GAIN, control_text(GAIN, value)) == pytest.approx(value)


@given(text=st.text(max_size=20))
def test_whatever_is_typed_is_understood_or_refused_in_words(text: str) -> None:
    for what in (GAIN, DISTANCE, VOLUME, PAN):
        try:
            value = parse_control(what, text)
        except InputError as error:
            assert what.label in str(error)  # noqa: PT017 - either way is right, no third one
        else:
            assert what.accepts(value)
