"""What can be wrong with what the players hear."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

from verve.core.acoustics import SumOfPaths
from verve.core.findings import Finding, Later, Proposal, Remedy
from verve.core.kind import NOTHING_SET
from verve.core.monitor import _words as words
from verve.core.monitor._ears import Headphones, at_ear, hours_text, under_headphones_dba
from verve.core.monitor._latency import RoundTrip, round_trip_ms
from verve.core.monitor._ledger import Ledger, ledger_of, of_computer, sources_of
from verve.core.monitor._tasks import Band, band_of, player_of
from verve.core.monitor._whatif import recommended
from verve.core.session import (
    Audio,
    Change,
    Cue,
    Link,
    Session,
    Setup,
    change_cue,
    cue_of,
    listeners,
    split_port,
)
from verve.core.words import Fact, fill, number

LARGEST_UNNOTICED_MS = 12.0
"""Above about this, players feel the delay (typical; singers notice less)."""
_RECORDING_FRAMES = 64
_ORDER = ("direct", "mixer", "software")
_LOUD_STEP_DB = 3.0


def monitoring_ms(audio: Audio) -> float:
    """Round trip of the recorder's buffers alone, in and out."""
    return round_trip_ms(
        RoundTrip(sample_rate_hz=float(audio.sample_rate_hz), buffer_frames=audio.buffer_frames)
    )


def round_trip_facts(audio: Audio) -> tuple[Fact, ...]:
    """How the round trip of the buffers comes about."""
    return (
        Fact(
            label=words.ROUND_TRIP,
            text=f"{number(monitoring_ms(audio), 1)} ms",
            origin="computed",
            how=fill(
                words.ROUND_TRIP_HOW,
                buffer_frames=audio.buffer_frames,
                sample_rate_hz=audio.sample_rate_hz,
            ),
        ),
    )


def findings(session: Session, headphones: Mapping[str, Headphones] | None = None) -> list[Finding]:
    """Everything that is wrong with what they hear, and with what the recorder is set to.

    `headphones` are those of the catalogue, where somebody has said which they wear.
    """
    audio = session.setup.audio
    found = list(_buffer(session))
    if audio.bit_depth == 16:
        better = audio.model_copy(update={"bit_depth": 24})
        found.append(
            Finding(
                rule="sixteen_bits",
                severity="know",
                line=None,
                words=words.SIXTEEN_BITS,
                audio=better,
            )
        )
    found += _extras(session.setup)
    monitoring = session.setup.monitoring
    if not monitoring.input_is_output:
        found.append(Finding(rule="two_clocks", severity="know", line=None, words=words.TWO_CLOCKS))
    # What nobody has said is taken as usual, and not judged.
    said = {one.who for one in monitoring.cues}
    for who, name in listeners(session.setup):
        if who in said:
            found += _of_one(session, cue_of(session.setup, who), name, headphones or {})
    return found


def _buffer(session: Session) -> Iterator[Finding]:
    """A buffer that is meant for mixing."""
    audio, cues = session.setup.audio, session.setup.monitoring.cues
    delay_ms = monitoring_ms(audio)
    if delay_ms <= LARGEST_UNNOTICED_MS:
        return
    # Where everybody is known to hear themselves another way it only waits for whoever will not.
    listening = {who for who, _ in listeners(session.setup)}
    others = listening <= {one.who for one in cues if "software" not in one.ways}
    frames = min(_RECORDING_FRAMES, recommended(session)[0]) if cues else _RECORDING_FRAMES
    better = audio.model_copy(update={"buffer_frames": frames})
    yield Finding(
        rule="buffer_large",
        severity="know" if cues and others else "mend",
        line=None,
        words=words.BUFFER_LEFT if cues and others else words.BUFFER_LARGE,
        places={"delay_ms": delay_ms, "better_frames": frames},
        audio=better,
        facts=round_trip_facts(audio),
    )


def _extras(setup: Setup) -> Iterator[Finding]:
    """Switches of an interface that change what is recorded, of inputs that something goes into."""
    lines = {
        link.end: line.id for line in setup.lines for link in _links_of(setup, line.first_link)
    }
    for device in setup.devices:
        if not device.figures.records:
            continue
        for port in device.figures.input_ports():
            line = lines.get(f"{device.id}:{port}")
            now = device.settings.get(port, NOTHING_SET)
            if line is None or not (now.effect_recorded or now.tone_extra):
                continue
            for control in device.figures.port_controls(device.id, port, device.settings):
                if control.name in ("effect_recorded", "tone_extra") and control.value:
                    yield Finding(
                        rule="extra_on", severity="know", line=line, words=words.EXTRA_ON,
                        places={
                            "extra": control.label, "device": device.name,
                            "port": device.figures.port_name(port),
                        },
                        edits=(
                            Change(
                                owner=device.id, channel=port, name=control.name, value=False
                            ),
                        ),
                    )  # fmt: skip


def _links_of(setup: Setup, first: str) -> Iterator[Link]:
    """A signal's links from its first one on, as far as each box hands it to one other."""
    link = next((one for one in setup.links if one.id == first), None)
    seen: set[str] = set()
    while link is not None and link.id not in seen:
        seen.add(link.id)
        yield link
        owner = split_port(link.end)[0]
        link = next((one for one in setup.links if split_port(one.start)[0] == owner), None)


def line_of_who(setup: Setup, who: str) -> str | None:
    """The first signal of somebody."""
    mine = {one.id for one in sources_of(setup, who)}
    starts = {link.id: split_port(link.start)[0] for link in setup.links}
    return next((line.id for line in setup.lines if starts.get(line.first_link) in mine), None)


def _of_one(
    session: Session, cue: Cue, name: str, headphones: Mapping[str, Headphones]
) -> Iterator[Finding]:
    line = line_of_who(session.setup, cue.who)
    if line is None:
        return
    if cue.worn == "nothing" or not cue.ways:
        yield Finding(
            rule="no_monitor", severity="know", line=line, words=words.NO_MONITOR,
            places={"who": name},
        )  # fmt: skip
        return
    ledgers: dict[str, Ledger] = {way: ledger_of(session, cue, way) for way in cue.ways}
    if len(ledgers) > 1:
        yield _twice(session, cue, name, line, ledgers)
    elif "software" in ledgers:
        late = _late(session, cue, name, line, ledgers["software"])
        if late is not None:
            yield late
    if not cue.is_mono and len(_lines_of(session.setup, cue.who)) == 1:
        yield _changed(
            session, cue, Finding(
                rule="one_ear", severity="mend", line=line, words=words.ONE_EAR,
                places={"who": name}, size_db=6.0,
            ), words.SWITCH_MONO, {"is_mono": True},
        )  # fmt: skip
    if cue.worn == "loudspeaker" and any(
        one.figures.is_acoustic for one in sources_of(session.setup, cue.who)
    ):
        yield _changed(
            session, cue, Finding(
                rule="loudspeaker_open", severity="mend", line=line, words=words.LOUDSPEAKER_OPEN,
                places={"who": name}, size_db=6.0,
            ), words.WEAR_CLOSED, {"worn": "closed_headphones"},
        )  # fmt: skip
    if cue.effects == "printed":
        yield Finding(
            rule="printed", severity="know", line=line, words=words.PRINTED, places={"who": name}
        )
    loud = _loud(session, cue, name, line, headphones)
    if loud is not None:
        yield loud


def _lines_of(setup: Setup, who: str) -> list[str]:
    mine = {one.id for one in sources_of(setup, who)}
    starts = {link.id: split_port(link.start)[0] for link in setup.links}
    return [line.id for line in setup.lines if starts.get(line.first_link) in mine]


def _changed(
    session: Session, cue: Cue, finding: Finding, label: str, update: Mapping[str, object]
) -> Finding:
    """A finding that another cue mends; its own words say what to do."""
    advice = finding.advice

    def propose() -> Proposal:
        changed = change_cue(session, cue.who, update).setup.monitoring
        return Proposal(
            advice=advice, remedy=Remedy(label=label, monitoring=changed), by_hand=advice
        )

    return finding.with_later(Later(propose))


def double_of(ledgers: Mapping[str, Ledger]) -> SumOfPaths | None:
    """What comes of two ways at once, both as loud; None for one."""
    late = sorted(one.total_ms for one in ledgers.values())
    if len(late) < 2:
        return None
    return SumOfPaths(delay_ms=late[1] - late[0], level_difference_db=0.0)


def _twice(
    session: Session, cue: Cue, name: str, line: str, ledgers: Mapping[str, Ledger]
) -> Finding:
    both = double_of(ledgers)
    assert both is not None
    ways = sorted(ledgers, key=_ORDER.index)
    band = band_of(session.setup, cue.who)
    # Effects are only in the software: whoever wants them keeps it, if it is quick enough.
    keeps_software = cue.effects == "heard" and _bears(session, cue, ledgers, band)
    kept = "software" if keeps_software else ways[0]
    advice = fill(
        words.MUTE_DIRECT if keeps_software else words.MUTE_SOFTWARE,
        who=name, kept=words.WAYS[kept],
    )  # fmt: skip

    def once() -> Proposal:
        changed = change_cue(session, cue.who, {"ways": (kept,)}).setup.monitoring
        remedy = Remedy(label=words.KEEP_ONE, monitoring=changed)
        return Proposal(advice=advice, remedy=remedy, by_hand=advice)

    return Finding(
        rule="heard_twice",
        severity="mend",
        line=line,
        words=words.HEARD_TWICE,
        places={
            "who": name,
            "first": words.WAYS_BEGIN[ways[0]],
            "second": words.WAYS[ways[1]],
            "apart_ms": both.delay_ms,
            "null_hz": both.first_null_hz or 0.0,
            "ripple_db": min(40.0, both.ripple_db or 40.0),
        },
        size_db=6.0,
        later=Later(once),
    )


def _bears(session: Session, cue: Cue, ledgers: Mapping[str, Ledger], band: Band) -> bool:
    """Whether the software alone would be quick enough, at the size that is good for recording."""
    if "software" not in ledgers:
        return False
    rate = float(session.setup.audio.sample_rate_hz)
    frames = min(session.setup.audio.buffer_frames, recommended(session)[0])
    effects_ms = 1000.0 * cue.effect_frames / rate
    return of_computer(session).round_trip_ms(frames, rate) + effects_ms < band.disturbing_ms


def _late(session: Session, cue: Cue, name: str, line: str, ledger: Ledger) -> Finding | None:
    """Too late even with the buffer that is best for recording; before that it is the buffer's fault."""
    setup = session.setup
    band = band_of(setup, cue.who)
    if ledger.total_ms < band.disturbing_ms:
        return None
    if monitoring_ms(setup.audio) > LARGEST_UNNOTICED_MS:
        return None
    finding = Finding(
        rule="heard_late",
        severity="mend",
        line=line,
        words=words.HEARD_LATE,
        places={
            "who": name,
            "delay_ms": ledger.total_ms,
            "metres": ledger.metres,
            "bearable_ms": band.disturbing_ms,
            "plays": words.PLAYS[player_of(setup, cue.who)],
        },
        size_db=20.0 * math.log10(ledger.total_ms / band.disturbing_ms) + 1.0,
    )
    return _changed(
        session, cue, finding, words.HEAR_DIRECT, {"ways": ("direct",), "effects": "none"}
    )


def _loud(
    session: Session, cue: Cue, name: str, line: str, headphones: Mapping[str, Headphones]
) -> Finding | None:
    """Louder than the limit bears for so long, judged by the middle of the range, where the drive is known."""
    pair = headphones.get(cue.headphones or "")
    if pair is None or cue.drive_dbu is None or cue.worn in ("loudspeaker", "nothing"):
        return None
    monitoring = session.setup.monitoring
    ear = at_ear(cue, pair, monitoring.limit, under_headphones_dba(session.setup, cue))
    middle_hours = math.sqrt(ear.shortest_hours * ear.longest_hours)
    if middle_hours >= monitoring.hours:
        return None
    less_db = math.ceil(_LOUD_STEP_DB * math.log2(monitoring.hours / middle_hours))
    finding = Finding(
        rule="too_loud",
        severity="mend",
        line=line,
        words=words.TOO_LOUD,
        places={
            "who": name,
            "low_dba": ear.low_dba,
            "high_dba": ear.high_dba,
            "hours": monitoring.hours,
            "limit": words.LIMIT_NAMES[monitoring.limit],
            "shortest": hours_text(ear.shortest_hours),
            "longest": hours_text(ear.longest_hours),
            "less_db": less_db,
        },
        size_db=float(less_db),
    )
    label = fill(words.TURN_DOWN, less_db=less_db)
    return _changed(session, cue, finding, label, {"drive_dbu": cue.drive_dbu - less_db})
