"""What Monitor says: a sentence for each performer, their ways, the computer, their ears."""

from __future__ import annotations

from verve.core.monitor import _words as words
from verve.core.monitor._ears import (
    Headphones,
    at_ear,
    drive_of,
    hours_text,
    over_own_db,
    own_level_dba,
    under_headphones_dba,
)
from verve.core.monitor._ledger import Ledger, of_computer
from verve.core.monitor._tasks import against_own_voice, band_of, is_in_the_head
from verve.core.monitor._whatif import option, options, recommended
from verve.core.session import Cue, Session, Way, cue_of, listeners
from verve.core.words import Fact, fill, listed

_SOFT_DB = -3.0
_LOUD_CLICK_DB = 3.0
_ECHO_MS = 25.0
"""From about here on two sounds are heard as two; rule of thumb."""
_ORDER: tuple[Way, ...] = ("direct", "mixer", "software")


def ways_of(cue: Cue) -> tuple[Way, ...]:
    """The ways of a cue in the order in which they are told."""
    return tuple(sorted(cue.ways, key=_ORDER.index))


def sentence_of(session: Session, who: str) -> str:
    """What one performer hears, in a sentence."""
    name = dict(listeners(session.setup))[who]
    cue = cue_of(session.setup, who)
    if cue.worn == "nothing" or not cue.ways:
        return fill(words.HEARS_NOTHING, who=name)
    beside = [
        fill(template, level_db=level)
        for template, level in ((words.BACKING, cue.backing_db), (words.CLICK, cue.click_db))
        if level is not None
    ]
    free = words.ONE_EAR_FREE if cue.has_one_ear_free else ""
    return fill(
        words.HEARS,
        who=name,
        ways=words.AND.join(words.WAYS[way] for way in ways_of(cue)),
        effects=words.WITH_EFFECTS[cue.effects],
        worn=words.WORN[cue.worn] + free,
        beside=fill(words.BESIDE, them=listed(beside)) if beside else "",
    )


def total_text(session: Session, cue: Cue, ledger: Ledger) -> str:
    """How late a way is, as metres and as it feels; for a voice what the own voice makes of it."""
    total = fill(words.TOTAL, total_ms=ledger.total_ms, frames=ledger.frames, metres=ledger.metres)
    null_hz = against_own_voice(ledger.total_ms).first_null_hz
    if is_in_the_head(session.setup, cue) and null_hz is not None:
        is_echo = ledger.total_ms > _ECHO_MS
        template = words.OWN_ECHO if is_echo else words.OWN_VOICE
        total = fill(template, total=total, **({} if is_echo else {"null_hz": null_hz}))
    feel = words.FEELS[band_of(session.setup, cue.who).feel(ledger.total_ms)]
    return f"{total}; {feel}"


def ledger_facts(ledger: Ledger) -> tuple[Fact, ...]:
    """Every part of a way with its reason."""
    return tuple(
        Fact(label=one.name, text=fill(words.MS, ms=one.ms), origin=one.origin, how=one.how)
        for one in ledger.delays
    )


def computer_text(session: Session) -> str:
    """What is known of the computer's delays, and of the recording offset: two figures, never one."""
    known = of_computer(session)
    if known.known == "typical":
        said = fill(words.KNOWS_NOTHING, fixed_ms=known.fixed_ms)
    else:
        said = fill(
            words.KNOWS, fixed_ms=known.fixed_ms, buffers=known.buffers, trips=known.trips,
            worst_ms=known.worst_ms,
        )  # fmt: skip
    more = [said]
    if known.is_counted:
        more.append(words.NOT_TWO)
    if known.is_other_rate:
        more.append(words.OTHER_RATE)
    return " ".join([*more, offset_text(session)])


def usable_offset_frames(session: Session) -> float | None:
    """By how much overdubs have to be shifted; None where nothing may be: it is not known for what is set now."""
    offset, audio = session.computer.recording_offset, session.setup.audio
    if offset is None or not session.setup.monitoring.input_is_output:
        return None
    now = (audio.buffer_frames, float(audio.sample_rate_hz))
    return offset.frames if now == (offset.buffer_frames, offset.sample_rate_hz) else None


def offset_text(session: Session) -> str:
    """The recording offset in words."""
    offset = session.computer.recording_offset
    if not session.setup.monitoring.input_is_output:
        return words.OFFSET_TWO
    if offset is None:
        return words.OFFSET_NONE
    if usable_offset_frames(session) is None:
        return words.OFFSET_STALE
    return fill(
        words.OFFSET,
        frames=offset.frames,
        buffer_frames=offset.buffer_frames,
        rate_hz=offset.sample_rate_hz,
    )


def buffer_text(session: Session) -> str:
    """What the buffer of now does, and which two would be good."""
    audio = session.setup.audio
    rate = float(audio.sample_rate_hz)
    now = option(session, audio.buffer_frames, rate)
    record, mix = recommended(session)
    said = fill(
        words.NOW, frames=now.buffer_frames, ms=now.round_trip_ms, busy=now.busy, risk=now.risk
    )
    by_size = {one.buffer_frames: one for one in options(session)}
    return f"{said} " + fill(
        words.RECOMMENDED,
        record_frames=record,
        record_ms=by_size[record].round_trip_ms,
        mix_frames=mix,
        mix_ms=by_size[mix].round_trip_ms,
    )


def ears_text(session: Session, cue: Cue, headphones: Headphones | None) -> str:
    """How loud it is at somebody's ears and for how long that may be; never a promise."""
    if cue.worn in ("loudspeaker", "nothing"):
        return ""
    if headphones is None:
        return words.EAR_NONE
    monitoring = session.setup.monitoring
    under = under_headphones_dba(session.setup, cue)
    ear = at_ear(cue, headphones, monitoring.limit, under)
    said = [
        fill(words.EAR, middle_dba=ear.middle_dba, low_dba=ear.low_dba, high_dba=ear.high_dba),
        words.EAR_KNOB if cue.drive_dbu is None else words.EAR_COUPLER,
        fill(
            words.EAR_HOURS, limit=words.LIMIT_NAMES[monitoring.limit],
            shortest=hours_text(ear.shortest_hours), longest=hours_text(ear.longest_hours),
        ),
    ]  # fmt: skip
    over = over_own_db(session.setup, cue, headphones)
    if over is not None:
        said.append(fill(words.EAR_OVER, over_db=over))
        if over < _SOFT_DB:
            said.append(words.EAR_SOFT)
    if cue.click_db is not None and cue.click_db > _LOUD_CLICK_DB:
        said.append(words.EAR_CLICK)
    own = own_level_dba(session.setup, cue.who)
    alone = "" if own is None else " " + fill(words.EAR_ALONE, own_dba=own) + "."
    return f"{'; '.join(said)}.{alone} {words.EAR_NEVER}"


def drive_facts(cue: Cue, headphones: Headphones) -> tuple[Fact, ...]:
    """How the level at the ear comes about."""
    drive = drive_of(cue, headphones)
    return (
        Fact(label=words.DRIVE, text=fill(words.DBU, dbu=drive.drive_dbu), origin="yours"),
        Fact(label=words.POWER, text=fill(words.MW, mw=drive.power_mw), origin="computed",
             how=words.POWER_HOW),
        Fact(label=words.CURRENT, text=fill(words.MA, ma=drive.current_ma), origin="computed"),
        Fact(label=words.AT_EAR, text=fill(words.SPL, db=drive.spl_db), origin="computed",
             how=words.AT_EAR_HOW),
    )  # fmt: skip
