"""One line of a session, read off the network: what every rule about it looks at."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Any, TypeVar

import numpy as np

from verve.core.engine import Engine, Remembered
from verve.core.kind import Control, PlayingRange
from verve.core.line import LineLevels, Reading, levels_of, octave_weights, read_spectra
from verve.core.network._buses import BusLevel, plain_buses
from verve.core.network._compose import Composed, compose
from verve.core.network._driven import Driven, driven
from verve.core.network._graph import Graph, graph_of
from verve.core.network._paths import Read, composed_buses, read_path
from verve.core.network._room import RoomSound, RoomSounds, hearing_in, room_sounds
from verve.core.network._staging import NodeKey, StagedLine, is_physical, stage_line
from verve.core.session import Line, Route, RouteStep, Setup, Topology
from verve.core.stages import Stage
from verve.core.units import v2_to_dbu

if TYPE_CHECKING:
    from verve.core.air import Hearing

_Made = TypeVar("_Made")
NO_RANGE = PlayingRange(softest_db=0.0, typical_db=0.0, hardest_db=0.0)
"""What stands for the range of a line that nothing feeds."""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class LineState:
    """A line with its route, its stages and its levels at the hardest playing.

    `staged`, `reading` and `levels` are None for a line that cannot be computed as it stands.
    `composed` is the part of the network in which it meets others, None where it is alone.
    `input_peak_dbfs` is the hardest peak of everything that arrives at its recorder's input, which other
    lines may reach too. `driven_db` says by how much stages that are meant to distort hold its peaks, by their
    index. `own_db` is how far the straight sound of its own source is below everything that its microphone hears,
    which all levels are of. What was once worked out of it is kept with it.
    """

    line: Line
    route: Route
    playing: PlayingRange
    crest_db: float
    staged: StagedLine | None
    reading: Reading | None
    levels: LineLevels | None
    input_peak_dbfs: float | None = None
    composed: Composed | None = None
    driven_db: Mapping[int, float] = field(default_factory=dict)
    own_db: float = 0.0
    memory: dict[object, Any] = field(default_factory=dict, repr=False)

    def once(self, key: object, make: Callable[[], _Made]) -> _Made:
        """What is worked out of this state, the first time it is asked for."""
        if key not in self.memory:
            self.memory[key] = make()
        found: _Made = self.memory[key]
        return found

    def latest(self, name: str, parts: tuple[object, ...], make: Callable[[], _Made]) -> _Made:
        """What is worked out of this state and of these very parts; only the latest of a name is kept."""
        known = self.memory.get(name)
        if (
            known is None
            or len(known[0]) != len(parts)
            or any(a is not b for a, b in zip(known[0], parts, strict=True))
        ):
            known = self.memory[name] = (parts, make())
        found: _Made = known[1]
        return found

    @property
    def peak_dbfs(self) -> float | None:
        """Hardest peak at the recorder."""
        return None if self.levels is None else self.levels.peak_dbfs

    @property
    def own_peak_dbfs(self) -> float | None:
        """The same of its own source's straight sound alone."""
        return None if self.peak_dbfs is None else self.peak_dbfs + self.own_db

    def below_hardest_db(self, play: str) -> float:
        """How far a way of playing stays below the hardest; a phrase reaches it."""
        levels = {"softest": self.playing.softest_db, "typical": self.playing.typical_db}
        return self.playing.hardest_db - levels.get(play, self.playing.hardest_db)

    def recorder_controls(self) -> Mapping[str, Control]:
        """Controls of the recorder's input, by name."""
        recorder = self.route.recorder
        return {} if recorder is None else recorder.controls

    def mixer(self) -> RouteStep | None:
        """The first mixer that it passes."""
        return next((step for step in self.route.steps if step.figures.mixes), None)

    def level_control(self) -> Control | None:
        """The gain that sets this line's level: a mixer's trim where there is one, else the preamp."""
        mixer = self.mixer()
        return (self.recorder_controls() if mixer is None else mixer.controls).get("gain_db")

    def steps_before_recorder(self) -> tuple[RouteStep, ...]:
        """Devices between source and interface."""
        return tuple(step for step in self.route.steps if not step.figures.records)

    def index_of(self, owner: str, role: str) -> int | None:
        """Where a stage stands on the line."""
        return None if self.staged is None else self.staged.index(owner, role)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Network:
    """A setup, computed: its lines, its buses, and what goes round in circles.

    `hearing` is what every microphone hears through the air, None where nothing has been placed. `circles` are the
    places of each; `circling` are the lines that are on one or hear one.
    """

    lines: tuple[LineState, ...]
    buses: tuple[BusLevel, ...]
    circles: tuple[tuple[NodeKey, ...], ...] = ()
    circling: frozenset[str] = frozenset()
    hearing: Hearing | None = None

    def line(self, line_id: str) -> LineState | None:
        """One line by its id."""
        return next((state for state in self.lines if state.line.id == line_id), None)


_Key = tuple[tuple[Stage, ...], tuple[float, ...]]
_Computed = tuple[Reading, LineLevels]


def _computed(keys: Sequence[_Key], engine: Engine) -> list[_Computed]:
    """Reading and levels of lines that are alone; those not remembered are solved together."""
    # Lines that an edit does not touch keep their physics; the key is the physics itself.
    table: Remembered[_Computed] = engine.table("lines", 512)
    found = {key: known for key in keys if (known := table.find_equal(key)) is not None}
    missing = list(dict.fromkeys(key for key in keys if key not in found))
    if missing:
        readings = read_spectra([stages for stages, _ in missing], [bands for _, bands in missing])
        for key, reading in zip(missing, readings, strict=True):
            found[key] = table.keep_equal(key, (reading, levels_of(reading)))
    return [found[key] for key in keys]


def network_of(setup: Setup, engine: Engine | None = None) -> Network:
    """Everything that is connected, computed: pure; an engine makes it quicker and changes nothing."""
    engine = engine or Engine()
    topology = Topology(setup, engine)
    found = tuple(topology.route(line) for line in setup.lines)
    hearing = hearing_in(setup, engine)
    heard = room_sounds(hearing, engine)
    graph = graph_of(setup, topology, engine, heard)
    groups = graph.components()
    group_of = {key: number for number, group in enumerate(groups) for key in group}
    circling = graph.reached()
    unsettled: set[str] = set()
    composed: dict[int, Composed] = {}
    states: list[LineState | None] = []
    plain: list[tuple[int, StagedLine]] = []
    table: Remembered[LineState] = engine.table("line states", 384)
    for number, route in enumerate(found):
        parts = (route, setup.room, setup.audio, _beside(route, heard))
        known = table.find(parts)
        staged = _staged(route, setup, engine, parts[-1]) if known is None else known.staged
        if staged is None:
            states.append(table.get(parts, lambda route=route: _uncomputed(route)))  # type: ignore[misc]
            continue
        if circling and any(part.key in circling for part in staged.parts):
            unsettled.add(route.line.id)
            states.append(_uncomputed(route))
            continue
        at = group_of.get(staged.parts[0].key)
        state = None
        if at is not None:
            if at not in composed:
                composed[at] = _composed(graph, groups[at], engine)
            state = _read_composed(route, staged, composed[at], engine)
        if state is not None:
            states.append(state)
        else:
            states.append(known)
            if known is None:
                plain.append((number, staged))
    keys = [(staged.stages, staged.response.octave_bands_db) for _, staged in plain]
    for (number, staged), (reading, levels) in zip(plain, _computed(keys, engine), strict=True):
        route = found[number]
        states[number] = table.keep(
            (route, setup.room, setup.audio, _beside(route, heard)),
            _state(route, staged, reading, levels, levels.peak_dbfs),
        )
    lines = tuple(state for state in states if state is not None)
    buses = _buses(setup, graph, group_of, groups, composed, lines, engine)
    return Network(
        lines=lines,
        buses=buses,
        circles=tuple(graph.circles),
        circling=frozenset(unsettled),
        hearing=hearing,
    )


def _beside(route: Route, heard: RoomSounds) -> RoomSound | None:
    """What is heard beside a line's source in its microphone."""
    if not heard or not route.has_source or not route.steps:
        return None
    step = route.steps[0]
    return heard.get((route.source.id, f"{step.owner}:{step.in_port}"))


def _staged(
    route: Route, setup: Setup, engine: Engine, heard: RoomSound | None
) -> StagedLine | None:
    table: Remembered[StagedLine | None] = engine.table("staged lines", 384)
    if not is_physical(route):
        return None
    parts = (route, setup.room, setup.audio, heard)
    return table.get(parts, lambda: stage_line(route, setup, heard))


def _composed(graph: Graph, group: list[NodeKey], engine: Engine) -> Composed:
    """A component, remembered by what it is made of."""
    table: Remembered[Composed] = engine.table("components", 64)
    key = tuple(
        (k, graph.stages[k], tuple(graph.following[k]), graph.responses.get(k)) for k in group
    )
    found = table.find_equal(key)
    return found if found is not None else table.keep_equal(key, compose(graph, group, engine))


def _read_composed(
    route: Route, staged: StagedLine, composed: Composed, engine: Engine
) -> LineState | None:
    """A line read off a component; None where its way is not in it: one that ends in the open."""
    table: Remembered[LineState | None] = engine.table("composed states", 384)

    def make() -> LineState | None:
        read: Read | None = read_path(staged, composed)
        if read is None:
            return None
        levels = levels_of(read.reading)
        together = None
        if read.input_v2 is not None and levels.peak_dbfs is not None:
            level = v2_to_dbu(read.input_v2)
            together = None if level is None else level - read.reading.converter().full_scale_dbu
        return _state(route, staged, read.reading, levels, together, composed)

    return table.get((staged, composed), make)


def _state(
    route: Route,
    staged: StagedLine,
    reading: Reading,
    levels: LineLevels,
    input_peak_dbfs: float | None,
    composed: Composed | None = None,
) -> LineState:
    figures = route.source.figures
    own_db = _own_db(staged, reading)
    if own_db and levels.snr_db is not None:
        # What is wanted stands above the noise, not what is heard beside it.
        levels = replace(levels, snr_db=levels.snr_db + own_db)
    held = driven(levels, staged)
    return LineState(
        line=route.line,
        route=route,
        playing=held.playing(figures.playing()),
        crest_db=held.crest_db(figures.crest_db),
        staged=staged,
        reading=reading,
        levels=held.levels,
        input_peak_dbfs=_input_peak_dbfs(input_peak_dbfs, levels, held),
        composed=composed,
        driven_db=held.by_stage,
        own_db=own_db,
    )


def _own_db(staged: StagedLine, reading: Reading) -> float:
    """How far the straight sound of a line's own source is below everything that its microphone hears, at its end."""
    columns = staged.response.columns
    if not columns:
        return 0.0
    power = np.abs(np.asarray(reading.junction(len(staged.parts) - 1).v_rms)) ** 2
    own = octave_weights(columns[0].octave_bands_db, reading.band)[:, 0]
    everything = octave_weights(staged.response.octave_bands_db, reading.band)[:, 0]
    share = float(np.sum(own * power)) * math.fsum(columns[0].powers)
    whole = float(np.sum(everything * power))
    return 10.0 * math.log10(share / whole) if share > 0.0 else 0.0


def _input_peak_dbfs(together_dbfs: float | None, levels: LineLevels, held: Driven) -> float | None:
    """What arrives at an input with the line held as it is driven; what others bring stays.

    source: derivation, signals of different origin add as powers
    """
    before, after = levels.peak_dbfs, held.levels.peak_dbfs
    if together_dbfs is None or before is None or after is None or not held.whole_db:
        return together_dbfs
    own, whole, now = (10.0 ** (db / 10.0) for db in (before, together_dbfs, after))
    return 10.0 * math.log10(max(0.0, whole - own) + now)


def _uncomputed(route: Route) -> LineState:
    figures = route.source_or_none.figures if route.source_or_none is not None else None
    return LineState(
        line=route.line,
        route=route,
        playing=NO_RANGE if figures is None else figures.playing(),
        crest_db=0.0 if figures is None else figures.crest_db,
        staged=None,
        reading=None,
        levels=None,
    )


def _buses(
    setup: Setup,
    graph: Graph,
    group_of: Mapping[NodeKey, int],
    groups: Sequence[list[NodeKey]],
    composed: dict[int, Composed],
    lines: Sequence[LineState],
    engine: Engine,
) -> tuple[BusLevel, ...]:
    """Every bus of a mixer that any line goes to."""
    mixers = {device.id: device for device in setup.devices if device.figures.mixes}
    if not mixers:
        return ()
    found = list(plain_buses(lines, mixers, group_of))
    for at, group in enumerate(groups):
        if any(graph.roles[key] == "bus" for key in group):
            if at not in composed:
                composed[at] = _composed(graph, group, engine)
            found += composed_buses(graph, group, composed[at], lines, mixers)
    order = list(mixers)
    return tuple(sorted(found, key=lambda bus: (order.index(bus.device), bus.port)))


def line_states(setup: Setup, engine: Engine | None = None) -> tuple[LineState, ...]:
    """All lines of a setup, computed."""
    return network_of(setup, engine).lines
