"""The network against a dense system of equations, for topologies nobody drew."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st

from tests.core.line.test_properties import passives
from tests.core.network.dense import dense_of
from verve.core.engine import Engine
from verve.core.line import octave_weights
from verve.core.network import CapsuleResponse, Composed, Graph, NodeKey, Part, compose
from verve.core.stages import Amplifier, Converter, LineSource, Passive, Stage

_FLAT = CapsuleResponse(octave_bands_db=(0.0,) * 10, change_db=0.0)
_SOURCES = st.builds(
    LineSource,
    peak_dbu=st.floats(-40.0, 10.0),
    output_impedance_ohm=st.floats(10.0, 20_000.0),
    noise_dbu=st.one_of(st.none(), st.floats(-110.0, -70.0)),
)
_CHANNELS = st.builds(
    Amplifier,
    input_impedance_ohm=st.floats(500.0, 1e6),
    input_capacitance_f=st.floats(0.0, 2e-10),
    gain_db=st.floats(-30.0, 60.0),
    ein_dbu=st.floats(-130.0, -90.0),
    current_noise_a_per_rthz=st.floats(0.0, 2e-12),
)
_BUSES = st.builds(
    Amplifier,
    input_impedance_ohm=st.just(10_000.0),
    gain_db=st.floats(-20.0, 10.0),
    output_impedance_ohm=st.floats(1.0, 600.0),
    ein_dbu=st.floats(-110.0, -80.0),
)
_INPUTS = st.builds(
    Converter, full_scale_dbu=st.just(20.0), input_impedance_ohm=st.floats(1000.0, 50_000.0)
)


class Builder:
    """Puts places into a graph, each with a name of its own."""

    def __init__(self) -> None:
        self.graph = Graph()
        self._number = itertools.count()

    def put(self, stage: Stage, before: NodeKey | None = None, role: str = "place") -> NodeKey:
        """A place behind another."""
        key = (f"{role} {next(self._number)}", role)
        self.graph.add(Part(stage=stage, owner=key[0], role=role, step_index=None, key=key))
        if before is not None:
            self.graph.join(before, key)
        return key

    def chain(self, stages: list[Passive], before: NodeKey) -> NodeKey:
        """Passive places one behind the other."""
        for stage in stages:
            before = self.put(stage, before)
        return before

    def composed(self) -> Composed:
        """All of it, solved as the application does."""
        (group,) = self.graph.components()
        return compose(self.graph, group, Engine())


@st.composite
def graphs(draw: st.DrawFn) -> Builder:
    """Sources into channels, some tied together, some into several by a passive split; channels on buses,
    buses on buses, outputs into one or two inputs."""
    builder = Builder()
    few = st.lists(passives, max_size=2)
    buses = [builder.put(draw(_BUSES), role="bus") for _ in range(draw(st.integers(1, 3)))]
    for lower, upper in itertools.pairwise(buses):
        if draw(st.booleans()):
            # A group that goes on to the main bus, or a mixer into the next one.
            link = builder.chain(draw(few), lower)
            builder.graph.join(builder.put(draw(_CHANNELS), link), upper)
    for _ in range(draw(st.integers(2, 3))):
        key = builder.put(draw(_SOURCES), role="source")
        builder.graph.responses[key] = _FLAT
        trunk = builder.chain([draw(passives), *draw(few)], key)
        if draw(st.booleans()):
            # Two outputs tied together by a Y cable.
            other = builder.put(draw(_SOURCES), role="source")
            builder.graph.responses[other] = _FLAT
            tied = builder.put(draw(passives), trunk)
            builder.graph.join(builder.chain(draw(few), other), tied)
            trunk = tied
        for _ in range(draw(st.integers(1, 2))):
            channel = builder.put(draw(_CHANNELS), builder.chain(draw(few), trunk), role="channel")
            for bus in draw(st.sets(st.sampled_from(buses), min_size=1)):
                builder.graph.join(channel, bus)
    for bus in buses:
        for _ in range(draw(st.integers(1, 2))):
            builder.put(draw(_INPUTS), builder.chain(draw(few), bus), role="input")
    # A bus that nothing reaches is no part of any signal.
    silent = {key for key in buses if not builder.graph.before[key]}
    return builder if not silent else draw(graphs())


def _compare(builder: Builder, *, noise_rel: float) -> None:
    graph = builder.graph
    for group in graph.components():
        composed = compose(graph, group, Engine())
        for at in (0, len(composed.band.hz) // 2, len(composed.band.hz) - 1):
            volts, noise = dense_of(graph, float(composed.band.hz[at])).solve()
            weights = octave_weights(_FLAT.octave_bands_db, composed.band)[:, 0]
            for key in group:
                if graph.roles[key] != "input":
                    continue
                ((state, index),) = composed.at(key)
                found = state.ways_at(index, composed.band)
                for (source, _), expected in volts[key].items():
                    got = sum(found.get(source, {}).values(), start=np.zeros(weights.size))
                    amplitude = got[at] / math.sqrt(weights[at])
                    least = 1e-9 * max(abs(v) for v in volts[key].values())
                    assert amplitude == pytest.approx(expected, rel=1e-7, abs=least)
                density = float(np.broadcast_to(state.noise_density(index), weights.shape)[at])
                assert density == pytest.approx(noise[key], rel=noise_rel)


@settings(max_examples=40, phases=(Phase.generate,))
@given(graphs())
def test_any_topology_carries_what_a_dense_system_says(builder: Builder) -> None:
    _compare(builder, noise_rel=1e-6)
