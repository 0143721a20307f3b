"""Turning computed lines into sound: their filters, their ceilings in order, what meets, noise, bits.

All lines are rendered together, a row each. What is alone goes from its source to its input; where signals
meet or split, every strand between two such places is a row, and what meets is added.
"""

from __future__ import annotations

import math
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from verve.core.line import LadderStage, Solution, Spectrum, solve
from verve.core.network import (
    CapsuleResponse,
    Column,
    Composed,
    LineState,
    Origin,
    StrandState,
    join_shares,
    power_of,
    strand_noise,
)
from verve.core.sound._convolve import ConvolverBank
from verve.core.stages import Amplifier, Converter, Microphone
from verve.core.units import ComplexArray, FloatArray, db_to_ratio, dbu_to_v_rms, spl_to_pa_rms

_TAPS_S = 0.17
"""Length of the impulse responses: enough for a 20 Hz filter to ring out 60 dB."""
_LEAD_FRAMES = 64
"""Room in front of an impulse response for what band limiting smears forward."""
_SURELY_CLEAN_DB = 8.0
"""A ceiling so far away is not reached even where a filter sharpens a peak."""
_NOISE_LOOP_S = 5.5
"""Noise repeats after so long: longer than anybody hears a pattern in it."""
_ROOT_2 = math.sqrt(2.0)
_NO_LIMIT = math.inf


_DITHER_FRAMES = 4096


def seed_of(text: str) -> int:
    """A number for a name: the same name always gives the same sound."""
    return zlib.crc32(text.encode())


@dataclass(frozen=True, slots=True, eq=False)
class _Point:
    """A place that can clip, or where a strand ends: volts (or pascals) there for one unit at the head."""

    transfer: ComplexArray
    limit_peak: float


@dataclass(slots=True, eq=False)
class _Row:
    """One strand at work: what it begins with, its points in order, and which rows feed it."""

    points: list[_Point]
    player: tuple[str, str] | None = None
    fed_by: list[int] = field(default_factory=list)
    level: int = 0
    is_silent: bool = False


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Input:
    """What one recorder input holds: the row it ends, its full scale, its noise by origin, its bits.

    unit: full scale volts peak; noise V/√Hz, shape (n_freq,), with the phase it arrives with
    """

    row: int
    full_scale_v: float
    noise: Mapping[Origin, ComplexArray]
    bits: int


@dataclass(frozen=True, slots=True, kw_only=True)
class PlayerKey:
    """A performance that a renderer wants: whose, at which microphone, in which octave bands.

    With `columns` it is everything that the microphone hears of the room, not of that source alone.
    """

    source: str
    place: str
    octave_bands_db: tuple[float, ...]
    columns: tuple[Column, ...] = ()
    rt60_s: float = 0.0


_Rows = slice | list[int]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Stage:
    """Rows of one level: those that are played into, those that others feed, and their filters."""

    played: _Rows
    players: _Rows
    fed: list[tuple[int, list[int]]]
    banks: list[tuple[_Rows, ConvolverBank, FloatArray]]


def _rows(numbers: list[int]) -> _Rows:
    """Neighbouring rows are a stretch: taking them copies nothing."""
    first = numbers[0] if numbers else 0
    if numbers == list(range(first, first + len(numbers))):
        return slice(first, first + len(numbers))
    return numbers


class Renderer:
    """Lines at work: blocks of all performances in, blocks as the recorder would hold them out.

    A performance of 1.0 is the source's hardest peak. The result is in full scales, dithered and rounded
    to the recorder's bits: 1.0 is 0 dBFS.
    """

    def __init__(
        self, lines: Sequence[tuple[LineState, bool]], *, rate_hz: int, block_frames: int
    ) -> None:
        """`lines` are those to be recorded, each with whether it gets the power it needs."""
        self.block_frames = block_frames
        self._rate_hz = rate_hz
        self._frames = 1
        while self._frames < _TAPS_S * rate_hz:
            self._frames *= 2
        hz = np.asarray(np.fft.rfftfreq(self._frames, 1.0 / rate_hz), dtype=np.float64)
        hz[0] = hz[1] / 2.0  # nothing here passes a steady voltage; its bin is cleared below
        self._hz = hz
        self._rows: list[_Row] = []
        self.players: list[PlayerKey] = []
        self._player_at: dict[tuple[str, str], int] = {}
        self._inputs: list[Input] = []
        shared: dict[int, dict[int, int]] = {}
        for state, is_alive in lines:
            self._inputs.append(self._add(state, shared, is_alive=is_alive))
        self._plan = self._stages()
        self._noise = self._noise_loops()
        self._at = 0
        self._ends = _rows([one.row for one in self._inputs])
        self._full_scale = np.array([[i.full_scale_v] for i in self._inputs])
        self._steps = np.array([[float(2 ** (i.bits - 1))] for i in self._inputs])
        self._dither = [
            np.random.default_rng(seed_of(f"dither of {state.line.id}")) for state, _ in lines
        ]
        self._dithered, self._dither_at = np.zeros((len(lines), 0)), 0

    @property
    def inputs(self) -> tuple[Input, ...]:
        """What each of the lines ends in, with its noise by origin."""
        return tuple(self._inputs)

    @property
    def frequencies_hz(self) -> FloatArray:
        """Where noise densities are told."""
        return self._hz

    # ── putting together ──────────────────────────────────────────────────────────────────────
    def _player(self, source: str, place: str, response: CapsuleResponse) -> tuple[str, str]:
        key = (source, place)
        if key not in self._player_at:
            self._player_at[key] = len(self.players)
            self.players.append(
                PlayerKey(
                    source=source,
                    place=place,
                    octave_bands_db=response.octave_bands_db,
                    columns=response.columns,
                    rt60_s=response.rt60_s,
                )
            )
        return key

    def _add(self, state: LineState, shared: dict[int, dict[int, int]], *, is_alive: bool) -> Input:
        staged, levels = state.staged, state.levels
        assert staged is not None
        assert levels is not None
        if state.composed is not None:
            return self._add_composed(state, state.composed, shared)
        solution = solve(staged.stages, self._hz)
        noise = _plain_noise(state, solution, is_alive=is_alive)
        assert state.reading is not None
        # What is driven on purpose is cut as well: the rooms that would be there without that.
        rooms = [state.reading.headroom_db(at) for at in range(len(staged.stages))]
        points = _points(staged.stages, solution, rooms, unit=_ROOT_2, is_end=True)
        row = _Row(points=points, is_silent=not is_alive or levels.peak_dbfs is None)
        row.player = self._player(staged.parts[0].key[0], staged.parts[0].key[1], staged.response)
        self._rows.append(row)
        return _input(len(self._rows) - 1, staged.stages[-1], noise)

    def _add_composed(
        self, state: LineState, composed: Composed, shared: dict[int, dict[int, int]]
    ) -> Input:
        """All strands that lead to a line's input, each once however many lines pass it."""
        assert state.staged is not None
        known = shared.setdefault(id(composed), {})
        end = next(s for s in composed.states if s.strand.keys[-1] == state.staged.parts[-1].key)
        solutions = [solve(_without_bits(s.strand.stages), self._hz) for s in composed.states]
        dense = strand_noise(composed, solutions)
        row = self._strand(end, composed, solutions, known)
        return _input(row, state.staged.stages[-1], dense[end.strand.number])

    def _strand(
        self,
        state: StrandState,
        composed: Composed,
        solutions: Sequence[Solution],
        known: dict[int, int],
        share: ComplexArray | float = 1.0,
    ) -> int:
        number = state.strand.number
        if number in known:
            return known[number]
        shares = join_shares(state.strand, solutions)
        feeding = list(zip(state.strand.fed_by, shares, strict=True))
        if state.strand.driven_by is not None:
            feeding.append((state.strand.driven_by, 1.0))
        fed_by = [
            self._strand(composed.states[fed.number], composed, solutions, known, of_it)
            for fed, of_it in feeding
        ]
        solution = solutions[number]
        is_source = state.strand.source is not None
        headrooms = _headrooms(state, composed)
        points = _points(
            state.strand.ladder,
            solution,
            headrooms,
            unit=_ROOT_2 if is_source else 1.0,
            is_end=isinstance(state.strand.stages[-1], Converter),
        )
        if not isinstance(state.strand.stages[-1], Converter):
            last = solution.junctions[-1]
            assert last is not None
            opened = _volts(last.open_v_rms, self._hz.shape, _ROOT_2 if is_source else 1.0)
            points.append(_Point(np.asarray(opened * share), _NO_LIMIT))
        row = _Row(points=points, fed_by=fed_by)
        row.level = 1 + max((self._rows[i].level for i in fed_by), default=-1)
        if state.strand.source is not None:
            assert state.response is not None
            row.player = self._player(*state.strand.source, state.response)
        self._rows.append(row)
        known[number] = len(self._rows) - 1
        return known[number]

    def _stages(self) -> list[_Stage]:
        """By level, who plays into which row, and banks of filters for the rows that have so many points."""
        plan = []
        for level in range(1 + max((row.level for row in self._rows), default=0)):
            numbers = [n for n, r in enumerate(self._rows) if r.level == level and not r.is_silent]
            banks = []
            depth = max((len(self._rows[n].points) for n in numbers), default=0)
            for at in range(depth):
                having = [n for n in numbers if len(self._rows[n].points) > at]
                taps = np.stack([self._taps(self._rows[n].points, at) for n in having])
                limits = np.array([[self._rows[n].points[at].limit_peak] for n in having])
                banks.append((having, ConvolverBank(taps, self.block_frames), limits))
            played = [n for n in numbers if self._rows[n].player is not None]
            plan.append(
                _Stage(
                    played=_rows(played),
                    players=_rows([self._player_of(n) for n in played]),
                    fed=[(n, self._rows[n].fed_by) for n in numbers if self._rows[n].fed_by],
                    banks=[(_rows(having), bank, limits) for having, bank, limits in banks],
                )
            )
        return plan

    def _player_of(self, number: int) -> int:
        player = self._rows[number].player
        assert player is not None
        return self._player_at[player]

    def _taps(self, points: Sequence[_Point], at: int) -> FloatArray:
        transfer = points[at].transfer
        if at:
            before = points[at - 1].transfer
            transfer = np.divide(transfer, before, out=np.zeros_like(transfer), where=before != 0.0)
        transfer = transfer.copy()
        transfer[0] = 0.0
        response = np.roll(np.fft.irfft(transfer, self._frames), _LEAD_FRAMES)
        ramp = np.sin(np.linspace(0.0, np.pi / 2.0, _LEAD_FRAMES)) ** 2
        response[: _LEAD_FRAMES // 2] *= ramp[::2]
        response[-_LEAD_FRAMES:] *= ramp[::-1]
        return np.asarray(response)

    def _noise_loops(self) -> FloatArray:
        """Noise of every input, shaped beforehand; what has one origin is one noise in all inputs.

        shape: (n_inputs, n_loop), in full scales
        source: white noise of variance 1 has 2/rate per hertz, one-sided
        """
        size = 1
        while size < _NOISE_LOOP_S * self._rate_hz:
            size *= 2
        hz = np.fft.rfftfreq(size, 1.0 / self._rate_hz)
        # Figures end at 20 kHz.
        edge = np.clip((21_000.0 - hz) / 1000.0, 0.0, 1.0)
        edge[0] = 0.0
        spectra = np.zeros((len(self._inputs), len(hz)), dtype=np.complex128)
        origins: dict[Origin, list[tuple[int, ComplexArray]]] = {}
        for number, one in enumerate(self._inputs):
            for key, amplitude in one.noise.items():
                origins.setdefault(key, []).append((number, amplitude / one.full_scale_v))
        for key, heard in origins.items():
            rng = np.random.default_rng(seed_of(f"noise of {key}"))
            white = np.fft.rfft(rng.standard_normal(size))
            for number, amplitude in heard:
                shape = np.interp(hz, self._hz, np.abs(amplitude))
                if len(heard) > 1:
                    turn = np.interp(hz, self._hz, np.unwrap(np.angle(amplitude)))
                    spectra[number] += white * shape * np.exp(1j * turn)
                else:
                    spectra[number] += white * shape
        spectra *= edge * math.sqrt(self._rate_hz / 2.0)
        return (
            np.asarray(np.fft.irfft(spectra, size, axis=1)) if len(spectra) else np.zeros((0, size))
        )

    # ── at work ───────────────────────────────────────────────────────────────────────────────
    def __call__(self, performances: FloatArray) -> FloatArray:
        """One block of every input, as the recorder writes it.

        shape: performances (n_players, block_frames); result (n_inputs, block_frames)
        """
        frames = performances.shape[1]
        signals = np.zeros((len(self._rows), frames))
        for stage in self._plan:
            signals[stage.played] = performances[stage.players]
            for number, fed_by in stage.fed:
                for other in fed_by:
                    signals[number] += signals[other]
            for having, bank, limits in stage.banks:
                made = bank(signals[having])
                np.minimum(made, limits, out=made)
                np.maximum(made, -limits, out=made)
                signals[having] = made
        steps = self._steps
        samples = signals[self._ends]
        samples *= steps / self._full_scale
        samples += self._noise_block(frames) * steps
        samples += self._dither_block(frames)
        np.rint(samples, out=samples)
        np.minimum(samples, steps - 1.0, out=samples)
        np.maximum(samples, -steps, out=samples)
        samples /= steps
        return samples

    def _noise_block(self, frames: int) -> FloatArray:
        size = self._noise.shape[1]
        at = self._at % size
        self._at += frames
        if at + frames <= size:
            return self._noise[:, at : at + frames]
        return np.concatenate([self._noise[:, at:], self._noise[:, : at + frames - size]], axis=1)

    def _dither_block(self, frames: int) -> FloatArray:
        """Triangular dither of two steps' width, so that rounding leaves noise and no distortion.

        source: Lipshitz, Wannamaker & Vanderkooy, JAES 40 (1992)
        """
        pieces = []
        while frames:
            if self._dither_at == self._dithered.shape[1]:
                # In stretches of one length, so that it is the same for every size of block.
                self._dithered = np.stack(
                    [
                        rng.random(_DITHER_FRAMES) - rng.random(_DITHER_FRAMES)
                        for rng in self._dither
                    ]
                    or [np.zeros(_DITHER_FRAMES)]
                )[: len(self._dither)]
                self._dither_at = 0
            taken = min(frames, self._dithered.shape[1] - self._dither_at)
            pieces.append(self._dithered[:, self._dither_at : self._dither_at + taken])
            self._dither_at += taken
            frames -= taken
        return pieces[0] if len(pieces) == 1 else np.concatenate(pieces, axis=1)


def _volts(v_rms: Spectrum, shape: tuple[int, ...], unit: float) -> ComplexArray:
    """Peak volts at every frequency for one unit at the head."""
    return np.asarray(np.broadcast_to(v_rms, shape) * unit, dtype=np.complex128)


def _points(
    stages: Sequence[LadderStage],
    solution: Solution,
    headrooms_db: Sequence[float | None],
    *,
    unit: float,
    is_end: bool,
) -> list[_Point]:
    """Limits that may be reached, in signal order; with `is_end` the last is the converter's input."""
    shape = solution.hz.shape
    found: list[_Point] = []
    junctions = solution.junctions
    for index, stage in enumerate(stages):
        headroom = headrooms_db[index]
        reached = headroom is not None and headroom < _SURELY_CLEAN_DB
        junction = junctions[index]
        if isinstance(stage, Microphone) and stage.max_spl_db is not None and reached:
            assert headroom is not None
            limit = spl_to_pa_rms(stage.max_spl_db + stage.pad_db) * _ROOT_2
            pressure = limit * db_to_ratio(-headroom)
            found.append(_Point(np.full(shape, pressure, dtype=np.complex128), limit))
        elif isinstance(stage, Amplifier) and reached:
            before = junctions[index - 1]
            if stage.max_input_dbu is not None and before is not None:
                volts = _volts(before.v_rms, shape, unit)
                found.append(_Point(volts, dbu_to_v_rms(stage.max_input_dbu) * _ROOT_2))
            if stage.max_output_dbu is not None and junction is not None:
                volts = _volts(junction.open_v_rms, shape, unit)
                found.append(_Point(volts, dbu_to_v_rms(stage.max_output_dbu) * _ROOT_2))
        elif is_end and isinstance(stage, Converter) and junction is not None:
            volts = _volts(junction.v_rms, shape, unit)
            found.append(_Point(volts, dbu_to_v_rms(stage.full_scale_dbu) * _ROOT_2))
    return found


def _headrooms(state: StrandState, composed: Composed) -> list[float | None]:
    """How far all signals of a strand together stay below its ceilings, stage by stage."""
    found: list[float | None] = []
    for at, stage in enumerate(state.strand.stages):
        limits = []
        if isinstance(stage, Amplifier):
            if stage.max_input_dbu is not None and at:
                limits.append((stage.max_input_dbu, at - 1, False))
            if stage.max_output_dbu is not None:
                limits.append((stage.max_output_dbu, at, True))
        rooms = []
        for limit, place, is_open in limits:
            if state.junctions[place] is None:
                continue
            ways = state.ways_at(place, composed.band, is_open=is_open)
            volts = sum(math.sqrt(power_of(own, composed.band)) for own in ways.values())
            if volts > 0.0:
                rooms.append(20.0 * math.log10(dbu_to_v_rms(limit) / volts))
        found.append(min(rooms) if rooms else None)
    return found


def _input(row: int, last: LadderStage, noise: Mapping[Origin, ComplexArray]) -> Input:
    assert isinstance(last, Converter)
    full_scale_v = dbu_to_v_rms(last.full_scale_dbu) * _ROOT_2
    return Input(row=row, full_scale_v=full_scale_v, noise=noise, bits=last.bit_depth)


def _without_bits(stages: Sequence[LadderStage]) -> tuple[LadderStage, ...]:
    """The same with a converter that rounds nothing: the samples are really rounded and dithered."""
    last = stages[-1]
    if not isinstance(last, Converter):
        return tuple(stages)
    ideal = Converter(
        full_scale_dbu=last.full_scale_dbu,
        input_impedance_ohm=last.input_impedance_ohm,
        dynamic_range_dba=last.dynamic_range_dba,
        bit_depth=60,
    )
    return (*stages[:-1], ideal)


def _plain_noise(
    state: LineState, solution: Solution, *, is_alive: bool
) -> dict[Origin, ComplexArray]:
    """V/√Hz at the converter by origin. A box without its power is silent: then only the recorder's own
    stages are heard."""
    staged = state.staged
    assert staged is not None
    by_stage = solve(_without_bits(staged.stages), solution.hz).end_noise_v2_per_hz
    recorder = staged.route.steps[-1].owner
    found: dict[Origin, ComplexArray] = {}
    for part, density in zip(staged.parts, by_stage, strict=True):
        if is_alive or part.owner == recorder:
            found[part.key, ""] = np.sqrt(density).astype(np.complex128)
    return found
