"""The certificate in words: what binds, whose noise remains, what raising would do, what is kept."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from verve.core.certificates import _words as words
from verve.core.gain import Optimum
from verve.core.kind import Control, control_text
from verve.core.network import LineState
from verve.core.session import RouteStep
from verve.core.stages import Sound
from verve.core.words import fill

_LEAVE_DB = 3.0


def why_not_louder(best: Optimum, names: Mapping[str, str], state: LineState) -> str:
    """What keeps more gain out; `names` are those of lines, by line; `state` is the line with all of it set."""
    is_locked = bool(locked_controls(state))
    binds, target = best.binds, best.target
    if best.is_above:
        over = best.with_others_dbfs - target.target_dbfs
        what = words.EVERYTHING_ELSE if is_locked else words.EVERY_GAIN
        return fill(words.ABOVE_AIM, what=what, over_db=over)
    if best.is_below and binds is not None:
        return fill(words.CEILING, stage=binds.stage, headroom_db=binds.headroom_db)
    if best.is_below and best.held_by is not None:
        other = names.get(best.held_by, best.held_by)
        return fill(words.WITH_OTHER, other=other)
    if best.is_below and best.has_more:
        return words.GAIN_STEPS
    if best.is_below and best.together and not _is_at_its_end(state):
        others = ", ".join(names.get(key, key) for key in best.together)
        return fill(words.AT_END_OF_OTHER, other=others)
    if best.is_below:
        return words.AT_ITS_END_BUT_LOCKED if is_locked else words.AT_ITS_END
    left = (
        fill(words.HAS_LEFT, stage=binds.stage, headroom_db=binds.headroom_db)
        if binds is not None
        else ""
    )
    whose = words.AT_AIM
    if best.share_db > 0.0:
        whose = fill(words.LOWER_FOR_BUS, share_db=best.share_db)
    return fill(words.NOT_LOUDER, whose=whose, target_dbfs=target.target_dbfs, left=left)


def _is_at_its_end(state: LineState) -> bool:
    """Whether no gain of the line itself could go up: those that are kept do not count."""
    gains = [
        control
        for step in state.route.steps
        if (control := step.controls.get("gain_db")) is not None and not control.is_locked
    ]
    return all(float(c.value or 0.0) >= c.maximum - (c.gain_step_db or 0.01) for c in gains)


def why_not_quieter(state: LineState) -> str:
    """What less gain would cost."""
    assert state.levels is not None
    converter = state.levels.noise_shares[-1]
    if converter < 0.005:
        return words.NOT_QUIETER
    return fill(words.CONVERTER_HISS, share=converter)


def raised_sentence(best: Optimum) -> str:
    """How a take with the settings of now sounds once it is raised to the aim.

    source: derivation, raising moves level and noise dB for dB
    """
    peak, noise = best.peak_before_dbfs, best.noise_before_dbfs_a
    if peak is None or noise is None:
        return ""
    up = best.target.target_dbfs - best.share_db - peak
    if up <= 0.5:
        return ""
    then = noise + up
    worse = then - best.noise_dbfs_a
    said = fill(words.RAISED, up_db=up, noise_dbfs_a=then)
    if worse < 1.0:
        return fill(words.RAISED_ALIKE, raised=said)
    return fill(words.RAISED_WORSE, raised=said, worse_db=worse)


def noise_sentence(state: LineState) -> str:
    """Where the noise that remains comes from, and whether anything is to be done about it."""
    assert state.levels is not None
    room = state.levels.noise_shares[0] if state.staged and len(state.staged.parts) > 1 else 0.0
    is_air = state.staged is not None and state.staged.parts[1].role == "microphone"
    parts = _noise_of(state)
    if not parts:
        return words.NO_NOISE
    if is_air and room > 0.5:
        rest = 1.0 - room
        above = 99.0 if rest <= 0.0 else _ratio_db(room, rest)
        tail = words.LEAVE_IT if above > _LEAVE_DB else ""
        return fill(words.ROOM_NOISE, above_db=above, tail=tail)
    name, share = parts[0]
    return fill(words.LARGEST_NOISE, name=name, share=share)


def _noise_of(state: LineState) -> list[tuple[str, float]]:
    """Stages by their share of the noise, the largest first."""
    assert state.staged is not None
    assert state.levels is not None
    names = {step.owner: step.name for step in state.route.steps}
    found: dict[str, float] = {}
    for part, share in zip(state.staged.parts, state.levels.noise_shares, strict=True):
        name = names.get(part.owner, state.route.source.name)
        if part.role == "cable":
            name = words.CABLES
        elif isinstance(part.stage, Sound):
            name = words.ROOM
        found[name] = found.get(name, 0.0) + share
    return sorted(found.items(), key=lambda item: -item[1])


def _ratio_db(over: float, under: float) -> float:
    return 10.0 * math.log10(over / under)


def locked_controls(state: LineState) -> list[tuple[RouteStep, Control]]:
    """Gains, pads and faders of a line that its user keeps where they are."""
    return [
        (step, control)
        for step in state.route.steps
        for control in step.controls.values()
        if control.is_locked and control.name in {"gain_db", "pad_db", "fader_db"}
    ]


def control_name(step: RouteStep, control: Control) -> str:
    """A control with its place: "the gain of Interface, input 3"."""
    return fill(words.CONTROL_OF, control=control.said, place=step.place)


def locked_sentence(state: LineState, pair: Sequence[LineState]) -> str:
    """What of a line is kept, and whether that goes against what its other side keeps."""
    kept = locked_controls(state)
    if not kept:
        return ""
    said = ", ".join(
        fill(words.CONTROL_AT, control=control_name(h, c), value=control_text(c, c.value))
        for h, c in kept
    )
    told = fill(words.LOCKED, controls=said)
    for other in pair:
        if other.line.id == state.line.id or state.line.pair != other.line.pair:
            continue
        theirs = {(c.name, h.figures.kind): c.value for h, c in locked_controls(other)}
        if any(theirs.get((c.name, h.figures.kind), c.value) != c.value for h, c in kept):
            told += fill(words.LOCKED_APART, line=other.line.name)
    return told


def within_sentence(best: Optimum) -> str:
    """How far what was found may be from the best, where not every position was compared."""
    if best.within_db < 0.05:
        return ""
    return fill(words.WITHIN, within_db=best.within_db)
