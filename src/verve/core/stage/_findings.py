"""What can be wrong with the levels of a line."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from verve.core.findings import Finding, Remedy
from verve.core.gain import MARGIN_DB, Window, windows_of
from verve.core.line import LineLevels
from verve.core.network import BusLevel, LineState
from verve.core.session import Setup
from verve.core.stage._buses import bus_findings
from verve.core.stage._judge import GainJudge, change_words, locked_words
from verve.core.stage._mixers import mixer_findings
from verve.core.words import Fact, capital, level_text, number

LEAST_SNR_DB = 45.0
"""Typical playing less far above the noise than this is heard as hiss once raised (typical figure)."""
_EQUAL_DB = 0.6


_OWN_NAMES: Mapping[str, tuple[str, str]] = {
    "cable": ("the cable", "cable"),
    "converter": ("the recorder", "recorder"),
}
"""What stages are called that have no name of their own: as one of this line, and as any."""


def _stage_name(state: LineState, index: int) -> str:
    assert state.staged is not None
    part = state.staged.parts[index]
    if part.role in _OWN_NAMES:
        return _OWN_NAMES[part.role][0]
    return state.route.source.name if part.hop is None else state.route.hops[part.hop].name


_SOFTER = "Lower it earlier on the line: a pad, more distance, or less from the player."
_CLOSER = (
    "The gain runs out. Go closer, put an inline preamp before it, or take a more sensitive microphone or "
    "input."
)


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
            label="Target",
            text=f"{target.lowest_dbfs:.0f} to {target.highest_dbfs:.0f} dBFS".replace("-", "−"),
            origin="set",
        ),
    )


def _clips(state: LineState, target: Window, judge: GainJudge) -> Finding | None:
    levels = state.levels
    assert levels is not None
    over = [(h, i) for i, h in enumerate(levels.headroom_db) if h is not None and h < 0.0]
    if not over:
        return None
    headroom, index = min(over)
    where = _stage_name(state, index)
    return Finding(
        rule="clips",
        severity="stop",
        line=state.line.id,
        title=f"The hardest phrase would clip at {where}",
        brief=f"would clip by {-headroom:.1f} dB",
        cost=f"{-headroom:.1f} dB too much at {where}: distortion that nothing later can undo.",
        later=judge.later(state, _SOFTER),
        size_db=-headroom,
        facts=_level_facts(state, target) if state.peak_dbfs is not None else (),
    )


def _above(state: LineState, target: Window, judge: GainJudge) -> Finding | None:
    peak = state.peak_dbfs
    if peak is None or peak <= target.highest_dbfs + 0.05:
        return None
    return Finding(
        rule="above_window",
        severity="mend",
        line=state.line.id,
        title="The hardest phrase comes too close to clipping",
        brief=f"only {-peak:.1f} dB below clipping",
        cost=f"It peaks at {level_text(peak, 'dBFS')}; played a little harder than planned, it clips.",
        later=judge.later(state, _SOFTER),
        size_db=peak - target.highest_dbfs,
        facts=_level_facts(state, target),
    )


def _below(state: LineState, target: Window, judge: GainJudge) -> Finding | None:
    peak = state.peak_dbfs
    if peak is None or peak >= target.lowest_dbfs - 0.05:
        return None
    short_db = target.aim_dbfs - peak
    control = state.level_control()
    now = float(control.value or 0.0) if control else 0.0
    runs_out = control is None or now + short_db > control.maximum + 0.5
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
        line=state.line.id,
        title="The line is recorded too low",
        brief=f"{short_db:.0f} dB too low",
        cost=f"Raised afterwards by {short_db:.0f} dB, its noise comes up with it"
        + (f", to {level_text(raised, 'dBFS', 0)}." if raised is not None else "."),
        later=judge.later(state, _CLOSER),
        size_db=short_db,
        facts=facts,
    )


def _tight_before(state: LineState, judge: GainJudge) -> Finding | None:
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
        line=state.line.id,
        title=f"Little room at {where}, whose meter nobody looks at",
        brief=f"{headroom:.1f} dB of room at {where}",
        cost="It would clip there while the recorder’s level still looks harmless.",
        later=judge.later(
            state, f"Use a pad or less gain at or before {where}, and win it back behind."
        ),
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
    assert state.staged is not None
    part = state.staged.parts[index]
    better = _OWN_NAMES.get(part.role, (whose, whose))[1]
    if is_room:
        advice = "No better gear helps: go closer, quieten the room, or accept it as it is."
    else:
        advice = f"More signal before {whose}, or a quieter {better}."
    return Finding(
        rule="noisy",
        severity="know" if is_room else "mend",
        line=state.line.id,
        title=f"Soft passages will show {whose}’s noise",
        brief=f"{share:.0%} of the noise is {whose}’s",
        cost=f"Typical playing is only {typical_snr_db:.0f} dB above the noise.",
        to_do=advice,
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


def _needless_pad(state: LineState, judge: GainJudge) -> Finding | None:
    """A pad that is in although the solver would take it out and the gain down by as much."""
    control = state.recorder_controls().get("pad_db")
    if control is None or not control.value or control.is_kept:
        return None
    pad_db = float(control.value)
    changes = judge.changes(state.line.id)
    out = [
        c
        for c in changes
        if (c.owner, c.channel, c.name) == (control.owner, control.channel, "pad_db")
    ]
    if not out or float(out[0].value or 0.0) >= pad_db:
        return None
    words = capital(change_words(state, changes))
    return Finding(
        rule="needless_pad",
        severity="know",
        line=state.line.id,
        title="The pad is in, and the gain makes up for it",
        brief="pad not needed",
        cost=f"The preamp’s noise weighs {number(pad_db)} dB more than it needs to.",
        to_do=f"{words}.",
        offered=Remedy(label="Take the pad out", changes=changes),
        size_db=pad_db,
    )


def _silent(state: LineState) -> Finding:
    return Finding(
        rule="silent",
        severity="stop",
        line=state.line.id,
        title=f"Nothing comes out of {state.line.name}",
        brief="no signal",
        cost="The take would be empty.",
        to_do="Turn the instrument up; look at its volume first.",
    )


def _pair_levels(
    states: Sequence[LineState], windows: Mapping[str, Window], judge: GainJudge
) -> list[Finding]:
    """Both sides of a stereo pair arrive at one level; where they do not, the solver says whether by gain."""
    pairs: dict[str, list[LineState]] = {}
    for state in states:
        if state.line.pair is not None and state.peak_dbfs is not None:
            pairs.setdefault(state.line.pair, []).append(state)
    found = []
    for sides in pairs.values():
        if len(sides) != 2:
            continue
        first, second = sides
        apart = (first.peak_dbfs or 0.0) - (second.peak_dbfs or 0.0)
        expected = first.playing.hardest_db - second.playing.hardest_db
        if first.playing.hardest_db != second.playing.hardest_db:
            # Two outputs of one instrument that are not played alike are meant so.
            apart -= expected
        if abs(apart) <= _EQUAL_DB:
            continue
        further = max(sides, key=lambda s: abs((s.peak_dbfs or 0.0) - windows[s.line.id].aim_dbfs))
        found.append(_unequal(sides, further, apart, judge))
    return found


def _unequal(
    sides: Sequence[LineState], other: LineState, apart_db: float, judge: GainJudge
) -> Finding:
    first, second = sides
    partner = first if other is second else second
    otherwise = (
        "Their gains are alike: look at pad, distance and direction of both sides, or leave it if it is "
        "meant."
    )
    held = [words for state in sides if (words := locked_words(state))]
    if len(held) == 2:
        otherwise = "You keep both where they are: let go of one, and it can follow."
    return Finding(
        rule="pair_unequal",
        severity="mend",
        line=other.line.id,
        also_lines=(partner.line.id,),
        title=f"{first.line.name} and {second.line.name} do not arrive alike",
        brief=f"{number(abs(apart_db), 0)} dB beside its pair",
        cost="The stereo picture leans to one side, and balancing it later raises noise.",
        later=judge.later(other, otherwise),
        size_db=abs(apart_db),
        facts=tuple(
            Fact(
                label=state.line.name,
                text=level_text(state.peak_dbfs or 0.0, "dBFS"),
                origin="computed",
                how="hardest peak at the recorder",
            )
            for state in sides
        ),
    )


def _of_line(
    state: LineState, target: Window, judge: GainJudge, *, is_unequal: bool
) -> list[Finding]:
    """What is wrong with the levels of one line; a side of an unequal pair has its own finding."""
    if state.levels is None:
        return []
    if not _has_signal(state.levels):
        return [_silent(state)]
    clips = _clips(state, target, judge)
    maybe: list[Finding | None] = [clips]
    if clips is None and not is_unequal:
        maybe += [_above(state, target, judge), _below(state, target, judge)]
    if clips is None:
        maybe.append(_tight_before(state, judge))
    maybe += [_noise(state), _needless_pad(state, judge), *mixer_findings(state, judge)]
    return [finding for finding in maybe if finding is not None]


def findings(
    states: Sequence[LineState], setup: Setup, judge: GainJudge, buses: Sequence[BusLevel] = ()
) -> list[Finding]:
    """Everything about levels: clipping, windows, pairs, buses, noise."""
    windows = windows_of(states, setup)
    found: list[Finding] = []
    unequal = _pair_levels(states, windows, judge)
    in_unequal_pair = {finding.line for finding in unequal}
    for state in states:
        is_unequal = state.line.id in in_unequal_pair
        target = windows[state.line.id]

        def make(
            state: LineState = state, target: Window = target, is_unequal: bool = is_unequal
        ) -> list[Finding]:
            return _of_line(state, target, judge, is_unequal=is_unequal)

        depends = (target, is_unequal, *judge.depends(state.line.id))
        found += state.latest("stage findings", depends, make)
    return found + unequal + bus_findings(states, windows, buses, judge)


def _has_signal(levels: LineLevels) -> bool:
    return levels.peak_dbu[-1] is not None
