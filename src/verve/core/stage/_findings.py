"""What can be wrong with the levels of a line."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from verve.core.chain import BusLevel, LineState
from verve.core.findings import Fact, Finding, Remedy, level_text
from verve.core.line import LineLevels
from verve.core.session import Change, MixerFigures, School, Setup, control_text
from verve.core.stage._buses import bus_findings
from verve.core.stage._dial import dial_words
from verve.core.stage._plan import MARGIN_DB, plan
from verve.core.stage._schools import Window, window

LEAST_SNR_DB = 45.0
"""Typical playing less far above the noise than this is heard as hiss once raised (typical figure)."""
_EQUAL_DB = 0.6
_NEEDLESS_PAD_DB = 2.0


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:]


def _stage_name(state: LineState, index: int) -> str:
    assert state.staged is not None
    part = state.staged.parts[index]
    if part.role == "converter":
        return "the recorder"
    names = {hop.device.id: hop.device.name for hop in state.route.hops}
    return names.get(part.owner, "the cable" if part.role == "cable" else state.route.source.name)


def _remedy(state: LineState, target: Window) -> tuple[Remedy | None, str]:
    found = plan(state, target)
    if found is None and (kept := _kept(state)):
        return None, f"{kept}: let go of it, and it can be set."
    if found is None:
        return None, "Lower it earlier on the line: a pad, more distance, or less from the player."
    verb = found.words.split(",")[0]
    label = "Turn it down" if " down " in verb else "Turn it up" if " up " in verb else "Do it"
    return Remedy(label=label, changes=found.changes), _capital(found.words) + "."


def _kept(state: LineState) -> str:
    """The level control of a line that its user keeps where it is, in words; empty if there is none."""
    control = state.level_control()
    if control is None or not control.is_kept:
        return ""
    return f"You keep the {control.label.lower()} at {control_text(control, control.value)}"


def _level_facts(state: LineState, target: Window) -> tuple[Fact, ...]:
    assert state.peak_dbfs is not None
    how = "level walked from source to recorder; see the steps below"
    return (
        Fact(
            label="Hardest peak",
            text=level_text(state.peak_dbfs, "dBFS"),
            origin="computed",
            how=how,
        ),
        Fact(
            label="School asks for",
            text=f"{target.lowest_dbfs:.0f} to {target.highest_dbfs:.0f} dBFS".replace("-", "−"),
            origin="set",
        ),
    )


def _clips(state: LineState, target: Window) -> Finding | None:
    levels = state.levels
    assert levels is not None
    over = [(h, i) for i, h in enumerate(levels.headroom_db) if h is not None and h < 0.0]
    if not over:
        return None
    headroom, index = min(over)
    remedy, advice = _remedy(state, target)
    where = _stage_name(state, index)
    return Finding(
        rule="clips",
        severity="stop",
        step="stage",
        line=state.line.id,
        title=f"The hardest phrase would clip at {where}",
        brief=f"would clip by {-headroom:.1f} dB",
        cost=f"{-headroom:.1f} dB too much at {where}: distortion that nothing later can undo.",
        advice=advice,
        remedy=remedy,
        size_db=-headroom,
        facts=_level_facts(state, target) if state.peak_dbfs is not None else (),
    )


def _above(state: LineState, target: Window) -> Finding | None:
    peak = state.peak_dbfs
    if peak is None or peak <= target.highest_dbfs + 0.05:
        return None
    remedy, advice = _remedy(state, target)
    return Finding(
        rule="above_window",
        severity="mend",
        step="stage",
        line=state.line.id,
        title="The hardest phrase comes too close to clipping",
        brief=f"only {-peak:.1f} dB below clipping",
        cost=f"It peaks at {level_text(peak, 'dBFS')}; played a little harder than planned, it clips.",
        advice=advice,
        remedy=remedy,
        size_db=peak - target.highest_dbfs,
        facts=_level_facts(state, target),
    )


def _below(state: LineState, target: Window) -> Finding | None:
    peak = state.peak_dbfs
    if peak is None or peak >= target.lowest_dbfs - 0.05:
        return None
    short_db = target.aim_dbfs - peak
    control = state.level_control()
    remedy, advice = _remedy(state, target)
    now = float(control.value or 0.0) if control else 0.0
    runs_out = control is None or now + short_db > control.maximum + 0.5
    if runs_out and not _kept(state):
        advice = (
            "The gain runs out. Go closer, put an inline preamp before it, or take a more "
            "sensitive microphone or input."
        )
        if remedy is not None:
            advice += " Until then, turn it fully up."
            if control is not None and now >= control.maximum - 0.05:
                remedy = None
    noise = state.levels.noise_dbfs_a if state.levels else None
    raised = None if noise is None else noise + short_db
    facts = _level_facts(state, target)
    if raised is not None:
        facts += (
            Fact(
                label="Noise once raised",
                text=level_text(raised, "dBFS A", 0),
                origin="computed",
                how="noise at the recorder now, plus what is missing to the aim",
            ),
        )
    return Finding(
        rule="gain_runs_out" if runs_out else "below_window",
        severity="mend",
        step="stage",
        line=state.line.id,
        title="The line is recorded too low",
        brief=f"{short_db:.0f} dB too low",
        cost=f"Raised afterwards by {short_db:.0f} dB, its noise comes up with it"
        + (f", to {level_text(raised, 'dBFS', 0)}." if raised is not None else "."),
        advice=advice,
        remedy=remedy,
        size_db=short_db,
        facts=facts,
    )


def _tight_before(state: LineState) -> Finding | None:
    levels = state.levels
    assert levels is not None
    tight = [
        (h, i)
        for i, h in enumerate(levels.headroom_db[:-1])
        if h is not None and 0.0 <= h < MARGIN_DB
    ]
    if not tight:
        return None
    headroom, index = min(tight)
    where = _stage_name(state, index)
    return Finding(
        rule="tight_before",
        severity="mend",
        step="stage",
        line=state.line.id,
        title=f"Little room at {where}, whose meter nobody looks at",
        brief=f"{headroom:.1f} dB of room at {where}",
        cost="It would clip there while the recorder’s level still looks harmless.",
        advice=f"Use a pad or less gain at or before {where}, and win it back behind.",
        size_db=MARGIN_DB - headroom,
    )


def _noise(state: LineState) -> Finding | None:
    levels = state.levels
    assert levels is not None
    if levels.snr_db is None or not state.route.is_complete:
        return None
    typical_snr_db = levels.snr_db - state.below_hardest_db("typical")
    if typical_snr_db >= LEAST_SNR_DB:
        return None
    index = max(range(len(levels.noise_shares)), key=levels.noise_shares.__getitem__)
    share = levels.noise_shares[index]
    is_room = index == 0 and state.index_of(state.route.source.id, "source") == 0
    is_room = is_room and state.staged is not None and state.staged.parts[1].role == "microphone"
    whose = "the room" if is_room else _stage_name(state, index)
    if is_room:
        advice = "No better gear helps: go closer, quieten the room, or accept it as it is."
    else:
        advice = f"More signal before {whose}, or a quieter {whose.removeprefix('the ')}."
    return Finding(
        rule="noisy",
        severity="know" if is_room else "mend",
        step="stage",
        line=state.line.id,
        title=f"Soft passages will show {whose}’s noise",
        brief=f"{whose} is {share:.0%} of the noise",
        cost=f"Typical playing is only {typical_snr_db:.0f} dB above the noise.",
        advice=advice,
        size_db=LEAST_SNR_DB - typical_snr_db,
        facts=(
            Fact(
                label=f"Share of {whose}",
                text=f"{share:.0%}",
                origin="computed",
                how="A-weighted noise power at the recorder, by the stage it comes from",
            ),
        ),
    )


def _needless_pad(state: LineState) -> Finding | None:
    """A pad that is in although the line would bear it out, while the gain makes up for it."""
    control = state.recorder_controls().get("pad_db")
    gain = state.recorder_controls().get("gain_db")
    recorder = state.route.recorder
    if control is None or gain is None or recorder is None or not control.value:
        return None
    if control.is_kept or gain.is_kept:
        return None
    pad_db = float(control.value)
    at = state.index_of(recorder.device.id, "input")
    assert state.levels is not None
    headroom = state.levels.headroom_db[at] if at is not None else None
    gain_db = float(gain.value or 0.0)
    has_room = headroom is None or headroom - pad_db > MARGIN_DB + _NEEDLESS_PAD_DB
    if not has_room or gain_db - pad_db < gain.minimum:
        return None
    changes = (
        Change(owner=control.owner, channel=control.channel, name=control.name, value=0.0),
        Change(owner=gain.owner, channel=gain.channel, name=gain.name, value=gain_db - pad_db),
    )
    return Finding(
        rule="needless_pad",
        severity="know",
        step="stage",
        line=state.line.id,
        title="The pad is in, and the gain makes up for it",
        brief="pad not needed",
        cost=f"The preamp’s noise weighs {pad_db:.0f} dB more than it needs to.",
        advice="Take the pad out and the gain down by as much.",
        remedy=Remedy(label="Take the pad out", changes=changes),
        size_db=pad_db,
    )


def _silent(state: LineState) -> Finding:
    return Finding(
        rule="silent",
        severity="stop",
        step="stage",
        line=state.line.id,
        title=f"Nothing comes out of {state.line.name}",
        brief="no signal",
        cost="The take would be empty.",
        advice="Turn the instrument up; look at its volume first.",
    )


def _pair_gains(states: Sequence[LineState], windows: dict[str, Window]) -> list[Finding]:
    pairs: dict[str, list[LineState]] = {}
    for state in states:
        if state.line.pair is not None and state.levels is not None:
            pairs.setdefault(state.line.pair, []).append(state)
    found = []
    for sides in pairs.values():
        controls = [side.level_control() for side in sides]
        if len(sides) != 2 or any(c is None for c in controls):
            continue
        left, right = (float(c.value or 0.0) for c in controls if c is not None)
        if abs(left - right) <= _EQUAL_DB:
            continue

        def distance(index: int, sides: list[LineState] = sides) -> float:
            peak = sides[index].peak_dbfs
            aim = windows[sides[index].line.id].aim_dbfs
            return abs(peak - aim) if peak is not None else 1e6

        better = min((0, 1), key=distance)
        are_kept = [c is not None and c.is_kept for c in controls]
        if are_kept[1 - better]:
            better = 1 - better
        other = controls[1 - better]
        kept = controls[better]
        assert other is not None
        assert kept is not None
        new_db = other.clamped(float(kept.value or 0.0))
        change = Change(owner=other.owner, channel=other.channel, name=other.name, value=new_db)
        words = f", about {dial_words(kept, new_db)}" if kept.is_dial else ""
        advice = f"Set both to {new_db:g} dB{words}."
        remedy: Remedy | None = Remedy(label="Make them equal", changes=(change,))
        if all(are_kept):
            remedy, advice = None, "You keep both where they are: let go of one, and it can follow."
        found.append(
            Finding(
                rule="pair_unequal",
                severity="mend",
                step="stage",
                line=sides[1 - better].line.id,
                also_lines=(sides[better].line.id,),
                title=f"{sides[0].line.name} and {sides[1].line.name} have unequal gains",
                brief=f"{abs(left - right):.0f} dB beside its pair",
                cost="The stereo picture leans to one side, and balancing it later raises noise.",
                advice=advice,
                remedy=remedy,
                size_db=abs(left - right),
                facts=(
                    Fact(label=sides[0].line.name, text=f"{left:g} dB", origin="set"),
                    Fact(label=sides[1].line.name, text=f"{right:g} dB", origin="set"),
                ),
            )
        )
    return found


def _meter_zero_dbfs(state: LineState) -> float | None:
    """What arrives at the recorder when the meter of the line's mixer shows 0; None without a mixer."""
    if state.levels is None or state.peak_dbfs is None:
        return None
    for hop in state.route.hops:
        figures = hop.device.figures
        at = state.index_of(hop.device.id, "bus")
        if isinstance(figures, MixerFigures) and at is not None:
            peak = state.levels.open_peak_dbu[at]
            return None if peak is None else state.peak_dbfs - (peak - figures.meter_zero_dbu)
    return None


@lru_cache(maxsize=1024)
def _window_of(state: LineState, school: School, own_aim_dbfs: float) -> Window:
    return window(
        school,
        state.playing,
        state.crest_db,
        own_aim_dbfs=own_aim_dbfs,
        meter_zero_dbfs=_meter_zero_dbfs(state),
    )


def windows_of(states: Sequence[LineState], setup: Setup) -> dict[str, Window]:
    """The window of every line in its own school or the session's, by line."""
    return {
        s.line.id: _window_of(s, s.line.school or setup.school, setup.own_aim_dbfs) for s in states
    }


@lru_cache(maxsize=1024)
def _of_line(state: LineState, target: Window, is_unequal: bool) -> tuple[Finding, ...]:
    """What is wrong with the levels of one line; a side of an unequal pair has its own finding."""
    if state.levels is None:
        return ()
    if not _has_signal(state.levels):
        return (_silent(state),)
    clips = _clips(state, target)
    maybe: list[Finding | None] = [clips]
    if clips is None and not is_unequal:
        maybe += [_above(state, target), _below(state, target)]
    if clips is None:
        maybe.append(_tight_before(state))
    maybe += [_noise(state), _needless_pad(state)]
    return tuple(finding for finding in maybe if finding is not None)


def findings(
    states: Sequence[LineState], setup: Setup, buses: Sequence[BusLevel] = ()
) -> list[Finding]:
    """Everything about levels: clipping, windows, pairs, buses, noise."""
    windows = windows_of(states, setup)
    found: list[Finding] = []
    unequal = _pair_gains(states, windows)
    in_unequal_pair = {finding.line for finding in unequal}
    for state in states:
        found += _of_line(state, windows[state.line.id], state.line.id in in_unequal_pair)
    return found + unequal + bus_findings(states, windows, buses)


def _has_signal(levels: LineLevels) -> bool:
    return levels.peak_dbu[-1] is not None
