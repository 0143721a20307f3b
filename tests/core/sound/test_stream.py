"""One stream: filters, rendering and measuring give the same for every size of block."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from verve.core.assess import assess
from verve.core.demo import demo_session
from verve.core.network import is_alive
from verve.core.session import Audio, Session, set_audio
from verve.core.sound import ConvolverBank, Renderer
from verve.core.units import FloatArray

RATE_HZ = 48_000


def noise_of(seed: int, rows: int, frames: int) -> FloatArray:
    return np.asarray(np.random.default_rng(seed).standard_normal((rows, frames)) * 0.1)


# ── filters ───────────────────────────────────────────────────────────────────────────────────
@settings(max_examples=30)
@given(
    rows=st.integers(1, 4),
    taps=st.integers(1, 700),
    block=st.sampled_from([16, 64, 128, 500]),
    blocks=st.integers(1, 9),
    seed=st.integers(0, 99),
)
def test_a_bank_of_filters_is_a_convolution(
    rows: int, taps: int, block: int, blocks: int, seed: int
) -> None:
    filters = noise_of(seed, rows, taps)
    signal = noise_of(seed + 1, rows, block * blocks)
    bank = ConvolverBank(filters, block)
    found = np.concatenate(
        [bank(signal[:, at : at + block]) for at in range(0, signal.shape[1], block)], axis=1
    )
    for row in range(rows):
        expected = np.convolve(signal[row], filters[row])[: signal.shape[1]]
        assert found[row] == pytest.approx(expected, abs=1e-9)


# ── rendering ─────────────────────────────────────────────────────────────────────────────────
def renderer(session: Session, block_frames: int) -> Renderer:
    assessment = assess(session)
    lines = [(item.state, is_alive(item.route)) for item in assessment.lines]
    return Renderer(lines, rate_hz=RATE_HZ, block_frames=block_frames)


@pytest.mark.parametrize("block_frames", [128, 1024, 16_384])
def test_rendering_does_not_depend_on_the_size_of_blocks(
    mended: Session, block_frames: int
) -> None:
    frames = 32_768
    whole = renderer(mended, frames)
    playing = noise_of(3, len(whole.players), frames)
    expected = whole(playing)
    parts = renderer(mended, block_frames)
    found = np.concatenate(
        [parts(playing[:, at : at + block_frames]) for at in range(0, frames, block_frames)], axis=1
    )
    # Rounding to 24 bits may fall on the other side of a step; no more, and seldom.
    steps = np.abs(found - expected) * 2.0**23
    assert steps.max() <= 1.0
    assert np.count_nonzero(steps) < 0.001 * steps.size


@pytest.mark.parametrize(("bits", "least_db"), [(16, -94.07), (24, -142.23)])
def test_silence_is_dithered_and_has_the_noise_of_rounding(
    mended: Session, bits: int, least_db: float
) -> None:
    """Ideal rounding is 6.02·bits + 1.76 dB below a full-scale sine; triangular dither is 4.77 dB more."""
    session = set_audio(mended, Audio(bit_depth=bits))  # type: ignore[arg-type]
    with_noise = renderer(session, 4096)
    with_noise._noise = np.zeros_like(with_noise._noise)
    playing = np.zeros((len(with_noise.players), 4096))
    found = np.concatenate([with_noise(playing) for _ in range(12)], axis=1)
    # 0 dBFS is a full-scale sine, whose power is half.
    level_db = 10.0 * math.log10(2.0 * float(np.mean(found**2)))
    assert level_db == pytest.approx(-(6.0206 * bits + 1.7609) + 4.7712, abs=0.05)
    assert level_db == pytest.approx(least_db, abs=0.8)


def test_what_is_predicted_of_noise_has_the_dither_in_it() -> None:
    """With a converter better than its bits, rounding is nearly all of the noise, and it is predicted."""
    session = set_audio(demo_session(), Audio(bit_depth=16))
    item = assess(session).line("organ_l")
    assert item is not None
    predicted = item.noise_dbfs_a
    assert predicted is not None
    # −94.1 dBFS to half the rate; in the band and A-weighted some 2 dB less.
    assert predicted > -97.5
