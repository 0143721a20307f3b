"""Who is it? Where each signal arrives is named, whatever else hears it."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.check.test_guide import RATE_HZ, moments, tone
from verve.core.check import Expected, Who, channels_after
from verve.core.units import FloatArray

EXPECTED = (
    Expected(line="voice", channel=0),
    Expected(line="left", channel=1, partner="right"),
    Expected(line="right", channel=2, partner="left"),
)


def played(*levels: tuple[float, ...], seconds: float = 0.8) -> FloatArray:
    """One after the other: at which level each channel hears it, in dBFS; with rests before and between."""
    rng = np.random.default_rng(2)

    def noise(length_s: float) -> FloatArray:
        return np.asarray(1e-4 * rng.standard_normal((3, round(length_s * RATE_HZ))))

    parts = [noise(1.0)]
    for number, row in enumerate(levels):
        block = noise(seconds)
        for channel, dbfs in enumerate(row):
            block[channel] += tone(seconds, dbfs, 200.0 + 70.0 * number)
        parts += [block, noise(1.2)]
    return np.concatenate(parts, axis=1)


def proved(samples: FloatArray, expected: tuple[Expected, ...] = EXPECTED) -> Who:
    who = Who.of(expected)
    for moment in moments(samples):
        who = who.fold(moment)
    return who


def test_what_arrives_where_it_should_is_proven() -> None:
    who = proved(played((-20, -45, -45), (-50, -18, -32), (-50, -32, -18)))
    assert [one.found for one in who.proofs] == ["proven"] * 3
    assert who.is_done
    assert channels_after(who) == {"voice": 0, "left": 1, "right": 2}
    assert who.proofs[0].level_dbfs == pytest.approx(-20.0, abs=0.5)


def test_left_and_right_swapped_are_named_so() -> None:
    who = proved(played((-20, -45, -45), (-50, -32, -18), (-50, -18, -32)))
    assert [one.found for one in who.proofs] == ["proven", "swapped", "swapped"]
    assert who.proofs[1].other == "right"
    assert channels_after(who) == {"voice": 0, "left": 2, "right": 1}


def test_one_on_the_input_of_another_and_one_on_both() -> None:
    who = proved(played((-45, -20, -45), (-50, -20, -20)))
    assert [one.found for one in who.proofs] == ["elsewhere", "on both"]
    assert who.proofs[0].other == "left"
    assert who.proofs[1].other == "right"


def test_what_nobody_hears_is_nowhere_and_can_be_left_out() -> None:
    rng = np.random.default_rng(5)
    who = proved(1e-4 * rng.standard_normal((3, 14 * RATE_HZ)))
    assert [one.found for one in who.proofs] == ["nowhere"]
    asked = who.asked
    assert asked is not None
    assert asked.line == "left"
    assert who.skip().number == 2
    assert Who.of(EXPECTED).asked is None, "it is quiet first"


def test_what_still_rings_is_no_answer_to_the_next_question() -> None:
    who = proved(played((-20, -45, -45), seconds=3.0))
    assert [one.found for one in who.proofs] == ["proven"]


@settings(max_examples=25, deadline=None)
@given(
    order=st.permutations([0, 1, 2]),
    gains=st.lists(st.floats(-12.0, 6.0), min_size=3, max_size=3),
    bleed=st.floats(-40.0, -14.0),
)
def test_whatever_the_gains_each_is_found_where_it_arrives(
    order: list[int], gains: list[float], bleed: float
) -> None:
    rows = []
    for channel in order:
        rows.append(tuple(-26.0 + (0.0 if c == channel else bleed) + gains[c] for c in range(3)))
    samples = played(*rows)
    # A gain lifts what is quiet on its channel as well.
    noise = np.random.default_rng(9).standard_normal(samples.shape) * 1e-4
    samples += noise * 10.0 ** (np.array(gains)[:, None] / 20.0)
    who = proved(samples)
    assert [one.channel for one in who.proofs] == order
