"""The same on this meter, this knob, this voice: what it would do to the signal, and whether it suits."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

from verve.core.advised import _words as words
from verve.core.advised._phrases import LAMPS_DBFS, Phrase, understood
from verve.core.engine import Engine
from verve.core.errors import EditError
from verve.core.gain import (
    Window,
    dial_hours,
    gain_of_hour,
    hour_words,
    meter_zero_dbfs,
    windows_of,
)
from verve.core.kind import Control, control_text
from verve.core.monitor import option, strictest_ms
from verve.core.network import LineState, line_states
from verve.core.session import Change, Session, apply_changes
from verve.core.words import fill

_POPS_M, _FAR_M = 0.05, 1.5
_BUSY = 0.85


@dataclass(frozen=True, slots=True, kw_only=True)
class Meaning:
    """One reading of an advice: how it is taken, what it is here, and whether it would suit (None: it hangs on).

    `changes` is what would be set for it.
    """

    taken: str
    says: tuple[str, ...]
    verdict: str
    suits: bool | None
    peak_dbfs: float | None = None
    changes: tuple[Change, ...] = ()


def meanings_of(
    session: Session, line_id: str, text: str, engine: Engine | None = None
) -> tuple[Meaning, ...]:
    """What an advice means for one signal, by each way it can be taken; one that says so where nothing is known."""
    engine = engine or Engine()
    state = next((s for s in line_states(session.setup, engine) if s.line.id == line_id), None)
    phrase = understood(text)
    if phrase is None or state is None or state.peak_dbfs is None:
        return (Meaning(taken="", says=(), verdict=words.NOT_UNDERSTOOD, suits=None),)
    return tuple(_Reader(session, state, engine).read(phrase))


class _Reader:
    """Reads phrases for one signal."""

    def __init__(self, session: Session, state: LineState, engine: Engine) -> None:
        self._session, self._state, self._engine = session, state, engine
        self._target: Window = windows_of([state], session.setup)[state.line.id]
        assert state.peak_dbfs is not None
        self._peak_dbfs: Final = state.peak_dbfs

    def read(self, phrase: Phrase) -> Iterator[Meaning]:
        """Every way a phrase can be taken."""
        match phrase.what:
            case "level":
                if phrase.average is not True:
                    yield self._level(words.AS_PEAKS, phrase.value)
                if phrase.average is not False:
                    yield self._level(words.AS_AVERAGE, phrase.value + self._over_average_db)
                yield from self._on_a_mixer(phrase)
            case "lamp":
                recorder = self._state.route.recorder
                assert recorder is not None
                device = recorder.name
                taken = fill(
                    words.AS_LAMP, lamp=phrase.lamp, device=device, at_dbfs=LAMPS_DBFS[phrase.lamp]
                )
                yield self._level(taken, phrase.value)
            case "hour" | "gain":
                yield self._knob(phrase)
            case "distance":
                yield self._distance(phrase)
            case "buffer":
                yield self._buffer(int(phrase.value))
            case "pad":
                yield self._pad(is_in=phrase.value > 0.0)

    def _on_a_mixer(self, phrase: Phrase) -> Iterator[Meaning]:
        """A mixer has a meter of its own, whose 0 is somewhere else."""
        mixer, zero_dbfs = self._state.mixer(), meter_zero_dbfs(self._state)
        if mixer is not None and zero_dbfs is not None:
            taken = fill(words.AS_MIXER, device=mixer.name, zero_dbfs=zero_dbfs)
            yield self._level(taken, zero_dbfs + phrase.value)

    @property
    def _over_average_db(self) -> float:
        """How far the hardest peak is above the average of usual playing.

        source: derivation, typical peak over RMS, and what the hardest is above usual playing
        """
        playing = self._state.playing
        return self._state.crest_db + playing.hardest_db - playing.typical_db

    # ── levels and knobs ──────────────────────────────────────────────────────────────────────
    def _level(self, taken: str, peak_dbfs: float) -> Meaning:
        control = self._state.level_control()
        says = [fill(words.PEAK_HERE, line=self._state.line.name, peak_dbfs=peak_dbfs)]
        if control is None:
            says.append(fill(words.NO_KNOB, line=self._state.line.name))
            return self._judged(taken, says, peak_dbfs, ())
        now = float(control.value or 0.0)
        wanted = now + peak_dbfs - self._peak_dbfs
        value = control.clamped(wanted)
        by_db = value - now
        if abs(wanted - value) > 0.5:
            says.append(fill(words.TURN_NOT, value=control_text(control, value)))
        elif abs(by_db) < 0.5:
            says.append(words.STAYS)
        else:
            way = words.UP if by_db > 0.0 else words.DOWN
            says.append(fill(words.TURN, way=way, by_db=abs(by_db), hour=_stands(control, value)))
        return self._judged(taken, says, self._peak_dbfs + by_db, (_change(control, value),))

    def _knob(self, phrase: Phrase) -> Meaning:
        control = self._state.level_control()
        if control is None:
            said = fill(words.NO_KNOB, line=self._state.line.name)
            return Meaning(taken="", says=(), verdict=said, suits=None)
        device = self._device_of(control)
        if phrase.what == "hour":
            value = gain_of_hour(control, phrase.value)
            taken = fill(
                words.AS_HOUR, control=control.label, device=device, hour=hour_words(phrase.value)
            )
            says = [fill(words.IS_GAIN, gain_db=value, sure=words.SURE[control.dial is not None])]
        else:
            value = control.clamped(phrase.value)
            text = control_text(control, value)
            taken = fill(words.AS_GAIN, control=control.label, device=device, value=text)
            says = [] if value == phrase.value else [fill(words.TURN_NOT, value=text)]
        says.append(fill(words.NOW, now=_stands(control, float(control.value or 0.0))))
        peak = self._peak_with((_change(control, value),))
        says.append(fill(words.PEAK_HERE, line=self._state.line.name, peak_dbfs=min(0.0, peak)))
        return self._judged(taken, says, peak, (_change(control, value),))

    def _device_of(self, control: Control) -> str:
        return next(s.name for s in self._state.route.steps if s.owner == control.owner)

    def _after(self, changes: tuple[Change, ...]) -> LineState:
        after = apply_changes(self._session, changes)
        found = (
            s for s in line_states(after.setup, self._engine) if s.line.id == self._state.line.id
        )
        return next(found)

    def _peak_with(self, changes: tuple[Change, ...]) -> float:
        peak = self._after(changes).peak_dbfs
        return self._peak_dbfs if peak is None else peak

    def _judged(
        self, taken: str, says: list[str], peak_dbfs: float, changes: tuple[Change, ...]
    ) -> Meaning:
        """Against the target of this signal, and every ceiling on its way."""
        over, where = self._clips(changes)
        target = self._target
        if over > 0.0:
            verdict, suits = fill(words.CLIPS, over_db=over, where=where), False
        elif peak_dbfs > target.highest_dbfs + 0.5:
            over_db = peak_dbfs - target.highest_dbfs
            verdict, suits = fill(words.TOO_HIGH, over_db=over_db), False
        elif peak_dbfs < target.lowest_dbfs - 0.5:
            under_db = target.lowest_dbfs - peak_dbfs
            verdict, suits = fill(words.TOO_LOW, under_db=under_db), False
        else:
            low, high = target.lowest_dbfs, target.highest_dbfs
            verdict, suits = fill(words.SUITS, low_dbfs=low, high_dbfs=high), True
        return Meaning(
            taken=taken, says=tuple(says), verdict=verdict, suits=suits, peak_dbfs=peak_dbfs, changes=changes
        )  # fmt: skip

    def _clips(
        self, changes: tuple[Change, ...], *, before_gain: bool = False
    ) -> tuple[float, str]:
        """By how much it clips at worst, and where; 0 for nowhere."""
        try:
            state = self._after(changes)
        except EditError:
            return 0.0, ""
        if state.levels is None or state.staged is None:
            return 0.0, ""
        last = len(state.levels.headroom_db) - (1 if before_gain else 0)
        rows = [
            (-headroom, number)
            for number, headroom in enumerate(state.levels.headroom_db[:last])
            if headroom is not None and headroom < 0.0 and number not in state.driven_db
        ]
        if not rows:
            return 0.0, ""
        over, number = max(rows)
        at = state.staged.parts[number].step_index
        return over, state.route.source.name if at is None else state.route.steps[at].name

    # ── everything else ───────────────────────────────────────────────────────────────────────
    def _distance(self, phrase: Phrase) -> Meaning:
        step = self._state.route.steps[0]
        control = step.controls.get("distance_m")
        if control is None:
            said = fill(words.NO_MICROPHONE, line=self._state.line.name)
            return Meaning(taken="", says=(), verdict=said, suits=None)
        value = control.clamped(round(phrase.value, 3))
        text = control_text(control, value)
        says = []
        if phrase.is_typical:
            says.append(fill(words.AS_BODY, said=phrase.said, distance=text))
        says.append(fill(words.NOW, now=control_text(control, control.value)))
        changes = (_change(control, value),)
        after = self._after(changes)
        by_db = (after.peak_dbfs or 0.0) - self._peak_dbfs
        way = words.LOUDER if by_db >= 0.0 else words.SOFTER
        says.append(fill(words.LEVEL_BY, by_db=abs(by_db), way=way))
        noise_db = _snr(after) - _snr(self._state)
        if abs(noise_db) >= 1.0:
            way = words.BETTER if noise_db > 0.0 else words.WORSE
            says.append(fill(words.NOISE_BY, by_db=abs(noise_db), way=way))
        over, where = self._clips(changes, before_gain=True)
        verdict, suits = words.DISTANCE_SUITS, True
        if over > 0.0:
            verdict, suits = fill(words.DISTANCE_CLIPS, where=where), False
        elif self._state.route.source.figures.player == "voice" and value < _POPS_M:
            verdict, suits = words.POPS, False
        elif value > _FAR_M:
            verdict, suits = words.FAR, False
        taken = fill(words.AS_DISTANCE, microphone=step.name, distance=text)
        return Meaning(
            taken=taken, says=tuple(says), verdict=verdict, suits=suits, peak_dbfs=after.peak_dbfs, changes=changes
        )  # fmt: skip

    def _buffer(self, frames: int) -> Meaning:
        rate = float(self._session.setup.audio.sample_rate_hz)
        found = option(self._session, frames, rate)
        late = found.round_trip_ms > strictest_ms(self._session)
        busy = found.busy > _BUSY
        return Meaning(
            taken=fill(words.AS_BUFFER, frames=str(frames)),
            says=(fill(words.LATE, ms=found.round_trip_ms, busy=min(found.busy, 9.99)),),
            verdict=words.TOO_BUSY if busy else words.TOO_LATE if late else words.LATE_SUITS,
            suits=not busy and not late,
        )

    def _pad(self, *, is_in: bool) -> Meaning:
        steps = self._state.route.steps
        found = [(s.name, c) for s in steps if (c := s.controls.get("pad_db")) is not None]
        if not found:
            said = fill(words.NO_PAD, line=self._state.line.name)
            return Meaning(taken="", says=(), verdict=said, suits=None)
        device, control = found[0]
        values = sorted(float(choice or 0.0) for choice in control.choices)
        change = _change(control, values[-1] if is_in else values[0])
        state = control_text(control, change.value)
        peak = self._peak_with((change,))
        taken = fill(words.AS_PAD, device=device, state=state)
        says = [fill(words.PEAK_HERE, line=self._state.line.name, peak_dbfs=min(0.0, peak))]
        return self._judged(taken, says, peak, (change,))


def _snr(state: LineState) -> float:
    return 0.0 if state.levels is None or state.levels.snr_db is None else state.levels.snr_db


def _stands(control: Control, value: float) -> str:
    return dial_hours(control, value) if control.is_dial else control_text(control, value)


def _change(control: Control, value: float) -> Change:
    return Change(owner=control.owner, channel=control.channel, name=control.name, value=value)
