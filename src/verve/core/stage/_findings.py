"""What can be wrong with the levels of a line."""

from __future__ import annotations

from collections.abc import Sequence

from verve.core.findings import Finding
from verve.core.gain import MARGIN_DB, Window, windows_of
from verve.core.line import LineLevels
from verve.core.network import GIBBS_DB, BusLevel, LineState
from verve.core.session import Change, Setup
from verve.core.stage import _words as words
from verve.core.stage._buses import bus_findings
from verve.core.stage._judge import GainJudge, deeds_of
from verve.core.stage._mixers import mixer_findings
from verve.core.stage._pairs import pair_findings
from verve.core.words import Fact, fill, level_text, percent_text

LEAST_SNR_DB = 45.0
"""Typical playing less far above the noise than this is heard as hiss once raised (typical figure)."""


def _stage_name(state: LineState, index: int) -> str:
    assert state.staged is not None
    part = state.staged.parts[index]
    if part.role in words.STAGE_NAMES:
        return words.STAGE_NAMES[part.role][0]
    return (
        state.route.source.name
        if part.step_index is None
        else state.route.steps[part.step_index].name
    )


def _level_facts(state: LineState, target: Window) -> tuple[Fact, ...]:
    assert state.peak_dbfs is not None
    return (
        Fact(
            label=words.HARDEST_PEAK,
            text=level_text(state.peak_dbfs, "dBFS"),
            origin="computed",
            how=words.HARDEST_PEAK_HOW,
        ),
        Fact(
            label=words.TARGET,
            text=fill(
                words.TARGET_TEXT,
                lowest_dbfs=target.lowest_dbfs,
                highest_dbfs=target.highest_dbfs,
            ),
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
    otherwise = words.LOWER_EARLIER
    if _may_be_meant(state, index):
        otherwise = f"{otherwise} {words.OR_MEANT}"
    return Finding(
        rule="clips",
        severity="stop",
        line=state.line.id,
        words=words.CLIPS,
        places={"where": where, "over_db": -headroom},
        later=judge.later(state, otherwise),
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
        words=words.ABOVE_WINDOW,
        places={"peak_dbfs": peak, "below_db": -peak},
        later=judge.later(state, words.LOWER_EARLIER),
        size_db=peak - target.highest_dbfs,
        facts=_level_facts(state, target),
    )


def _below(state: LineState, target: Window, judge: GainJudge) -> Finding | None:
    peak = state.peak_dbfs
    if peak is None or peak >= target.lowest_dbfs - 0.05:
        return None
    short_db = target.target_dbfs - peak
    control = state.level_control()
    now = float(control.value or 0.0) if control else 0.0
    runs_out = control is None or now + short_db > control.maximum + 0.5
    noise = state.levels.noise_dbfs_a if state.levels else None
    raised = None if noise is None else noise + short_db
    facts = _level_facts(state, target)
    if raised is not None:
        facts += (
            Fact(
                label=words.NOISE_ONCE_RAISED,
                text=level_text(raised, "dBFS A", 0),
                origin="computed",
                how=words.NOISE_ONCE_RAISED_HOW,
            ),
        )
    return Finding(
        rule="gain_runs_out" if runs_out else "below_window",
        severity="mend",
        line=state.line.id,
        words=words.BELOW_WINDOW_WITHOUT_NOISE if raised is None else words.BELOW_WINDOW,
        places={"short_db": short_db, "raised_dbfs": raised or 0.0},
        later=judge.later(state, words.GAIN_RUNS_OUT),
        size_db=short_db,
        facts=facts,
    )


def _tight_before(state: LineState, judge: GainJudge) -> Finding | None:
    levels = state.levels
    assert levels is not None
    first_driven = min(state.driven_db, default=len(levels.headroom_db))
    tight = [
        (h, i)
        for i, h in enumerate(levels.headroom_db[:-1])
        # Behind what is driven nothing gets louder than it is: no harder phrase needs room there.
        if h is not None and 0.0 <= h < (GIBBS_DB if i > first_driven else MARGIN_DB)
    ]
    if not tight:
        return None
    headroom, index = min(tight)
    where = _stage_name(state, index)
    return Finding(
        rule="tight_before",
        severity="mend",
        line=state.line.id,
        words=words.TIGHT_BEFORE,
        places={"where": where, "headroom_db": headroom},
        later=judge.later(state, fill(words.LESS_BEFORE, where=where)),
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
    whose = words.THE_ROOM if is_room else _stage_name(state, index)
    assert state.staged is not None
    part = state.staged.parts[index]
    better = words.STAGE_NAMES.get(part.role, (whose, whose))[1]
    return Finding(
        rule="noisy",
        severity="know" if is_room else "mend",
        line=state.line.id,
        words=words.NOISY_BY_ROOM if is_room else words.NOISY,
        places={
            "whose": whose,
            "better": better,
            "share": share,
            "typical_snr_db": typical_snr_db,
        },
        size_db=LEAST_SNR_DB - typical_snr_db,
        facts=(
            Fact(
                label=fill(words.SHARE, whose=whose),
                text=percent_text(share),
                origin="computed",
                how=words.SHARE_HOW,
            ),
        ),
    )


def _needless_pad(state: LineState, judge: GainJudge) -> Finding | None:
    """A pad that is in although the solver would take it out and the gain down by as much."""
    control = state.recorder_controls().get("pad_db")
    if control is None or not control.value or control.is_locked:
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
    return Finding(
        rule="needless_pad",
        severity="know",
        line=state.line.id,
        words=words.NEEDLESS_PAD,
        places={"pad_db": pad_db, "deeds": deeds_of(state, changes)},
        edits=changes,
        size_db=pad_db,
    )


def _driven(state: LineState) -> Finding | None:
    """Distortion that may be the sound: a choice to confirm."""
    assert state.staged is not None
    boxes, changes, held_db = [], [], 0.0
    for index, by_db in state.driven_db.items():
        part = state.staged.parts[index]
        step = state.route.steps[part.step_index or 0]
        control = step.controls.get("driven")
        if control is not None and not control.value:
            boxes.append(step.name)
            held_db += by_db
            changes.append(
                Change(owner=control.owner, channel=control.channel, name="driven", value=True)
            )
    if not changes:
        return None
    return Finding(
        rule="driven",
        severity="know",
        line=state.line.id,
        words=words.DRIVEN,
        places={"where": " and ".join(boxes), "over_db": held_db},
        edits=tuple(changes),
        size_db=held_db,
    )


def _may_be_meant(state: LineState, index: int) -> bool:
    assert state.staged is not None
    at = state.staged.parts[index].step_index
    return at is not None and state.route.steps[at].figures.can_be_driven()


def _silent(state: LineState) -> Finding:
    return Finding(
        rule="silent",
        severity="stop",
        line=state.line.id,
        words=words.SILENT,
        places={"line": state.line.name},
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
    maybe.append(_driven(state))
    return [finding for finding in maybe if finding is not None]


def findings(
    states: Sequence[LineState], setup: Setup, judge: GainJudge, buses: Sequence[BusLevel] = ()
) -> list[Finding]:
    """Everything about levels: clipping, windows, pairs, buses, noise."""
    windows = windows_of(states, setup)
    found: list[Finding] = []
    unequal = pair_findings(states, windows, judge)
    in_unequal_pair = {finding.line for finding in unequal if finding.severity == "mend"}
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
