"""One line of a session, followed and computed: what every rule about it looks at."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from verve.core.chain._staging import StagedLine, is_physical, stage_line
from verve.core.line import LineLevels, Reading, Stage, levels_of, read_spectrum
from verve.core.session import (
    Control,
    Hop,
    InterfaceFigures,
    Line,
    MixerFigures,
    PlayingRange,
    PreampFigures,
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


_cache: dict[tuple[tuple[Stage, ...], tuple[float, ...]], tuple[Reading, LineLevels]] = {}
_LARGEST_CACHE = 256


def _computed(stages: tuple[Stage, ...], bands: tuple[float, ...]) -> tuple[Reading, LineLevels]:
    # Lines that an edit does not touch keep their physics; the key is the physics itself.
    key = (stages, bands)
    found = _cache.get(key)
    if found is None:
        reading = read_spectrum(stages, bands)
        found = (reading, levels_of(reading))
        if len(_cache) >= _LARGEST_CACHE:
            _cache.clear()
        _cache[key] = found
    return found


def clear_cache() -> None:
    """Forget what was computed: for measuring how long computing takes."""
    _cache.clear()


def line_state(route: Route, setup: Setup) -> LineState:
    """Follow and compute one line."""
    figures = route.source.figures
    staged = stage_line(route, setup) if is_physical(route) else None
    reading = levels = None
    if staged is not None:
        reading, levels = _computed(staged.stages, figures.octave_bands_db)
    return LineState(
        line=route.line,
        route=route,
        playing=playing_range(figures),
        crest_db=figures.crest_db,
        staged=staged,
        reading=reading,
        levels=levels,
    )


def has_own_gain(hop: Hop) -> bool:
    """Whether a device on the way has a gain that can be turned."""
    figures = hop.device.figures
    if isinstance(figures, PreampFigures):
        return figures.gain_max_db > figures.gain_min_db
    return isinstance(figures, MixerFigures | InterfaceFigures)
