"""One line of a session, followed and computed: what every rule about it looks at."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from verve.core.chain._buses import noise_of_others_v2, with_bus_noise
from verve.core.chain._staging import StagedLine, is_physical, stage_line
from verve.core.line import LineLevels, Reading, Stage, levels_of, read_spectra
from verve.core.session import (
    Control,
    Hop,
    InterfaceFigures,
    Line,
    MixerFigures,
    PlayingRange,
    Remembered,
    Route,
    Setup,
    playing_range,
)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class LineState:
    """A line with its route, its stages and its levels at the hardest playing.

    `staged`, `reading` and `levels` are None for a line that cannot be computed as it stands.
    """

    line: Line
    route: Route
    playing: PlayingRange
    crest_db: float
    staged: StagedLine | None
    reading: Reading | None
    levels: LineLevels | None

    @property
    def peak_dbfs(self) -> float | None:
        """Hardest peak at the recorder."""
        return None if self.levels is None else self.levels.peak_dbfs

    def below_hardest_db(self, play: str) -> float:
        """How far a way of playing stays below the hardest; a phrase reaches it."""
        levels = {"softest": self.playing.softest_db, "typical": self.playing.typical_db}
        return self.playing.hardest_db - levels.get(play, self.playing.hardest_db)

    def recorder_controls(self) -> Mapping[str, Control]:
        """Controls of the recorder's input, by name."""
        recorder = self.route.recorder
        return {} if recorder is None else recorder.controls

    def level_control(self) -> Control | None:
        """The gain that sets this line's level: a mixer's trim where there is one, else the preamp."""
        for hop in self.route.hops:
            if isinstance(hop.device.figures, MixerFigures):
                return hop.controls.get("gain_db")
        return self.recorder_controls().get("gain_db")

    def hops_before_recorder(self) -> tuple[Hop, ...]:
        """Devices between source and interface."""
        return tuple(
            h for h in self.route.hops if not isinstance(h.device.figures, InterfaceFigures)
        )

    def index_of(self, owner: str, role: str) -> int | None:
        """Where a stage stands on the line."""
        return None if self.staged is None else self.staged.index(owner, role)


_Key = tuple[tuple[Stage, ...], tuple[float, ...]]
_cache: dict[_Key, tuple[Reading, LineLevels]] = {}
_LARGEST_CACHE = 512


def _computed(keys: Sequence[_Key]) -> list[tuple[Reading, LineLevels]]:
    """Reading and levels of lines; those not remembered are solved together."""
    # Lines that an edit does not touch keep their physics; the key is the physics itself.
    # What is found stays in hand: another thread may be filling or emptying the cache meanwhile.
    found = {key: known for key in keys if (known := _cache.get(key)) is not None}
    missing = list(dict.fromkeys(key for key in keys if key not in found))
    if missing:
        if len(_cache) + len(missing) > _LARGEST_CACHE:
            _cache.clear()
        readings = read_spectra([stages for stages, _ in missing], [bands for _, bands in missing])
        for key, reading in zip(missing, readings, strict=True):
            found[key] = _cache[key] = (reading, levels_of(reading))
    return [found[key] for key in keys]


def clear_cache() -> None:
    """Forget what was computed: for measuring how long computing takes."""
    _cache.clear()
    _states.clear()


_states: Remembered[LineState] = Remembered(1024)


def line_states(routes: Sequence[Route], setup: Setup) -> list[LineState]:
    """Follow and compute lines, all at once; those that are as they were come as they were."""
    found: dict[int, LineState] = {}
    staged: dict[int, StagedLine | None] = {}
    for number, route in enumerate(routes):
        known = _states.find((route, setup.room, setup.audio))
        if known is not None:
            found[number] = known
        else:
            staged[number] = stage_line(route, setup) if is_physical(route) else None
    keys = [
        (line.stages, line.colour.octave_bands_db) for line in staged.values() if line is not None
    ]
    computed = iter(_computed(keys))
    for number, line in staged.items():
        route = routes[number]
        reading, levels = next(computed) if line is not None else (None, None)
        found[number] = _states.keep(
            (route, setup.room, setup.audio),
            LineState(
                line=route.line,
                route=route,
                playing=playing_range(route.source.figures),
                crest_db=route.source.figures.crest_db,
                staged=line,
                reading=reading,
                levels=levels,
            ),
        )
    return _with_buses([found[number] for number in range(len(routes))])


_bus_states: Remembered[LineState] = Remembered(256)


def _with_buses(states: list[LineState]) -> list[LineState]:
    """The same states, with what lines that meet in a mixer do to each other's noise."""
    lines = [
        (s.staged, s.reading) for s in states if s.staged is not None and s.reading is not None
    ]
    more_v2 = noise_of_others_v2(lines)
    if not more_v2:
        return states
    return [
        _noisier(state, more_v2[state.line.id]) if state.line.id in more_v2 else state
        for state in states
    ]


def _noisier(state: LineState, noise_v2: float) -> LineState:
    def make() -> LineState:
        assert state.staged is not None
        staged = with_bus_noise(state.staged, noise_v2)
        reading, levels = _computed([(staged.stages, staged.colour.octave_bands_db)])[0]
        return replace(state, staged=staged, reading=reading, levels=levels)

    return _bus_states.get((state, f"{noise_v2:.9e}"), make)
