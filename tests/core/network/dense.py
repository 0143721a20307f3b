"""A network solved another way: every node and every current as one dense system of equations."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from verve.core.network import Graph, NodeKey
from verve.core.stages import (
    Amplifier,
    Cable,
    Converter,
    LineSource,
    ResistivePad,
    Stage,
    Transformer,
)
from verve.core.units import BAND_HZ, dbu_to_v_rms

FOUR_K_T = 4.0 * 1.380649e-23 * 293.15


@dataclass(slots=True)
class _Equation:
    """One row: coefficients by unknown, and its origin's excitation: volts RMS, or a density of noise."""

    terms: dict[object, complex]
    noise: float = 0.0
    drive: float = 0.0
    source: NodeKey | None = None


@dataclass
class Dense:
    """Unknowns are the voltage of every node and the current of every branch; rows say what holds."""

    hz: float
    rows: list[_Equation] = field(default_factory=list)
    currents: dict[object, dict[object, complex]] = field(default_factory=dict)
    shunts: list[tuple[object, complex, float]] = field(default_factory=list)
    nodes: set[object] = field(default_factory=set)

    def branch(self, name: object, start: object, end: object, ohm: complex, noise: float) -> None:
        """An impedance from node to node, with the density of its noise voltage."""
        self._leads(name, start, end)
        terms: dict[object, complex] = {end: -1.0, ("i", name): -ohm}
        if start is not None:
            terms[start] = 1.0
        self.rows.append(_Equation(terms, noise=noise))

    def emf(self, name: NodeKey, end: object, ohm: float, volts: float, noise: float) -> None:
        """A source behind its impedance."""
        self._leads(name, None, end)
        self.rows.append(
            _Equation({end: 1.0, ("i", name): ohm}, noise=noise, drive=volts, source=name)
        )

    def shunt(self, node: object, siemens: complex, noise: float) -> None:
        """An admittance to ground, with the density of its noise current."""
        self.nodes.add(node)
        self.shunts.append((node, siemens, noise))

    def driven(
        self, name: object, end: object, ohm: float, by: list[tuple[object, complex, float]]
    ) -> None:
        """An active output: the sum of controlling voltages times gain, each with noise at its input."""
        self._leads(name, None, end)
        terms: dict[object, complex] = {end: 1.0, ("i", name): ohm}
        for node, gain, _ in by:
            terms[node] = terms.get(node, 0.0) - gain
        density = sum(abs(gain) ** 2 * noise for _, gain, noise in by)
        self.rows.append(_Equation(terms, noise=density))

    def transformer(self, name: object, start: object, end: object, ratio: float) -> None:
        """Ideal: the voltage divided by the ratio, the current times it."""
        self.nodes |= {start, end}
        unknown = ("i", name)
        self.currents.setdefault(start, {})[unknown] = -1.0
        self.currents.setdefault(end, {})[unknown] = ratio
        self.rows.append(_Equation({start: 1.0, end: -ratio}))

    def _leads(self, name: object, start: object, end: object) -> None:
        self.nodes.add(end)
        self.currents.setdefault(end, {})[("i", name)] = 1.0
        if start is not None:
            self.nodes.add(start)
            self.currents.setdefault(start, {})[("i", name)] = -1.0

    def solve(self) -> tuple[dict[object, dict[NodeKey, complex]], dict[object, float]]:
        """At every node: volts RMS by source, and the density of all noise (V²/Hz)."""
        rows = list(self.rows)
        for node in self.nodes:
            terms: dict[object, complex] = dict(self.currents.get(node, {}))
            noise = 0.0
            for where, siemens, density in self.shunts:
                if where == node:
                    terms[node] = terms.get(node, 0.0) - siemens
                    noise += density
            rows.append(_Equation(terms, noise=noise))
        unknowns = {name: n for n, name in enumerate({k for row in rows for k in row.terms})}
        assert len(rows) == len(unknowns)
        matrix = np.zeros((len(rows), len(rows)), dtype=complex)
        for at, row in enumerate(rows):
            for name, value in row.terms.items():
                matrix[at, unknowns[name]] += value
        inverse = np.linalg.inv(matrix)
        drives = {row.source: (at, row.drive) for at, row in enumerate(rows) if row.source}
        densities = np.array([row.noise for row in rows])
        volts = {
            node: {
                source: complex(inverse[unknowns[node], at] * drive)
                for source, (at, drive) in drives.items()
            }
            for node in self.nodes
        }
        noise_at = {
            node: float(np.abs(inverse[unknowns[node]]) ** 2 @ densities) for node in self.nodes
        }
        return volts, noise_at


def dense_of(graph: Graph, hz: float) -> Dense:
    """A graph as equations. A place's output is the node of its key; a bus adds, a wire ties together."""
    dense = Dense(hz)
    for key, stage in graph.stages.items():
        before = graph.before[key]
        is_meeting = len(before) > 1
        start: object = ("meet", key) if is_meeting else (before[0] if before else None)
        if is_meeting and graph.roles[key] != "bus":
            for other in before:
                dense.branch(("tied", other, key), other, start, 0.0, 0.0)
        elif is_meeting:
            dense.driven(("sum", key), start, 0.0, [(other, 1.0, 0.0) for other in before])
        _put(dense, key, stage, start, hz)
    return dense


def _put(dense: Dense, key: NodeKey, stage: Stage, start: object, hz: float) -> None:
    omega = 2.0 * np.pi * hz
    if isinstance(stage, LineSource):
        noise = FOUR_K_T * stage.output_impedance_ohm
        if stage.noise_dbu is not None:
            noise = dbu_to_v_rms(stage.noise_dbu) ** 2 / BAND_HZ
        dense.emf(key, key, stage.output_impedance_ohm, dbu_to_v_rms(stage.peak_dbu), noise)
    elif isinstance(stage, Cable):
        ohm = stage.length_m * stage.resistance_ohm_per_m
        dense.branch(key, start, key, ohm, FOUR_K_T * ohm)
        dense.shunt(key, 1j * omega * stage.length_m * stage.capacitance_f_per_m, 0.0)
    elif isinstance(stage, ResistivePad):
        dense.branch(key, start, key, stage.series_ohm, FOUR_K_T * stage.series_ohm)
        dense.shunt(key, 1.0 / stage.shunt_ohm, FOUR_K_T / stage.shunt_ohm)
    elif isinstance(stage, Transformer):
        inner, behind = ("primary", key), ("secondary", key)
        ohm = stage.primary_resistance_ohm
        dense.branch(inner, start, inner, ohm, FOUR_K_T * ohm)
        if stage.primary_inductance_h is not None:
            dense.shunt(inner, 1.0 / (1j * omega * stage.primary_inductance_h), 0.0)
        dense.transformer(("ideal", key), inner, behind, stage.turns_ratio)
        ohm = stage.secondary_resistance_ohm
        dense.branch(key, behind, key, ohm, FOUR_K_T * ohm)
    elif isinstance(stage, Amplifier):
        current = FOUR_K_T / stage.input_impedance_ohm + stage.current_noise_a_per_rthz**2
        admittance = 1.0 / stage.input_impedance_ohm + 1j * omega * stage.input_capacitance_f
        dense.shunt(start, admittance, current)
        series = 0.0
        if stage.ein_dbu is not None:
            tested = FOUR_K_T * stage.ein_source_ohm
            series = max(0.0, dbu_to_v_rms(stage.ein_dbu) ** 2 / BAND_HZ - tested)
        gain = 10.0 ** (stage.gain_db / 20.0)
        dense.driven(key, key, stage.output_impedance_ohm, [(start, gain, series)])
    else:
        assert isinstance(stage, Converter)
        dense.branch(key, start, key, 0.0, 0.0)
        # Its noise is in its dynamic range, behind its terminals.
        dense.shunt(key, 1.0 / stage.input_impedance_ohm, 0.0)


def told_apart(found: Mapping[NodeKey, complex]) -> dict[NodeKey, complex]:
    """Without what is nothing."""
    return {key: volts for key, volts in found.items() if abs(volts) > 0.0}
