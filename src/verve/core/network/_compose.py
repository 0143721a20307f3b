"""Strands put together: what every source and every origin of noise is at every place.

The signal of a source is an amplitude at each frequency with its share of the source's power in it, so that
ways of one source add as complex numbers and different sources as powers; the delay of the air is kept
beside it in seconds. Noise is an amplitude too, with the phase that the way of its strand has: what reaches
a place by two ways adds as it does there, and is counted once for each origin.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from verve.core.engine import Engine
from verve.core.line import Grid, Junction, LadderStage, Solution, octave_weights, solve_on
from verve.core.network._graph import Graph
from verve.core.network._origins import Left, Origin, followed_noise
from verve.core.network._staging import CapsuleResponse, Column, NodeKey
from verve.core.network._strands import Strand, strands_of
from verve.core.stages import Converter
from verve.core.units import ComplexArray, FloatArray

_FLAT = (0.0,) * 10
_LEAST_OUTPUT_OHM = 0.001
"""Outputs of less than this are tied together as if they had it: no contact is better."""

Ways = dict[str, dict[float, ComplexArray]]
"""By source, then by delay in seconds: the amplitude at each frequency."""


@dataclass(slots=True, eq=False)
class StrandState:
    """A strand solved: what comes to its head, and its own ladder for one volt there.

    `join_ohm` is what all outputs tied together at its head are to it.

    unit: `ways` volts RMS in each share of the source's power; `noise` V/√Hz by origin
    """

    strand: Strand
    solution: Solution
    junctions: tuple[Junction | None, ...]
    response: CapsuleResponse | None
    ways: Ways
    noise: dict[Origin, ComplexArray]
    join_ohm: ComplexArray | None = None

    def transfer(self, at: int, *, is_open: bool = False) -> ComplexArray:
        """Volts behind one of its stages for one volt at its head, or of its own source."""
        junction = self.junction(at)
        return np.asarray(junction.open_v_rms if is_open else junction.v_rms)

    def junction(self, at: int) -> Junction:
        """The wire behind one of its stages."""
        found = self.junctions[at]
        assert found is not None
        return found

    def ways_at(self, at: int, band: Grid, *, is_open: bool = False) -> Ways:
        """What every source is behind one of its stages."""
        transfer = self.transfer(at, is_open=is_open)
        if self.strand.source is not None:
            assert self.response is not None
            if self.response.columns:
                return _from_room(self.response.columns, self.strand.source[1], transfer, band)
            weights = octave_weights(self.response.octave_bands_db, band)[:, 0]
            amplitude = np.asarray(transfer * np.sqrt(weights))
            return {self.strand.source[0]: {self.response.delay_s: amplitude}}
        return {
            source: {delay: amplitude * transfer for delay, amplitude in ways.items()}
            for source, ways in self.ways.items()
        }

    def noise_density(self, at: int) -> FloatArray:
        """All noise behind one of its stages, V²/Hz."""
        total = np.array(self.junction(at).noise_v2_per_hz, dtype=float)
        if self.join_ohm is not None:
            own = self._followed(to=at).values()
            total = np.asarray(sum((np.abs(a) ** 2 for a in own), np.zeros(self.solution.hz.size)))
        if self.noise:
            power = np.abs(self.transfer(at)) ** 2
            for amplitude in self.noise.values():
                total = total + np.abs(amplitude) ** 2 * power
        return np.asarray(total)

    def end_noise(self, *, is_open: bool = False) -> dict[Origin, ComplexArray]:
        """Every origin of noise at its end, as an amplitude that has the phase of the way there."""
        at = len(self.strand.stages) - 1
        transfer = self.transfer(at, is_open=is_open)
        found = {key: amplitude * transfer for key, amplitude in self.noise.items()}
        if not self.strand.is_noisy:
            return found
        size = np.abs(transfer)
        turn = np.divide(transfer, size, out=np.ones_like(transfer), where=size > 0.0)
        own: dict[Origin, ComplexArray] = {}
        for key, density in self._lumped():
            if key is not None and density.any():
                own[key, ""] = np.sqrt(density) * turn
        own |= self._followed()
        for origin, amplitude in own.items():
            found[origin] = found[origin] + amplitude if origin in found else amplitude
        return found

    def end_density(self) -> list[tuple[NodeKey | None, FloatArray]]:
        """Its own noise at its end by place, V²/Hz: what arises in it, not what comes to its head."""
        if self.join_ohm is None:
            return list(zip(self.strand.keys, self.solution.end_noise_v2_per_hz, strict=True))
        found = self._lumped()
        found += [(key, np.abs(a) ** 2) for (key, _), a in self._followed().items()]
        return found

    def _lumped(self) -> list[tuple[NodeKey | None, FloatArray]]:
        """Noise of places that no other strand hears: all of a place is one origin."""
        followed = min(self.strand.sides, default=len(self.strand.keys))
        if self.join_ohm is not None:
            followed = 1
        return [
            (key, density)
            for number, (key, density) in enumerate(
                zip(self.strand.keys, self.solution.end_noise_v2_per_hz, strict=True)
            )
            if number < followed or isinstance(self.strand.stages[number], Converter)
        ]

    def _followed(self, to: int | None = None) -> dict[Origin, ComplexArray]:
        """Noise of which every element is followed by itself: behind a place that goes several ways, and
        where outputs are tied together."""
        sides, junctions = self.strand.sides, self.junctions
        if self.join_ohm is not None:
            head = self.junction(0)
            scale = 1.0 / (1.0 + self.join_ohm * head.load_admittance_s)
            first, left = 1, Left(impedance_ohm=self.join_ohm, open_v_rms=1.0, end_scale=scale)
        elif sides:
            first = min(sides)
            before = junctions[first - 1]
            assert before is not None
            left = Left(impedance_ohm=before.source_impedance_ohm, open_v_rms=before.open_v_rms)
        else:
            return {}
        return followed_noise(
            self.strand.stages,
            self.strand.keys,
            sides,
            self.solution,
            first=first,
            left=left,
            to=to,
        )


def _from_room(columns: Sequence[Column], place: str, transfer: ComplexArray, band: Grid) -> Ways:
    """What one microphone hears of everybody: straight sounds add up with those of other microphones, what the room
    gives is another one in each of them."""
    found: Ways = {}
    for column in columns:
        share = octave_weights(column.octave_bands_db, band)[:, 0] * math.fsum(column.powers)
        amplitude = np.asarray(transfer * np.sqrt(share))
        name = f"{column.source} in the room at {place}" if column.is_room else column.source
        found[name] = {column.delay_s: amplitude}
    return found


def power_of(ways: Mapping[float, ComplexArray], band: Grid) -> float:
    """Power of one source that comes by several ways: powers, and the cross term averaged over each point's
    share of the band, since a comb is finer than the points of a grid.

    unit: V²
    source: derivation, the mean of exp(−jωΔ) over a band is its middle value times sin(x)/x, x = πΔ·width
    """
    items = list(ways.items())
    total = math.fsum(float(np.sum(np.abs(amplitude) ** 2)) for _, amplitude in items)
    for number, (delay, amplitude) in enumerate(items):
        for other_delay, other in items[number + 1 :]:
            apart_s = delay - other_delay
            low, high = _cells(band)
            phase = np.exp(-1j * np.pi * (low + high) * apart_s) * np.sinc((high - low) * apart_s)
            total += 2.0 * float(np.sum((amplitude * np.conj(other) * phase).real))
    return max(0.0, total)


def _cells(band: Grid) -> tuple[FloatArray, FloatArray]:
    """Lower and upper edge of the share of the band that each point of a grid stands for."""
    edges = np.concatenate([[0.0], np.cumsum(band.weights_hz)]) + 20.0
    return edges[:-1], edges[1:]


def added(into: Ways, more: Ways) -> None:
    """Add what comes by another way: same source and delay as complex numbers."""
    for source, ways in more.items():
        mine = into.setdefault(source, {})
        for delay, amplitude in ways.items():
            mine[delay] = mine[delay] + amplitude if delay in mine else amplitude


@dataclass(slots=True, eq=False)
class Composed:
    """A component of the network, solved: its strands, those first that feed others."""

    states: list[StrandState]
    band: Grid

    def at(self, key: NodeKey) -> list[tuple[StrandState, int]]:
        """Every strand that passes a place, with its number there."""
        return [
            (state, state.strand.keys.index(key))
            for state in self.states
            if key in state.strand.keys
        ]


_SolvedKey = tuple[tuple[LadderStage, ...], int]


def _solved(
    strands: Sequence[Strand], responses: Sequence[tuple[float, ...]], halvings: int, engine: Engine
) -> tuple[list[Solution], Grid, bool]:
    """Ladders of strands on one grid; those not remembered are solved together."""
    from verve.core.line import grid

    known: dict[_SolvedKey, tuple[Solution, bool]] = {}
    table = engine.table("strands", 512)
    missing: dict[_SolvedKey, tuple[float, ...]] = {}
    keys: list[_SolvedKey] = []
    for strand, bands in zip(strands, responses, strict=True):
        key = (strand.ladder, halvings)
        keys.append(key)
        found = table.find_equal(key)
        if found is None:
            missing[key] = bands
        else:
            known[key] = found
    if missing:
        batch, _, is_fine = solve_on([k[0] for k in missing], list(missing.values()), halvings)
        for row, key in enumerate(missing):
            known[key] = table.keep_equal(key, (batch.line(row), is_fine))
    solutions = [known[key][0] for key in keys]
    return solutions, grid(halvings), all(known[key][1] for key in keys)


def compose(graph: Graph, group: list[NodeKey], engine: Engine) -> Composed:
    """A component of the network, solved on a grid that is fine enough for all of it."""
    strands = strands_of(graph, group)
    responses = [
        graph.responses[s.source].octave_bands_db if s.source is not None else _FLAT
        for s in strands
    ]
    halvings = 0
    while True:
        solutions, band, is_fine = _solved(strands, responses, halvings, engine)
        if is_fine:
            break
        halvings += 1
    states: list[StrandState] = []
    for strand, solution in zip(strands, solutions, strict=True):
        ways: Ways = {}
        shares = join_shares(strand, solutions)
        for state, is_open, share in _before(strand, states, shares):
            last = len(state.strand.stages) - 1
            coming = state.ways_at(last, band, is_open=is_open)
            added(
                ways, {source: {d: a * share for d, a in w.items()} for source, w in coming.items()}
            )
        response = graph.responses[strand.source] if strand.source is not None else None
        states.append(
            StrandState(
                strand=strand,
                solution=solution,
                junctions=solution.junctions,
                response=response,
                ways=ways,
                noise=_met(strand, states, shares),
                join_ohm=_join_ohm(strand, solutions),
            )
        )
    return Composed(states=states, band=band)


def strand_noise(
    composed: Composed, solutions: Sequence[Solution]
) -> list[dict[Origin, ComplexArray]]:
    """By strand, every origin of noise at its end, from ladders of the same strands on other frequencies.

    unit: V/√Hz
    """
    ends: list[dict[Origin, ComplexArray]] = []
    states: list[StrandState] = []
    for known, solution in zip(composed.states, solutions, strict=True):
        strand = known.strand
        state = StrandState(
            strand=strand,
            solution=solution,
            junctions=solution.junctions,
            response=known.response,
            ways={},
            noise=_met(strand, states, join_shares(strand, solutions)),
            join_ohm=_join_ohm(strand, solutions),
        )
        states.append(state)
        ends.append(state.end_noise())
    return ends


_Before = list[tuple[StrandState, bool, ComplexArray | float]]


def _before(
    strand: Strand, states: Sequence[StrandState], shares: Sequence[ComplexArray | float]
) -> _Before:
    """Strands whose ends come to the head of another, and how much of each; active outputs are open there."""
    found: _Before = [
        (states[fed.number], False, share) for fed, share in zip(strand.fed_by, shares, strict=True)
    ]
    if strand.driven_by is not None:
        found.append((states[strand.driven_by.number], True, 1.0))
    return found


def _output_ohm(fed: Strand, solutions: Sequence[Solution]) -> ComplexArray:
    last = solutions[fed.number].junctions[-1]
    assert last is not None
    found = np.asarray(last.source_impedance_ohm + np.zeros(solutions[fed.number].hz.size))
    return np.where(np.abs(found) > _LEAST_OUTPUT_OHM, found, _LEAST_OUTPUT_OHM)


def _join_ohm(strand: Strand, solutions: Sequence[Solution]) -> ComplexArray | None:
    """Impedance of all outputs that are tied together at the head of a strand; None where none are."""
    if not strand.is_join:
        return None
    siemens = sum(1.0 / _output_ohm(fed, solutions) for fed in strand.fed_by)
    return np.asarray(1.0 / siemens)


def join_shares(strand: Strand, solutions: Sequence[Solution]) -> tuple[ComplexArray | float, ...]:
    """What of the open voltage of each strand that comes to its head is there: all of it at a bus; in a wire
    what the others and the load leave.

    source: Millman 1940, the mean of the voltages weighted with their admittances
    """
    if not strand.is_join:
        return (1.0,) * len(strand.fed_by)
    head = solutions[strand.number].junctions[0]
    assert head is not None
    siemens = [1.0 / _output_ohm(fed, solutions) for fed in strand.fed_by]
    total = sum(siemens) + head.load_admittance_s
    return tuple(np.asarray(one / total) for one in siemens)


def _met(
    strand: Strand, states: Sequence[StrandState], shares: Sequence[ComplexArray | float]
) -> dict[Origin, ComplexArray]:
    """What noise comes to the head of a strand from those before it."""
    noise: dict[Origin, ComplexArray] = {}
    for state, is_open, share in _before(strand, states, shares):
        for key, found in state.end_noise(is_open=is_open).items():
            amplitude = found * share
            noise[key] = noise[key] + amplitude if key in noise else amplitude
    return noise


def ends_in_converter(state: StrandState) -> bool:
    """Whether a strand ends at an input that records."""
    return isinstance(state.strand.stages[-1], Converter)
