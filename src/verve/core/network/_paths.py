"""A line's way through a composed component: its levels, its noise by origin, what meets it on its buses."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from verve.core.line import Grid, Junction, LadderStage, Powers, Reading
from verve.core.network._buses import BusLevel, bus_level
from verve.core.network._compose import (
    Composed,
    StrandState,
    ends_in_converter,
    power_of,
)
from verve.core.network._graph import Graph
from verve.core.network._staging import NodeKey, StagedLine, bands_db
from verve.core.session import Device
from verve.core.stages import Amplifier
from verve.core.units import ComplexArray, FloatArray, v2_to_dbu

if TYPE_CHECKING:
    from verve.core.network._state import LineState


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PathSolution:
    """A line's way through the network, as if it were a ladder of its own."""

    stages: tuple[LadderStage, ...]
    hz: FloatArray
    junctions: tuple[Junction | None, ...]
    end_noise_v2_per_hz: FloatArray

    def junction(self, index: int) -> Junction | None:
        """The wire behind one stage; None behind a sound."""
        return self.junctions[index]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Read:
    """A line read off the network; `input_v2` is the power of all sources at its end."""

    reading: Reading
    input_v2: float | None


_Place = tuple[StrandState, int]


def _places(staged: StagedLine, composed: Composed) -> list[_Place] | None:
    """For each stage of a line the strand it is in there; None where the network has another way."""
    keys = [part.key for part in staged.parts]
    found: list[_Place] = []
    at = 0
    while at < len(keys):
        best: list[_Place] = []
        for state, begin in composed.at(keys[at]):
            own = state.strand.keys[begin:]
            places, number = [(state, begin)], 1
            for offset, key in enumerate(own[1:], 1):
                if key is None:
                    continue
                if at + number >= len(keys) or key != keys[at + number]:
                    number = -1  # it goes another way
                    break
                places.append((state, begin + offset))
                number += 1
            if number > 0 and len(places) > len(best):
                best = places
        if not best:
            return None
        found += best
        at += len(best)
    return found


def _driving(state: StrandState) -> bool:
    return state.strand.driven_by is not None or (
        state.strand.source is None and state.strand.keys[0] is not None
    )


def read_path(staged: StagedLine, composed: Composed) -> Read | None:
    """A line's levels and noise; None where its way is not in the network."""
    places = _places(staged, composed)
    if places is None:
        return None
    band = composed.band
    source = staged.route.source.id
    loaded: list[float | None] = []
    opened: list[float | None] = []
    noises: list[FloatArray | None] = []
    junctions: list[Junction | None] = []
    for index, (state, at) in enumerate(places):
        if state.junctions[at] is None:
            loaded.append(None)
            opened.append(None)
            noises.append(None)
            junctions.append(None)
            continue
        following = _driver_behind(places, index)
        there, number = following or (state, at)
        ways = there.ways_at(number, band).get(source, {})
        open_ways = state.ways_at(at, band, is_open=True).get(source, {})
        noises.append(there.noise_density(number))
        wire = _junction(there, number, ways, open_ways, noises[-1], staged, band)
        beside_v2, beside_open_v2 = _beside_v2(staged, wire, band)
        loaded.append(power_of(ways, band) + beside_v2)
        opened.append(power_of(open_ways, band) + beside_open_v2)
        junctions.append(wire)
    end = _end_noise(staged, places)
    weights = band.all_weights_hz
    noise = [None if density is None else density @ weights for density in noises]
    by_stage = end @ weights
    last, at = places[-1]
    everything = last.ways_at(at, band)
    reading = Reading(
        solution=PathSolution(
            stages=staged.stages,
            hz=band.hz,
            junctions=tuple(junctions),
            end_noise_v2_per_hz=end,
        ),
        band=band,
        powers=Powers(
            loaded_v2=tuple(loaded),
            open_v2=tuple(opened),
            noise_v2=tuple(None if n is None else float(n[0]) for n in noise),
            noise_a_v2=tuple(None if n is None else float(n[2]) for n in noise),
            end_noise_v2=tuple(float(row[0]) for row in by_stage),
            end_noise_a_v2=tuple(float(row[2]) for row in by_stage),
        ),
    )
    together = math.fsum(power_of(ways, band) for ways in everything.values())
    return Read(reading=reading, input_v2=together if ends_in_converter(last) else None)


def _beside_v2(staged: StagedLine, wire: Junction, band: Grid) -> tuple[float, float]:
    """Power of what a line's microphone hears beside the straight sound of its source, on the wire and open there.

    All of it goes the way of the line, so what the way does to it is known.
    """
    columns = staged.response.columns
    if not columns:
        return 0.0, 0.0
    from verve.core.line import octave_weights

    together = [math.fsum(values) for values in zip(*(c.powers for c in columns[1:]), strict=True)]
    if not any(together):
        return 0.0, 0.0
    weights = octave_weights(bands_db(together), band)[:, 0] * math.fsum(together)
    on_wire, is_open = (np.abs(np.asarray(v)) ** 2 for v in (wire.v_rms, wire.open_v_rms))
    return float(np.sum(weights * on_wire)), float(np.sum(weights * is_open))


def _driver_behind(places: Sequence[_Place], index: int) -> _Place | None:
    """Where the load of an active output is known: in the strand that it drives, at its head."""
    if index + 1 >= len(places):
        return None
    state, _ = places[index]
    following, at = places[index + 1]
    if following is state or not _driving(following) or at == 0:
        return None
    return following, 0


def _junction(
    state: StrandState,
    at: int,
    ways: Mapping[float, ComplexArray],
    open_ways: Mapping[float, ComplexArray],
    noise: FloatArray | None,
    staged: StagedLine,
    band: Grid,
) -> Junction:
    """The wire there with this line's own signal on it, at the loudest sine of each frequency."""
    from verve.core.line import octave_weights

    own = state.junction(at)
    columns = staged.response.columns
    weights = octave_weights(
        columns[0].octave_bands_db if columns else staged.response.octave_bands_db, band
    )[:, 0]
    root = np.sqrt(weights * (math.fsum(columns[0].powers) if columns else 1.0))
    zero = np.zeros(len(band.hz), dtype=complex)
    return Junction(
        open_v_rms=sum(open_ways.values(), zero) / root,
        v_rms=sum(ways.values(), zero) / root,
        source_impedance_ohm=own.source_impedance_ohm,
        load_admittance_s=own.load_admittance_s,
        noise_v2_per_hz=noise,
    )


def _end_noise(staged: StagedLine, places: Sequence[_Place]) -> FloatArray:
    """Noise at the end by the stage it comes from; what others bring counts where they meet the line.

    shape: (n_stages, n_freq)
    """
    last, _ = places[-1]
    strand = last.strand
    index = {part.key: number for number, part in enumerate(staged.parts)}
    first = next(number for number, (state, _) in enumerate(places) if state is last)
    found = np.zeros((len(places), len(last.solution.hz)))
    transfer = np.abs(last.transfer(len(strand.stages) - 1)) ** 2
    for (key, _), amplitude in last.noise.items():
        found[index.get(key, first)] += np.abs(amplitude) ** 2 * transfer
    for place, density in last.end_density():
        # A branch beside the line is no stage of it: what it sends in counts at the place it hangs on.
        found[first if place is None else index.get(place, first)] += density
    found.setflags(write=False)
    return found


def composed_buses(
    graph: Graph,
    group: Sequence[NodeKey],
    composed: Composed,
    lines: Sequence[LineState],
    mixers: Mapping[str, Device],
) -> Iterator[BusLevel]:
    """Buses of a component with everything that is mixed to them."""
    for key in group:
        if graph.roles[key] != "bus":
            continue
        step = graph.passages[key]
        port = key[1].removesuffix("/bus")
        places = composed.at(key)
        if not places or step.owner not in mixers:
            continue
        state, at = places[0]
        ways = state.ways_at(at, composed.band, is_open=True)
        peaks = [
            level
            for own in ways.values()
            if (level := v2_to_dbu(power_of(own, composed.band))) is not None
        ]
        followed, others = _lines_on(key, port, lines, step.owner)
        stage = graph.stages[key]
        limit = stage.max_output_dbu if isinstance(stage, Amplifier) else None
        recorded = next((s.input_peak_dbfs for s in followed if s.peak_dbfs is not None), None)
        found = bus_level(
            mixers[step.owner],
            port,
            peaks,
            [s.line.id for s in (*followed, *others)],
            limit,
            recorded,
        )
        if found is not None:
            yield found


def _lines_on(
    key: NodeKey, port: str, lines: Sequence[LineState], owner: str
) -> tuple[list[LineState], list[LineState]]:
    """Lines that are followed over a bus, and others that are heard on it."""
    followed, others = [], []
    for state in lines:
        if state.staged is None:
            continue
        if any(part.key == key for part in state.staged.parts):
            if any(s.owner == owner and port in s.figures.sends(s) for s in state.route.steps):
                followed.append(state)
            continue
        for step in state.route.steps:
            if step.owner == owner and port in step.figures.sends(step):
                others.append(state)
                break
    return followed, others
