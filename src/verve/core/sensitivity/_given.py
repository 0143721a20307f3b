"""What another piece of gear would give in a line, here: by assessing the changed session."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from verve.core import patch
from verve.core.errors import EditError
from verve.core.explain import response_of
from verve.core.gain import settled, windows_of
from verve.core.kind import DeviceFigures, Mode, SourceFigures, is_device_figures
from verve.core.network import LineState, is_alive, line_states, octaves_dbu
from verve.core.power import findings as power_findings
from verve.core.quantities import OCTAVES_HZ
from verve.core.sensitivity import _words as words
from verve.core.session import Session, move_input, replace_device, replace_source
from verve.core.words import Fact, capital, fill, level_text


@dataclass(frozen=True, slots=True, kw_only=True)
class Given:
    """What a line gives once its gain is set for the aim; None where it cannot be computed.

    unit: dBFS for peak and noise (A-weighted), dB for what is between and for the least headroom; `bass_db` and
    `treble_db` are the octaves of 63 and 125 Hz, and of 4 and 8 kHz, against that of 1 kHz
    """

    peak_dbfs: float | None
    noise_dbfs_a: float | None
    snr_db: float | None
    headroom_db: float | None
    room_share: float
    reaches_target: bool
    bass_db: float | None = None
    treble_db: float | None = None


_BASS_HZ, _MIDDLE_HZ, _TREBLE_HZ = (63.0, 125.0), 1000.0, (4000.0, 8000.0)


def _against_middle_db(state: LineState, hz: Sequence[float]) -> float | None:
    """The mean of some octaves against the one in the middle; None where one of them is empty."""
    octaves = octaves_dbu(state)
    if octaves is None:
        return None
    by_hz = dict(zip(OCTAVES_HZ, octaves, strict=True))
    middle, found = by_hz[_MIDDLE_HZ], [by_hz[one] for one in hz]
    known = [db for db in found if db is not None]
    if middle is None or len(known) < len(found):
        return None
    return sum(known) / len(known) - middle


def _state(session: Session, line_id: str) -> LineState | None:
    states = line_states(session.setup)
    return next((state for state in states if state.line.id == line_id), None)


def given(session: Session, line_id: str) -> Given | None:
    """What a line gives once it is settled; None for an unknown one."""
    state = _state(settled(session, (line_id,)), line_id)
    if state is None:
        return None
    levels = state.levels
    if levels is None or not is_alive(state.route):
        return Given(
            peak_dbfs=None,
            noise_dbfs_a=None,
            snr_db=None,
            headroom_db=None,
            room_share=0.0,
            reaches_target=False,
        )
    window = windows_of([state], session.setup)[line_id]
    rooms = [room for room in levels.headroom_db if room is not None]
    peak = levels.peak_dbfs
    is_heard = state.staged is not None and state.staged.parts[0].stage.stage == "sound"
    return Given(
        peak_dbfs=peak,
        noise_dbfs_a=levels.noise_dbfs_a,
        snr_db=levels.snr_db,
        headroom_db=min(rooms) if rooms else None,
        room_share=levels.noise_shares[0] if is_heard else 0.0,
        reaches_target=peak is not None
        and window.lowest_dbfs - 0.05 <= peak <= window.highest_dbfs + 0.05
        and (not rooms or min(rooms) >= 0.0),
        bass_db=_against_middle_db(state, _BASS_HZ),
        treble_db=_against_middle_db(state, _TREBLE_HZ),
    )


def replaced(
    session: Session, owner: str, figures: DeviceFigures | SourceFigures, name: str
) -> Session:
    """The session with other gear in the place of a source or device.

    raises: EditError if it cannot stand there
    """
    if is_device_figures(figures):
        return replace_device(session, owner, figures, name)
    assert isinstance(figures, SourceFigures)
    return replace_source(session, owner, figures)


def _row(label: str, before: str, after: str, how: str) -> Fact:
    return Fact(label=label, text=f"{before} → {after}", origin="computed", how=how)


def _level(value: float | None) -> str:
    return "none" if value is None else level_text(value, "dBFS")


def replacement_facts(before: Given, after: Given) -> tuple[Fact, ...]:
    """What an exchange does, as before → after, both with the gain set for the aim."""
    how = words.GIVEN_HOW
    found = [
        _row(words.HARDEST_PEAK, _level(before.peak_dbfs), _level(after.peak_dbfs), how),
        _row(words.NOISE, _level(before.noise_dbfs_a), _level(after.noise_dbfs_a), how),
    ]
    if before.snr_db is not None and after.snr_db is not None:
        text = (
            fill(words.ABOVE_NOISE, snr_db=before.snr_db),
            fill(words.ABOVE_NOISE, snr_db=after.snr_db),
        )
        found.append(_row(words.SNR, *text, how))
    if before.room_share > 0.005 or after.room_share > 0.005:
        text = f"{before.room_share:.0%}", f"{after.room_share:.0%}"
        found.append(_row(words.ROOM_SHARE, *text, fill(words.ROOM_SHARE_HOW, how=how)))
    return tuple(found)


def replacement_verdict(before: Given, after: Given) -> str:
    """The same in one sentence."""
    if after.snr_db is None:
        return words.NO_SIGNAL
    if not after.reaches_target:
        return words.NO_AIM
    if before.snr_db is None:
        return words.SIGNAL_NOW
    gained = after.snr_db - before.snr_db
    if abs(gained) < 1.0:
        why = words.ROOM_IS_NOISE if after.room_share > 0.5 else ""
        return fill(words.SAME_NOISE, why=why)
    way = words.FURTHER if gained > 0.0 else words.NEARER
    return fill(words.WOULD_STAND, by_db=abs(gained), way=way)


@dataclass(frozen=True, slots=True, kw_only=True)
class InputOption:
    """Another socket for a line: where, in which mode, and what it would do there."""

    port: str
    mode: Mode
    words: str
    consequence: str
    is_sound: bool


def _edges(state: LineState) -> str:
    response = response_of(state)
    return "" if response is None else response.sentence()


def _said(parts: Sequence[str]) -> str:
    """Consequences one after the other; the last is a sentence of its own."""
    if not parts:
        return ""
    *before, edges = parts
    told = "; ".join(part for part in before if part)
    return ". ".join(part for part in (capital(told), edges) if part)


def input_options(session: Session, line_id: str) -> tuple[InputOption, ...]:
    """Free sockets of a line's recorder, each with its consequence, the sound ones first.

    What would harm something is not offered.
    """
    now = given(session, line_id)
    state = _state(session, line_id)
    if state is None or state.route.recorder is None or now is None:
        return ()
    recorder = state.route.recorder
    figures = recorder.figures
    found = []
    for port in figures.input_ports():
        for mode in figures.modes(port):
            if (port, mode) == (recorder.in_port, recorder.mode):
                continue
            try:
                changed = move_input(session, line_id, port, mode)
            except EditError:
                continue
            option = _option(changed, line_id, port, mode, figures.port_name(port), now)
            if option is not None:
                found.append(option)
    return tuple(sorted(found, key=lambda option: not option.is_sound))


def _option(
    changed: Session, line_id: str, port: str, mode: Mode, name: str, now: Given
) -> InputOption | None:
    moved = _state(settled(changed, (line_id,)), line_id)
    after = given(changed, line_id)
    if moved is None or after is None:
        return None
    fed = [f for f in power_findings([moved.route]) if f.rule == "phantom_harms"]
    if fed:
        return None
    parts = []
    if after.snr_db is None:
        parts.append(words.NO_SIGNAL_THERE)
    elif now.snr_db is not None:
        gained = after.snr_db - now.snr_db
        if abs(gained) >= 1.0:
            way = words.FURTHER if gained > 0.0 else words.NEARER
            parts.append(fill(words.GAINED, by_db=abs(gained), way=way))
        if not after.reaches_target:
            parts.append(words.AIM_OUT_OF_REACH)
        flaws = [f for f in patch.findings([moved]) if f.severity != "know"]
        parts += [flaw.brief for flaw in flaws]
        parts.append(_edges(moved))
    is_sound = after.snr_db is not None and after.reaches_target
    is_sound = is_sound and not [f for f in patch.findings([moved]) if f.severity != "know"]
    return InputOption(
        port=port,
        mode=mode,
        words=f"{capital(name)}, {mode}",
        consequence=_said(parts) or words.AS_NOW,
        is_sound=is_sound,
    )
