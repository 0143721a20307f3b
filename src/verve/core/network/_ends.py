"""Where a line's peaks end: what clips on the way arrives no louder than what it clipped at."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from verve.core.network._buses import BusLevel
from verve.core.network._state import LineState
from verve.core.stages import Amplifier, Microphone, Stage


@dataclass(frozen=True, slots=True, kw_only=True)
class PeakRange:
    """A peak at the recorder, dBFS: between these two. They are one where nothing clips before the converter."""

    low_dbfs: float
    high_dbfs: float

    @property
    def middle_dbfs(self) -> float:
        """In the middle of it."""
        return (self.low_dbfs + self.high_dbfs) / 2.0


GIBBS_DB: Final = 20.0 * math.log10(1.0 + 2.0 * 0.08949)
"""What a converter's band limit adds to a clipped wave: 8.95 % of a jump as high as the wave, 1.43 dB.

source: Gibbs' phenomenon, (Si(π) − π/2)/π of the jump
"""


def overshoot_db(order: int) -> float:
    """How much louder than its ceiling a clipped wave can be behind a Butterworth high-pass.

    The largest peak that a bounded wave can have behind a filter is the L1 norm of its impulse response;
    it does not depend on the corner.

    range: 6.02 dB for the first order, more for higher ones
    source: bounded input, bounded output: max |y| = ‖h‖₁ · max |x|
    """
    poles = np.exp(1j * np.pi * (2 * np.arange(order) + order + 1) / (2 * order))
    # s → 1/s turns the low-pass prototype into the high-pass: poles at 1/p, all zeros at 0.
    poles = 1.0 / poles
    # Poles lie on the unit circle: beyond 40 orders of it nothing is left.
    seconds = np.linspace(0.0, 40.0 * order, 4001 * order)
    # h = δ + Σ r·e^(p·t), with r = p^n ÷ Π(p − q) of the other poles.
    rest = np.zeros(len(seconds), dtype=complex)
    for at, pole in enumerate(poles):
        residue = pole**order / np.prod(pole - np.delete(poles, at))
        rest = rest + residue * np.exp(pole * seconds)
    norm = 1.0 + float(np.trapezoid(np.abs(rest.real), seconds))
    return 20.0 * math.log10(norm)


def _filter_db(stage: Stage) -> float:
    if isinstance(stage, Amplifier | Microphone) and stage.high_pass_hz is not None:
        return overshoot_db(stage.high_pass_order)
    return 0.0


def _overshoot_behind_db(stages: Sequence[Stage], at: int) -> float:
    """What the filters behind a stage's ceiling can add; one that clips at its input has its own behind it."""
    stage = stages[at]
    own = isinstance(stage, Microphone) or (
        isinstance(stage, Amplifier) and stage.max_input_dbu is not None
    )
    found = GIBBS_DB + math.fsum(_filter_db(one) for one in stages[at + 1 :])
    return found + (_filter_db(stage) if own else 0.0)


def end_range(
    state: LineState, play: str = "hardest", buses: Sequence[BusLevel] = ()
) -> PeakRange | None:
    """Where the peaks of a line's recorder input end, before the converter's own ceiling.

    Everything that reaches the input counts; `buses` are those that the line passes. None for a line that
    cannot be computed, or without signal.

    source: derivation; a ceiling is carried to the end by the gain behind it, and by the L1 norm of what
    filters there
    """
    levels, staged, together = state.levels, state.staged, state.input_peak_dbfs
    if levels is None or staged is None or together is None or levels.peak_dbfs is None:
        return None
    first_db, whole_db, met_db = staged.response.played_db(play)
    # In a microphone that hears several, each is softer by its own range.
    below = -whole_db if staged.response.columns else state.below_hardest_db(play)
    own = levels.peak_dbfs - below
    lows, highs = [0.0], [0.0]
    for at, headroom in enumerate(levels.headroom_db[:-1]):
        if headroom is not None and headroom + below < 0.0:
            over = headroom + below
            lows.append(over)
            highs.append(min(0.0, over + _overshoot_behind_db(staged.stages, at)))
    # What is driven is cut on purpose: it too can overshoot behind a filter.
    driven = [
        min(held - below, _overshoot_behind_db(staged.stages, at))
        for at, held in state.driven_db.items()
    ]
    low, high = min(lows), min(highs)
    high = high or max([0.0, *driven])
    others = 10.0 ** ((together - below) / 10.0) - 10.0 ** (own / 10.0)
    # Players whose hardest moments never meet end as loud as the loudest of them; two that meet add as amplitudes.
    low += min(0.0, first_db - whole_db - low)
    high = high or met_db - whole_db
    found = [
        _sum_db(own + part, others, None if part else together - below) for part in (low, high)
    ]
    for bus in buses:
        if bus.ceiling_dbu is not None and bus.together_dbu - below > bus.ceiling_dbu:
            over = bus.ceiling_dbu - (bus.together_dbu - below)
            found = [min(level, together - below + over) for level in found]
    return PeakRange(low_dbfs=found[0], high_dbfs=found[1])


def _sum_db(own_dbfs: float, others: float, known: float | None) -> float:
    """Level of a line with the power of others that reach the same input."""
    if known is not None:
        return known
    return 10.0 * math.log10(10.0 ** (own_dbfs / 10.0) + max(0.0, others))
