"""One reducer for all figures: the same for every size of block, and for stretches that were read apart."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from verve.core.errors import InputError
from verve.core.measure import Coming, Meter, Recording, Stretch
from verve.core.units import FloatArray

RATE_HZ = 8_000
METER = Meter(channels=2, rate_hz=RATE_HZ, bit_depth=24)


def made() -> FloatArray:
    """Thirteen seconds with a pause that hums, clipped tops, a gap and a block twice, each across a cell."""
    rng = np.random.default_rng(11)
    t = np.arange(13 * RATE_HZ) / RATE_HZ
    wave = 0.3 * np.sin(2 * np.pi * 311.0 * t) + 0.1 * np.sin(2 * np.pi * 733.0 * t)
    wave *= 1.0 + 0.5 * np.sin(2 * np.pi * 0.7 * t)
    wave[int(5.4 * RATE_HZ) : int(9.1 * RATE_HZ)] = 0.0
    wave += 0.001 * np.sin(2 * np.pi * 50.02 * t) + 0.0001 * rng.standard_normal(len(t))
    both = np.stack([wave, np.roll(wave, 3)])
    both[0, 3 * RATE_HZ : 5 * RATE_HZ] = np.clip(
        1.7 * both[0, 3 * RATE_HZ : 5 * RATE_HZ], -0.5, 0.5
    )
    both[1, 4 * RATE_HZ - 50 : 4 * RATE_HZ + 60] = 0.0
    at = 12 * RATE_HZ - 40
    both[1, at : at + 100] = both[1, at - 100 : at]
    return np.asarray(both, dtype=np.float32)


SIGNAL = made()


def read(cuts: Sequence[int]) -> Stretch[Coming]:
    state = METER.start()
    for first, last in itertools.pairwise([0, *cuts, SIGNAL.shape[1]]):
        state = METER.fold(state, SIGNAL[:, first:last])
    return state


WHOLE = METER.result(read([]))


def same(found: Recording, expected: Recording) -> None:
    assert found == expected
    for name in ("a_weighted", "momentary_lufs", "short_term_lufs"):
        one, other = getattr(found.course, name), getattr(expected.course, name)
        assert np.array_equal(one, other), name


PLACES = st.integers(0, SIGNAL.shape[1]) | st.sampled_from(
    [4 * RATE_HZ, 4 * RATE_HZ + 3, 8 * RATE_HZ, 12 * RATE_HZ - 1, 12 * RATE_HZ + 20]
)


def test_everything_that_was_put_in_is_found() -> None:
    left, right = WHOLE.channels
    assert left.clipped_frames > 300
    assert left.clip_level_dbfs == pytest.approx(-6.02, abs=0.05)
    assert right.clipped_runs == ()
    assert {(one.kind, one.frames) for one in right.dropouts} >= {("repeat", 100)}
    assert any(one.kind == "gap" and abs(one.frames - 110) <= 3 for one in right.dropouts)
    assert left.hum.mains_hz == 50
    assert left.hum.hz == pytest.approx(50.02, abs=0.02)
    assert left.hum.level_dbfs == pytest.approx(-60.0, abs=0.3)
    assert left.noise_dbfs_a is not None
    assert WHOLE.pair is not None
    assert not WHOLE.pair.is_mono
    assert WHOLE.programme is not None


@settings(max_examples=12)
@given(st.lists(PLACES, max_size=12).map(sorted))
def test_figures_do_not_depend_on_the_blocks(cuts: list[int]) -> None:
    same(METER.result(read(cuts)), WHOLE)


@settings(max_examples=12)
@given(
    st.lists(PLACES, max_size=4).map(sorted),
    st.lists(PLACES, min_size=1, max_size=5).map(sorted),
)
def test_stretches_that_were_read_apart_are_merged_to_the_whole(
    inner: list[int], outer: list[int]
) -> None:
    """Across a clipped run, a pause and a gap too."""
    merged: Stretch[Coming] | None = None
    for first, last in itertools.pairwise([0, *outer, SIGNAL.shape[1]]):
        state = METER.start(first)
        for begin, end in itertools.pairwise(
            [first, *[c for c in inner if first < c < last], last]
        ):
            state = METER.fold(state, SIGNAL[:, begin:end])
        merged = state if merged is None else METER.merge(merged, state)
    assert merged is not None
    same(METER.result(merged), WHOLE)


def test_merging_is_the_same_in_every_order() -> None:
    cuts = [0, 31_000, 32_500, 70_001, SIGNAL.shape[1]]
    parts = [
        METER.fold(METER.start(first), SIGNAL[:, first:last])
        for first, last in itertools.pairwise(cuts)
    ]
    from_right = parts[-1]
    for part in reversed(parts[:-1]):
        from_right = METER.merge(part, from_right)
    same(METER.result(from_right), WHOLE)


def test_stretches_that_do_not_touch_are_not_merged() -> None:
    first = METER.fold(METER.start(0), SIGNAL[:, :1000])
    second = METER.fold(METER.start(2000), SIGNAL[:, 2000:3000])
    with pytest.raises(InputError, match="begin"):
        METER.merge(first, second)
    with pytest.raises(InputError, match="first frame"):
        METER.result(second)
    with pytest.raises(InputError, match="at least one frame"):
        METER.result(METER.start())
    with pytest.raises(InputError, match="2 channels"):
        METER.fold(METER.start(), SIGNAL[:1, :10])


def test_a_state_can_be_looked_at_while_it_goes_on() -> None:
    state = METER.fold(METER.start(), SIGNAL[:, :50_000])
    once = METER.result(state)
    METER.fold(state, SIGNAL[:, 50_000:])
    same(METER.result(state), once)
