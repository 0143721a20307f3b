"""How things really are while one looks for a fault, and what can be perceived of that."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import reduce
from typing import Final, Literal

from verve.core.causes import Stand, controls_on, stand_of, state_of
from verve.core.engine import Engine
from verve.core.errors import EditError
from verve.core.hunt import _words as words
from verve.core.hunt._faults import Fault, faults_of
from verve.core.hunt._kinds import IN_ROOM, NOTES, PHONES, PREFERENCES, TRACK, TRACKS
from verve.core.hunt._oddity import NOBODY, NOTHING_ODD, ROOM, Oddity, together
from verve.core.kind import Control, control_text
from verve.core.network import LineState, tilt
from verve.core.session import Session, apply_changes, cue_of
from verve.core.words import fill, level_text

Meter = Literal["nothing", "far below", "below", "right", "above", "over", "others", "room"]
Sound = Literal[
    "nothing", "soft", "loud", "dull", "thin", "boomy", "sharp", "hiss", "hum", "rumble", "distorted", "pops",
    "crackles", "others", "somebody else", "room", "one ear", "echo", "late", "effect", "slow", "hollow",
    "unheard",
]  # fmt: skip
Pause = Literal["quiet", "louder", "hum", "rumble", "others", "nothing"]
_FAR_DB, _OFF_DB, _COLOUR_DB, _NOISE_DB = 12.0, 4.0, 4.0, 6.0
_BASS_HZ, _TREBLE_HZ = 250.0, 2000.0
_COMPUTER_MIC_DBFS: Final = -45.0
"""What a computer's own microphone makes of somebody across the room; typical."""
_FULL_DBFS = -0.1


@dataclass(frozen=True, slots=True, kw_only=True)
class Signs:
    """What can be told of a signal: the meter of its track at once, the rest with some time.

    `moves` are tracks that move along beside it; `back` is what the playback of some seconds sounds like.
    """

    meter: Meter
    moves: bool
    live: frozenset[Sound]
    pause: Pause
    back: frozenset[Sound]
    meter_dbfs: float | None = field(default=None, compare=False)
    pause_dbfs: float | None = field(default=None, compare=False)

    @property
    def at_once(self) -> tuple[object, ...]:
        """What is seen from the stool without doing anything but play."""
        return (self.meter, self.moves)

    @property
    def listened(self) -> tuple[object, ...]:
        """The same with the headphones on."""
        return (self.meter, self.moves, self.live)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Case:
    """A signal to practise on: the session set up right, how it stands then, and everything that may be wrong."""

    session: Session
    line: str
    name: str
    state: LineState
    base: Stand
    faults: tuple[Fault, ...]
    engine: Engine = field(repr=False)

    def world(self, faults: Sequence[Fault]) -> World:
        """How it is with these."""
        return World(case=self, faults=tuple(faults))


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class World:
    """A case with some faults in it. What was once worked out of it is kept with it."""

    case: Case
    faults: tuple[Fault, ...]
    memory: dict[str, Signs] = field(default_factory=dict, repr=False)

    @property
    def session(self) -> Session:
        """With every control where it really stands.

        raises: EditError where two of them exclude each other
        """
        return apply_changes(
            self.case.session, tuple(change for one in self.faults for change in one.changes)
        )

    @property
    def odd(self) -> Oddity:
        """What is odd beside all settings."""
        return reduce(together, (one.odd for one in self.faults), NOTHING_ODD)

    def without(self, test: str) -> World:
        """With everything gone that a swap or switch ends."""
        left = tuple(one for one in self.faults if test not in one.ends_with)
        return self if len(left) == len(self.faults) else World(case=self.case, faults=left)


def case_of(session: Session, line_id: str, engine: Engine) -> Case | None:
    """A signal to practise on; None for one that does not arrive even if everything is right."""
    state, base = state_of(session, line_id, engine), stand_of(session, line_id, engine)
    if state is None or not state.route.is_complete or not state.route.has_source or base.is_silent:
        return None
    return Case(
        session=session,
        line=line_id,
        name=state.line.name,
        state=state,
        base=base,
        faults=_shown(session, line_id, state, base, engine),
        engine=engine,
    )


def _shown(
    session: Session, line_id: str, state: LineState, base: Stand, engine: Engine
) -> tuple[Fault, ...]:
    """Of all faults those that somebody can perceive: what changes nothing is none."""
    bare = Case(
        session=session, line=line_id, name=state.line.name, state=state, base=base, faults=(), engine=engine
    )  # fmt: skip
    right = signs_of(bare.world(()))
    found = []
    for one in faults_of(session, state, engine):
        try:
            signs = signs_of(bare.world((one,)))
        except EditError:
            continue
        if signs != right:
            found.append(one)
    return tuple(found)


def signs_of(world: World) -> Signs:
    """What is perceived: from the levels that the session has in truth, and from what is odd beside them.

    raises: EditError where two of the faults exclude each other
    """
    known = world.memory.get("signs")
    if known is None:
        known = world.memory["signs"] = _signs_of(world)
    return known


def _signs_of(world: World) -> Signs:
    case, odd = world.case, world.odd
    changed = any(one.changes for one in world.faults)
    stand = stand_of(world.session, case.line, case.engine) if changed else case.base
    wanted = case.base.peak_dbfs
    is_cut = stand.is_silent or odd.is_cut
    peak = stand.peak_dbfs + odd.gain_db + odd.louder_db
    wave = _sound(stand, case.base, odd, is_cut=is_cut)
    meter, shown = _meter(case, odd, None if is_cut else peak, wanted)
    pause, pause_dbfs = _pause(stand, case.base, odd, is_cut=is_cut, is_shown=meter != "nothing")
    return Signs(
        meter=meter,
        moves=odd.armed_too,
        live=_live(case, odd, wave, is_clipped=peak > _FULL_DBFS),
        pause=pause,
        back=_back(odd, wave, is_clipped=peak > _FULL_DBFS),
        meter_dbfs=shown,
        pause_dbfs=pause_dbfs,
    )


def _meter(
    case: Case, odd: Oddity, peak: float | None, wanted: float
) -> tuple[Meter, float | None]:
    if odd.is_unarmed or odd.reads == NOBODY:
        return "nothing", None
    if odd.reads == ROOM:
        return "room", _COMPUTER_MIC_DBFS
    if odd.reads:
        # Its own player moves nothing there: it moves when somebody else plays.
        return "others", stand_of(case.session, odd.reads, case.engine).peak_dbfs
    if peak is None or peak < -90.0:
        return "nothing", None
    apart = peak - wanted
    if peak > _FULL_DBFS:
        return "over", 0.0
    if apart < -_FAR_DB:
        return "far below", peak
    if apart < -_OFF_DB:
        return "below", peak
    return ("above" if apart > _OFF_DB else "right"), peak


def _pause(
    stand: Stand, base: Stand, odd: Oddity, *, is_cut: bool, is_shown: bool
) -> tuple[Pause, float | None]:
    if not is_shown or is_cut or odd.reads:
        return "nothing", None
    noise, usual = stand.noise_dbfs_a, base.noise_dbfs_a
    if noise is None or usual is None:
        return "quiet", None
    noise += odd.gain_db
    if odd.hum_hz:
        return "hum", noise + odd.hum_over_db
    if odd.spill_db is not None:
        return "others", stand.peak_dbfs - odd.spill_db
    if odd.rumble_over_db:
        return "rumble", noise + odd.rumble_over_db
    return ("louder" if noise - usual > _NOISE_DB else "quiet"), noise


def _sound(stand: Stand, base: Stand, odd: Oddity, *, is_cut: bool) -> set[Sound]:
    """What the signal itself sounds like, wherever it is heard."""
    if is_cut:
        return {"nothing"}
    found: set[Sound] = set()
    apart = stand.peak_dbfs + odd.gain_db - base.peak_dbfs
    if abs(apart) > _OFF_DB:
        found.add("soft" if apart < 0.0 else "loud")
    colour = tilt(stand.octaves_dbu, base.octaves_dbu)
    if colour is not None and abs(colour.by_db) > _COLOUR_DB:
        if colour.hz >= _TREBLE_HZ:
            found.add("sharp" if colour.by_db > 0.0 else "dull")
        elif colour.hz <= _BASS_HZ:
            found.add("boomy" if colour.by_db > 0.0 else "thin")
    if base.snr_db - stand.snr_db > _NOISE_DB and apart < -_OFF_DB:
        found.add("hiss")
    if odd.hum_hz:
        found.add("hum")
    if odd.rumble_over_db:
        found.add("rumble")
    if odd.ceiling_db is not None:
        found.add("distorted")
    if odd.pops:
        found.add("pops")
    if odd.spill_db is not None:
        found.add("others")
    return found


def _live(case: Case, odd: Oddity, wave: set[Sound], *, is_clipped: bool) -> frozenset[Sound]:
    """What whoever plays hears in the headphones."""
    source = case.state.route.source
    cue = cue_of(case.session.setup, source.performer or source.id)
    if cue.worn == "nothing" or not cue.ways:
        return frozenset({"unheard"})
    if odd.ears == "none":
        return frozenset({"nothing"})
    found = set(wave)
    if "direct" not in cue.ways and "mixer" not in cue.ways:
        # Only through the software: what the track does not read is not heard.
        if odd.is_unarmed or odd.reads == NOBODY:
            found = {"nothing"}
        elif odd.reads:
            found = {"room" if odd.reads == ROOM else "somebody else"}
        if odd.is_printed:
            found.add("effect")
        if odd.is_left_only:
            found.add("one ear")
    if is_clipped and "nothing" not in found:
        found.add("distorted")
    if odd.ears == "left":
        found.add("one ear")
    if odd.echo_ms:
        found.add("echo")
    if odd.late_ms:
        found.add("late")
    if odd.crackles_per_s:
        found.add("crackles")
    return frozenset(found)


def _back(odd: Oddity, wave: set[Sound], *, is_clipped: bool) -> frozenset[Sound]:
    """What a recording of some seconds sounds like, played back."""
    if odd.is_unarmed or odd.reads == NOBODY:
        return frozenset({"nothing"})
    if odd.reads:
        return frozenset({"room" if odd.reads == ROOM else "somebody else"})
    found = set(wave)
    if is_clipped and "nothing" not in found:
        found.add("distorted")
    if odd.is_left_only or odd.ears == "left":
        found.add("one ear")
    if odd.ears == "none":
        # What does not reach the ears live does not reach them in the playback either.
        return frozenset({"nothing"})
    if odd.crackles_per_s:
        found.add("crackles")
    if odd.is_printed:
        found.add("effect")
    if odd.speed != 1.0:
        found.add("slow")
    if odd.is_inverted:
        found.add("hollow")
    return frozenset(found)


# ── what a look shows ─────────────────────────────────────────────────────────────────────────────
def looked_at(world: World, place: str) -> tuple[tuple[str, str], ...]:
    """What one sees at a place, row by row: what it is, and how it stands there in truth."""
    case = world.case
    rows = dict(_usual_rows(case, place))
    for one in world.faults:
        for where, row, said in one.seen:
            if where == place:
                rows[row] = said
    there = {(c.owner, c.channel, c.name): c.value for one in world.faults for c in one.changes}
    for row, control in _controls_at(case, place).items():
        value = there.get((control.owner, control.channel, control.name), control.value)
        rows[row] = control_text(control, value)
    return tuple(rows.items())


def sheet_at(case: Case, place: str) -> Mapping[str, str]:
    """What the sheet says of the controls at a place, by their rows: how they were set."""
    return {
        row: control_text(control, control.value)
        for row, control in _controls_at(case, place).items()
    }


def _controls_at(case: Case, place: str) -> Mapping[str, Control]:
    here = [control for _, control in controls_on(case.state) if control.owner == place]
    labels = [control.label for control in here]
    return {c.label if labels.count(c.label) == 1 else f"{c.label} ({c.channel})": c for c in here}


def _usual_rows(case: Case, place: str) -> Sequence[tuple[str, str]]:
    state = case.state
    recorder = state.route.recorder
    assert recorder is not None
    audio = case.session.setup.audio
    test_dbfs = level_text(case.base.peak_dbfs, "dBFS", 0)
    usual: Mapping[str, Sequence[tuple[str, str]]] = {
        TRACK: (
            (words.INPUT, fill(words.OWN_INPUT, input=recorder.place)),
            (words.ARMED, words.YES),
            (words.CHANNELS, words.MONO),
            (words.EFFECTS, words.OFF),
            (words.SOFTWARE, words.AS_WANTED),
        ),
        TRACKS: ((words.ARMED_BESIDE, words.AS_WANTED),),
        PREFERENCES: (
            (words.INPUT_DEVICE, recorder.name),
            (words.OUTPUT_DEVICE, recorder.name),
            (words.BUFFER, fill(words.FRAMES, frames=str(audio.buffer_frames))),
            (words.RATES, words.BOTH_ALIKE),
        ),
        PHONES: (
            (words.PHONES_LEVEL, words.AS_WANTED),
            (words.PHONES_PLUG, words.IN),
            (words.BALANCE, words.MIDDLE),
            (words.DIRECT, words.AS_WANTED),
        ),
        NOTES: ((words.TEST_PEAK, test_dbfs),),
        IN_ROOM: (
            (words.FANS, words.OFF),
            (words.WINDOWS, words.SHUT),
            (words.LOUDSPEAKERS, words.DOWN),
            (words.SCREENS, words.NONE),
            (words.CHARGER, words.PULLED),
        ),
    }
    if place in usual:
        return usual[place]
    if place.startswith("cable:"):
        return ((words.PLUGS, words.IN),)
    rows = []
    if place == recorder.owner:
        rows.append((words.PLUGGED_HERE, words.OWN_CABLE))
    if place == state.route.steps[0].owner and state.route.source.figures.player == "voice":
        rows.append((words.SHIELD, words.THERE))
    return rows
