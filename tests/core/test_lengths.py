"""Lengths as people write them, in both systems."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from verve.core.errors import InputError
from verve.core.quantities import metres


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("0.6", 0.6), ("0,6 m", 0.6), ("60 cm", 0.6), ("600mm", 0.6), ("2 ft", 0.6096),
        ("2 ft 3 in", 0.6858), ("2'3\"", 0.6858), ("2′ 3″", 0.6858), ("27 inches", 0.6858), ("1 foot", 0.3048),
        ("−0.5 m", -0.5), ("-20 cm", -0.2), (".5", 0.5), ("1 m 20 cm", 1.2), ("", None), ("  ", None),
    ],
)  # fmt: skip
def test_a_length_is_read(text: str, expected: float | None) -> None:
    found = metres("Distance", text)
    assert found == (None if expected is None else pytest.approx(expected))


@pytest.mark.parametrize(
    "text", ["far", "3 apples", "2 3", "2 ft 3", "1..2", "1 m m", "ft", "--", "-", "--1", "1e3"]
)
def test_what_is_none_is_refused_with_the_rule(text: str) -> None:
    with pytest.raises(InputError, match="must be a length"):
        metres("Distance", text)


@given(
    st.floats(0.0, 500.0),
    st.sampled_from([("m", 1.0), ("cm", 0.01), ("ft", 0.3048), ("in", 0.0254)]),
)
def test_every_unit_is_that_many_metres(value: float, unit: tuple[str, float]) -> None:
    text = f"{value:.3f} {unit[0]}"
    assert metres("x", text) == pytest.approx(float(f"{value:.3f}") * unit[1])
