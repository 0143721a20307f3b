"""Where clipped peaks end."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import signal

from tests.conftest import follow, unplaced
from verve.core.assess import assess
from verve.core.demo import demo_session
from verve.core.network import end_range, overshoot_db


@pytest.mark.parametrize("order", [1, 2, 3, 4])
def test_the_largest_overshoot_is_the_l1_norm_of_a_filter(order: int) -> None:
    # Another way to it: a digital filter far below its rate.
    b, a = signal.butter(order, 100.0, "high", fs=96_000)
    impulse = np.zeros(200_000)
    impulse[0] = 1.0
    norm = np.abs(signal.lfilter(b, a, impulse)).sum()
    assert overshoot_db(order) == pytest.approx(20.0 * np.log10(norm), abs=0.05)


def test_a_wave_as_bad_as_can_be_reaches_it_and_none_exceeds_it() -> None:
    b, a = signal.butter(2, 100.0, "high", fs=96_000)
    impulse = np.zeros(96_000)
    impulse[0] = 1.0
    answer = signal.lfilter(b, a, impulse)
    worst = np.sign(answer[::-1])
    reached = np.abs(signal.lfilter(b, a, worst)).max()
    assert 20.0 * np.log10(reached) == pytest.approx(overshoot_db(2), abs=0.05)
    bounded = np.sign(np.random.default_rng(3).standard_normal(96_000))
    assert np.abs(signal.lfilter(b, a, bounded)).max() <= reached


def test_where_nothing_clips_the_end_is_the_level() -> None:
    for item in assess(unplaced(follow(demo_session()))).lines:
        found = end_range(item.state, "hardest", item.buses)
        assert found is not None
        assert found.low_dbfs == found.high_dbfs == pytest.approx(item.state.input_peak_dbfs)
