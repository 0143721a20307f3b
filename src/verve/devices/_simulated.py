"""The interface that ships: what arrives at its inputs is what the session would give."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np

from verve.core.assess import Assessment
from verve.core.engine import Remembered
from verve.core.kind import SourceFigures
from verve.core.session import Play, Source
from verve.core.sound import (
    LONGEST_CYCLE_S,
    Cycle,
    Played,
    PlayerKey,
    Renderer,
    Room,
    manner_of,
    perform,
    seed_of,
)
from verve.core.units import FloatArray
from verve.devices._device import Block, arrivals
from verve.devices._spoils import Spoils

BLOCK_FRAMES = 4096


class SimulatedInterface:
    """A recorder of a session as an audio device: every input hears everything that reaches it."""

    def __init__(
        self,
        assessment: Assessment,
        device: str,
        *,
        play: Play,
        seconds: float,
        wanted: frozenset[int] | None = None,
        block_frames: int = BLOCK_FRAMES,
        variation: int = 0,
        only: frozenset[str] | None = None,
    ) -> None:
        """`seconds` is how long the players have to fit their performance into; `wanted` are the channels
        that will be looked at, all of them unless said: the others stay silent. With a variation they play as
        in some take, not exactly as announced. `only` are the sources that play, all unless said."""
        self._assessment, self._variation, self._only = assessment, variation, only
        self._seconds, self._play = seconds, play
        self._block_frames = block_frames
        owner = next(d for d in assessment.session.setup.devices if d.id == device)
        self.name = f"{owner.name}, simulated"
        self.channels_in = len(owner.figures.input_ports())
        self.channels_out = 2
        self.sample_rate_hz: int = assessment.session.setup.audio.sample_rate_hz
        self._channels: list[int] = []
        lines = []
        for line_id, arrival in arrivals(assessment).items():
            is_wanted = wanted is None or arrival.channel in wanted
            if arrival.device == device and is_wanted and arrival.channel not in self._channels:
                item = assessment.line(line_id)
                assert item is not None
                self._channels.append(arrival.channel)
                lines.append((item.state, item.is_alive))
        self._renderer = Renderer(lines, rate_hz=self.sample_rate_hz, block_frames=block_frames)
        here = {line: a.channel for line, a in arrivals(assessment).items() if a.device == device}
        self._spoils = Spoils.of(assessment, here, variation) if variation else None
        self._rooms: dict[float, Room] = {}
        self._at, self._begins = 0, 0
        self._cycles = [self._at_place(key) for key in self._renderer.players]

    def perform_as(self, play: Play, only: frozenset[str]) -> None:
        """From the next block on these sources play so, from their beginning; whatever hisses and hums goes on."""
        self._play, self._only, self._rooms = play, only, {}
        self._cycles = [self._at_place(key) for key in self._renderer.players]
        self._begins = self._at

    def _at_place(self, key: PlayerKey) -> Cycle:
        """One cycle of what arrives at a source's plug, or at a microphone of its."""
        is_heard = self._plays(key.source) if not key.columns else self._only != frozenset()
        if not is_heard:
            nothing = np.zeros(int(min(self._seconds, LONGEST_CYCLE_S) * self.sample_rate_hz))
            return Cycle(first=nothing, following=nothing)
        if not key.columns:
            figures = self._figures(key.source)
            played = self._perform(key.source, figures, key.octave_bands_db)
            return Cycle(first=played, following=played)
        table: Remembered[Cycle] = self._assessment.engine.table("cycles", 24)
        seconds = min(self._seconds, LONGEST_CYCLE_S)
        asked = (
            key, self._play, seconds, self.sample_rate_hz, self._everybody(), self._variation, self._only
        )  # fmt: skip
        found = table.find_equal(asked)
        if found is not None:
            return found
        if key.rt60_s not in self._rooms:
            played_by = {one.id: self._played(one.id) for one in self._acoustic()}
            played_by = {
                key: played if self._plays(key) else _silent(played)
                for key, played in played_by.items()
            }
            mixed = _mixed(played_by)
            loudspeakers = self._assessment.session.setup.placement.things
            played_by |= {one.id: mixed for one in loudspeakers}
            self._rooms[key.rt60_s] = Room(played_by, self.sample_rate_hz, key.rt60_s)
        made = self._rooms[key.rt60_s].at(key.columns, seed_of(f"room at {key.place}"))
        return table.keep_equal(asked, made)

    def _plays(self, source: str) -> bool:
        return self._only is None or source in self._only

    def _acoustic(self) -> list[Source]:
        return [s for s in self._assessment.session.setup.sources if s.figures.is_acoustic]

    def _everybody(self) -> tuple[object, ...]:
        """All who can be heard, as far as it makes a difference how they play."""
        return tuple(
            (s.id, manner_of(s.figures), s.figures.octave_bands_db, s.figures.playing())
            for s in self._acoustic()
        )

    def _figures(self, source: str) -> SourceFigures:
        sources = self._assessment.session.setup.sources
        return next(s.figures for s in sources if s.id == source)

    def _played(self, source: str) -> Played:
        figures = self._figures(source)
        bands = figures.octave_bands_db
        return Played(
            cycle=self._perform(source, figures, bands),
            octaves=np.asarray(10.0 ** (np.array(bands) / 10.0)),
        )

    def _perform(
        self, source: str, figures: SourceFigures, bands_db: tuple[float, ...]
    ) -> FloatArray:
        """One cycle of playing; made once as long as the engine remembers it, since it takes a while."""
        table: Remembered[FloatArray] = self._assessment.engine.table("performances", 32)
        # Longer than its cycle a performance repeats: all of those are one.
        seconds = min(self._seconds, LONGEST_CYCLE_S)
        asked = (
            manner_of(figures),
            self._variation,
            bands_db,
            figures.playing(),
            self._play,
            seconds,
            self.sample_rate_hz,
            # One source heard by two microphones plays the same notes into both.
            seed_of(source),
        )
        known = table.find_equal(asked)
        if known is not None:
            return known
        made = perform(
            player=manner_of(figures),
            octave_bands_db=bands_db,
            playing=figures.playing(),
            play=self._play,
            seconds=seconds,
            rate_hz=self.sample_rate_hz,
            seed=seed_of(source),
            variation=self._variation,
        )
        return table.keep_equal(asked, made)

    def blocks(self, frames: int) -> Iterator[Block]:
        """What it records, so many frames in all; the same session gives the same sound."""
        at = 0
        while at < frames:
            index = np.arange(at, at + self._block_frames) - self._begins
            performances = np.zeros((len(self._cycles), self._block_frames))
            for number, cycle in enumerate(self._cycles):
                performances[number] = cycle.stretch(index)
            count = min(self._block_frames, frames - at)
            samples = np.zeros((self.channels_in, count))
            if self._channels:
                samples[self._channels] = self._renderer(performances)[:, :count]
            if self._spoils is not None:
                self._spoils.apply(samples, at)
            self._at = at + count
            yield Block(start_frame=at, samples=samples)
            at += count


def _silent(played: Played) -> Played:
    return Played(cycle=np.zeros_like(played.cycle), octaves=played.octaves)


def _mixed(played: Mapping[str, Played]) -> Played:
    """What a loudspeaker gives back: of everybody alike."""
    cycle = np.asarray(sum(one.cycle for one in played.values()))
    peak = float(np.abs(cycle).max(initial=0.0))
    octaves = np.asarray(sum(one.octaves / one.octaves.sum() for one in played.values()))
    return Played(cycle=cycle / peak if peak else cycle, octaves=octaves)
