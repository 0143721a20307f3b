"""What can be wrong with the gains of a line that passes a mixer: won at the wrong place."""

from __future__ import annotations

from verve.core.findings import Finding
from verve.core.kind import Control
from verve.core.network import LineState
from verve.core.session import RouteStep
from verve.core.stage import _words as words
from verve.core.stage._judge import GainJudge, deeds_of

_UNITY_DB = 0.5


def _would_move(judge: GainJudge, state: LineState, control: Control, *, down: bool | None) -> bool:
    """Whether the solver would set a control otherwise; `down`: only if it would turn it down."""
    for change in judge.changes(state.line.id):
        if (change.owner, change.channel, change.name) == (
            control.owner,
            control.channel,
            control.name,
        ):
            return down is None or float(change.value or 0.0) < float(control.value or 0.0)
    return False


def _preamp_behind_mixer(state: LineState, judge: GainJudge) -> Finding | None:
    gain = state.recorder_controls().get("gain_db")
    if state.mixer() is None or gain is None:
        return None
    surplus_db = float(gain.value or 0.0) - gain.minimum
    if surplus_db <= _UNITY_DB or not _would_move(judge, state, gain, down=True):
        return None
    changes = judge.changes(state.line.id)
    return Finding(
        rule="preamp_behind_mixer",
        severity="mend",
        line=state.line.id,
        words=words.PREAMP_BEHIND_MIXER,
        places={
            "line": state.line.name,
            "surplus_db": surplus_db,
            "deeds": deeds_of(state, changes),
        },
        edits=changes,
        size_db=surplus_db,
    )


def _fader(state: LineState, step: RouteStep, control: Control, judge: GainJudge) -> Finding | None:
    off_db = abs(float(control.value or 0.0))
    if off_db <= _UNITY_DB or not _would_move(judge, state, control, down=None):
        return None
    changes = judge.changes(state.line.id)
    return Finding(
        rule="fader_off_unity",
        severity="know",
        line=state.line.id,
        words=words.FADER_OFF_UNITY,
        places={
            "device": step.name,
            "fader": control.said,
            "deeds": deeds_of(state, changes),
        },
        edits=changes,
        size_db=off_db,
    )


def mixer_findings(state: LineState, judge: GainJudge) -> list[Finding]:
    """What the solver would set otherwise on a line because of its mixer."""
    found = [_preamp_behind_mixer(state, judge)]
    for step in state.route.steps:
        own = step.controls.get("fader_db")
        for control in (*((own,) if own is not None else ()), *step.shared):
            if control.name == "fader_db":
                found.append(_fader(state, step, control, judge))
    return [finding for finding in found if finding is not None]
