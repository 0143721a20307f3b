"""All positions of a line's gains at once: what each gives, and which is best by the order of aims.

A gain moves everything behind it dB for dB and changes no impedance. So a line is solved once for every
combination of its pads, and all positions of all its gains follow by adding decibels.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from verve.core.gain._positions import GainKnob
from verve.core.gain._targets import MARGIN_DB
from verve.core.line import sound_at_microphone_db
from verve.core.network import LineState
from verve.core.stages import Amplifier, Microphone, Sound
from verve.core.units import FloatArray, IntArray

EQUAL_PEAK_DB = 0.5
EQUAL_NOISE_DB = 0.05
FINE_DB = 0.01


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Base:
    """A line with one combination of its pads, solved with the gains of now. `pads` are by key."""

    state: LineState
    turns: tuple[GainKnob, ...]
    pads: Mapping[str, float]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Outcome:
    """What positions give: hardest peak, A-weighted noise, least room at any stage.

    shape: (n_shared, n_own) each
    unit: dBFS, dBFS A, dB
    """

    peak_dbfs: FloatArray
    noise_dbfs_a: FloatArray
    headroom_db: FloatArray


def ceilings(state: LineState) -> list[tuple[int, bool, float]]:
    """Every ceiling of a line: stage, whether it stands before the stage's own gain, room now."""
    assert state.staged is not None
    assert state.levels is not None
    levels = state.levels
    found: list[tuple[int, bool, float]] = []
    first = state.staged.parts[0].stage
    for index, part in enumerate(state.staged.parts):
        stage = part.stage
        if isinstance(stage, Microphone) and stage.max_spl_db is not None:
            assert isinstance(first, Sound)
            room = stage.max_spl_db + stage.pad_db - sound_at_microphone_db(first)
            found.append((index, True, room))
        elif isinstance(stage, Amplifier) and levels.headroom_db[index] is not None:
            before, after = levels.peak_dbu[index - 1], levels.open_peak_dbu[index]
            if stage.max_input_dbu is not None and before is not None:
                found.append((index, True, stage.max_input_dbu - before))
            if stage.max_output_dbu is not None and after is not None:
                found.append((index, False, stage.max_output_dbu - after))
    return found


def shared_from(state: LineState) -> int:
    """The first stage that other lines of a mixer pass as well; past the end without one."""
    assert state.staged is not None
    for index, part in enumerate(state.staged.parts):
        if part.role == "bus":
            return index
    return len(state.staged.parts)


def outcome(base: Base, positions: Mapping[str, FloatArray], share_db: float) -> Outcome:
    """All positions of a line's gains.

    shape: positions (n_shared, 1) or (1, n_own) each, by key
    source: derivation; where n lines meet each is kept `share_db` below what all of them may be
    """
    state = base.state
    assert state.levels is not None
    assert state.reading is not None
    assert state.levels.peak_dbfs is not None
    turns = sorted(base.turns, key=lambda t: t.at)
    # Behind k gains everything has moved by the first k moves: so many sums, and no more.
    sums: list[FloatArray] = [np.zeros((1, 1))]
    for turn in turns:
        sums.append(sums[-1] + (positions[turn.key] - turn.now))
    places = [t.at for t in turns]
    total = sums[-1]
    room: FloatArray = np.full(total.shape, np.inf)
    least: dict[int, float] = {}
    meets = shared_from(state)
    for index, before_gain, now in ceilings(state):
        passed = sum(p < index if before_gain else p <= index for p in places)
        kept = share_db if index >= meets else 0.0
        least[passed] = min(least.get(passed, np.inf), now - kept)
    for passed, now in least.items():
        room = np.minimum(room, now - sums[passed])
    powers = state.reading.powers.end_noise_a_v2
    behind = [0.0] * (len(turns) + 1)
    for index, power in enumerate(powers[:-1]):
        behind[sum(p < index for p in places)] += power
    noise: FloatArray = np.full(total.shape, powers[-1])
    for passed, power in enumerate(behind):
        if power > 0.0:
            # What arises behind so many gains is moved by the rest of them.
            noise = noise + power * 10.0 ** ((total - sums[passed]) / 10.0)
    now_dbfs = state.levels.noise_dbfs_a
    whole = sum(powers)
    level = np.full(total.shape, -200.0)
    if now_dbfs is not None and whole > 0.0:
        level = now_dbfs + 10.0 * np.log10(noise / whole)
    return Outcome(
        peak_dbfs=state.levels.peak_dbfs + total,
        noise_dbfs_a=np.broadcast_to(level, total.shape),
        headroom_db=np.broadcast_to(room, total.shape),
    )


def best_snr_db(base: Base, highest: Mapping[str, float]) -> float:
    """No setting of these gains can bring the peak further above the noise than this.

    source: derivation; a stage's noise weighs least with every gain before it at its highest
    """
    state = base.state
    assert state.levels is not None
    assert state.reading is not None
    assert state.levels.peak_dbfs is not None
    if state.levels.noise_dbfs_a is None:
        return 200.0
    powers = state.reading.powers.end_noise_a_v2
    least = 0.0
    for index, power in enumerate(powers):
        is_last = index == len(powers) - 1
        before = [t for t in base.turns if is_last or t.at < index]
        least += power * 10.0 ** (-sum(highest[t.key] - t.now for t in before) / 10.0)
    noise = state.levels.noise_dbfs_a + 10.0 * math.log10(least / sum(powers))
    return state.levels.peak_dbfs - noise


def scores(
    base: Base, positions: Mapping[str, FloatArray], target_dbfs: float, share_db: float
) -> list[FloatArray]:
    """The order of aims as numbers, each the smaller the better, the first the most important: room, above
    the aim, below it, faders, noise, pads, nearness, moves, turning.

    They may be added over lines and compared in the same order: so lines that have no knob in common
    can be set apart, and lines that have one are set right together.
    """
    found = outcome(base, positions, share_db)
    peak, room = found.peak_dbfs, found.headroom_db
    shape = peak.shape
    missing = np.maximum(0.0, np.ceil((MARGIN_DB - room - 1e-9) / EQUAL_PEAK_DB))
    above = np.maximum(0.0, np.rint((peak - target_dbfs) / FINE_DB))
    below = np.maximum(0.0, np.floor((target_dbfs - peak - 1e-6) / EQUAL_PEAK_DB))
    hiss = np.floor((found.noise_dbfs_a - peak) / EQUAL_NOISE_DB + 1e-6)
    nearness = np.maximum(0.0, np.rint((target_dbfs - peak) / FINE_DB))
    faders: FloatArray = np.zeros(shape)
    moves: FloatArray = np.zeros(shape)
    turning: FloatArray = np.zeros(shape)
    for turn in base.turns:
        distance = np.abs(positions[turn.key] - turn.now)
        moves = moves + (distance > 1e-9)
        turning = turning + distance
        if turn.is_fader:
            faders = faders + np.abs(positions[turn.key])
    pads = np.full(shape, float(sum(bool(p) for p in base.pads.values())))
    turning = np.rint(turning / FINE_DB)
    return [missing, above, below, faders, hiss, pads, nearness, moves, turning]


def lexmin(components: Sequence[FloatArray]) -> IntArray:
    """Of every row the column whose components are least, the first deciding first.

    shape: components (n, m) each → (n,)
    """
    rows, columns = components[0].shape
    if columns == 1:
        return np.zeros(rows, dtype=np.int64)
    standing = np.ones((rows, columns), dtype=bool)
    for component in components:
        rest = np.where(standing, component, np.inf)
        standing &= rest <= rest.min(axis=1, keepdims=True)
    return np.asarray(standing.argmax(axis=1), dtype=np.int64)


def meshed(axes: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
    """Every combination of positions, by key.

    shape: (n_combinations,) each
    """
    # Not by a mesh of as many dimensions: a chain of boxes may have more gains than arrays have of those.
    count = math.prod(axis.size for axis in axes.values())
    found, beside = {}, count
    for key, axis in axes.items():
        beside //= axis.size
        found[key] = np.tile(np.repeat(axis, beside), count // (beside * axis.size))
    return found


def thinned(axes: Mapping[str, FloatArray], most: int) -> dict[str, FloatArray]:
    """Fewer positions: every second of the longest axis until there are no more than `most` together."""
    found = dict(axes)
    while found and np.prod([axis.size for axis in found.values()], dtype=float) > most:
        key = max(found, key=lambda k: found[k].size)
        found[key] = found[key][::2]
    return found
