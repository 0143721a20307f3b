"""What is drawn of a line beside its corridor: its response, and whose its noise is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from verve.core.explain import _words as words
from verve.core.line import OCTAVE_CENTRES_HZ, quantisation_share
from verve.core.network import LineState, Part, microphone_response_db
from verve.core.stages import Converter, Sound
from verve.core.units import FloatArray, power_to_db
from verve.core.words import Fact, fill

REFERENCE_HZ = 1000.0
EDGE_DB = -3.0


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Response:
    """How a line treats bass and treble, against 1 kHz.

    `whole_db` is at the recorder, the microphone's own colour included; `open_db` is the source by
    itself, with nothing connected to it. Edges are where the whole has fallen by 3 dB; None where it
    has not within the band.

    shape: (n_freq,)
    """

    hz: FloatArray
    whole_db: FloatArray
    open_db: FloatArray
    low_edge_hz: float | None
    high_edge_hz: float | None

    def sentence(self) -> str:
        """The picture in words."""
        low = (
            words.ALL_BASS
            if self.low_edge_hz is None
            else fill(words.BASS_TO, edge_hz=self.low_edge_hz)
        )
        high = (
            words.ALL_TREBLE
            if self.high_edge_hz is None
            else fill(words.TREBLE_TO, edge_khz=self.high_edge_hz / 1000.0)
        )
        return fill(words.LETS_THROUGH, low=low, high=high)


def response_facts(response: Response) -> tuple[Fact, ...]:
    """Where bass and treble end."""
    found = []
    for label, edge_hz in (
        (words.BASS_ENDS, response.low_edge_hz),
        (words.TREBLE_ENDS, response.high_edge_hz),
    ):
        text = words.BEYOND_BAND if edge_hz is None else fill(words.EDGE, edge_hz=edge_hz)
        how = words.EDGE_HOW
        found.append(Fact(label=label, text=text, origin="computed", how=how))
    return tuple(found)


@dataclass(frozen=True, slots=True, kw_only=True)
class NoisePart:
    """One origin of the noise in the recording.

    unit: dBFS A-weighted; share 0…1 of the noise power
    """

    name: str
    share: float
    level_dbfs_a: float
    is_room: bool = False
    """Whether it is what the microphone hears of the room itself."""


def _relative_db(magnitude: FloatArray, reference: int) -> FloatArray:
    floor = np.maximum(magnitude, magnitude.max() * 1e-6)
    return np.asarray(20.0 * np.log10(floor / floor[reference]))


def _edge_hz(hz: FloatArray, level_db: FloatArray, start: int, way: int) -> float | None:
    fallen = np.flatnonzero(level_db[start::way] < EDGE_DB)
    return float(hz[start::way][fallen[0]]) if len(fallen) else None


def response_of(state: LineState) -> Response | None:
    """Bass and treble of a line; None for one that cannot be computed or has no signal."""
    return state.once("response", lambda: _response(state))


def _response(state: LineState) -> Response | None:
    if state.reading is None or state.staged is None or state.peak_dbfs is None:
        return None
    hz = state.reading.band.hz
    reference = int(np.abs(np.log(hz / REFERENCE_HZ)).argmin())
    end = state.reading.junction(len(state.staged.parts) - 1)
    first = 1 if isinstance(state.staged.parts[0].stage, Sound) else 0
    source = state.reading.junction(first)
    whole = _relative_db(np.abs(end.v_rms), reference)
    if state.route.steps[0].capsule is not None:
        octaves = np.log(OCTAVE_CENTRES_HZ)
        capsule_db = np.interp(
            np.log(hz), octaves, microphone_response_db(state.route.source, state.route.steps[0])
        )
        whole = whole + capsule_db - capsule_db[reference]
    whole.setflags(write=False)
    return Response(
        hz=hz,
        whole_db=whole,
        open_db=_relative_db(np.abs(source.open_v_rms), reference),
        low_edge_hz=_edge_hz(hz, whole, reference, -1),
        high_edge_hz=_edge_hz(hz, whole, reference, 1),
    )


ROUNDING = words.ROUNDING
"""What the recording software's rounding to its bits is called."""


def origin_of_noise(state: LineState, part: Part) -> str:
    """What a stage's noise is called."""
    if isinstance(part.stage, Sound):
        return words.ROOM
    if part.role in words.OF_ROLES:
        return words.OF_ROLES[part.role]
    return (
        state.route.source.name
        if part.step_index is None
        else state.route.steps[part.step_index].name
    )


def noise_parts(state: LineState) -> tuple[NoisePart, ...]:
    """Origins of the noise at the recorder, the largest first; those below half a percent left out."""
    staged, levels = state.staged, state.levels
    if staged is None or levels is None or levels.noise_dbfs_a is None:
        return ()
    by_name: dict[str, float] = {}
    for part, share in zip(staged.parts, levels.noise_shares, strict=True):
        if isinstance(part.stage, Converter):
            rounding = share * quantisation_share(part.stage)
            by_name[ROUNDING] = by_name.get(ROUNDING, 0.0) + rounding
            share -= rounding
        name = origin_of_noise(state, part)
        by_name[name] = by_name.get(name, 0.0) + share
    return tuple(
        NoisePart(
            name=name,
            share=share,
            level_dbfs_a=levels.noise_dbfs_a + (power_to_db(share) or 0.0),
            is_room=name == words.ROOM,
        )
        for name, share in sorted(by_name.items(), key=lambda item: -item[1])
        if share >= 0.005
    )
