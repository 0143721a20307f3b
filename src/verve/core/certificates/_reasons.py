"""The certificate in words: what binds, whose noise remains, what raising would do, what is kept."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from verve.core.gain import Optimum
from verve.core.kind import Control, control_text
from verve.core.network import LineState
from verve.core.session import RouteStep
from verve.core.stages import Sound
from verve.core.words import level_text

_LEAVE_DB = 3.0


def why_not_louder(best: Optimum, names: Mapping[str, str], *, is_kept: bool) -> str:
    """What keeps more gain out; `names` are those of lines, by line; `is_kept` if something of it is kept."""
    binds, target = best.binds, best.target
    if best.is_above:
        over = best.with_others_dbfs - target.aim_dbfs
        what = "everything else" if is_kept else "every gain"
        return f"Even with {what} at its lowest and every pad in it arrives {over:.0f} dB above the aim."
    if best.is_below and binds is not None:
        return (
            f"{binds.stage} is the ceiling: it has {binds.room_db:.1f} dB of room left at the hardest "
            "playing, and gain before it would clip there."
        )
    if best.is_below and best.held_by is not None:
        other = names.get(best.held_by, best.held_by)
        return f"It is set together with {other}, which bears no more."
    if best.is_below and best.has_more:
        return "Its gains go in steps: the next one would be above the aim."
    if best.is_below:
        return f"Every gain on the way {'that you do not keep ' if is_kept else ''}is at its end."
    aim = level_text(target.aim_dbfs, "dBFS", 0)
    room = f"; {binds.stage} has {binds.room_db:.1f} dB left" if binds is not None else ""
    whose = "The hardest playing is at the aim"
    if best.share_db > 0.0:
        whose = (
            f"It goes {best.share_db:.1f} dB lower for the other lines of its bus: together their hardest "
            "playing is at the aim"
        )
    return f"{whose} of {aim}: a harder phrase needs what is above it{room}."


def why_not_quieter(state: LineState) -> str:
    """What less gain would cost."""
    assert state.levels is not None
    converter = state.levels.noise_shares[-1]
    if converter < 0.005:
        return "Quieter would not clip less, and the whole take would have to be raised by as much."
    return (
        f"The recorder’s own hiss is {converter:.0%} of the noise already; quieter it would be more, "
        "and raising the take brings it up."
    )


def raised_sentence(best: Optimum) -> str:
    """How a take with the settings of now sounds once it is raised to the aim.

    source: derivation, raising moves level and noise dB for dB
    """
    peak, noise = best.peak_before_dbfs, best.noise_before_dbfs_a
    if peak is None or noise is None:
        return ""
    up = best.target.aim_dbfs - best.share_db - peak
    if up <= 0.5:
        return ""
    then = noise + up
    worse = then - best.noise_dbfs_a
    said = f"As it is set now, raised afterwards by {up:.0f} dB, its noise is {level_text(then, 'dBFS A', 0)}"
    if worse < 1.0:
        return f"{said}: no more than with these settings. Nothing is gained by turning up."
    return f"{said}: {worse:.0f} dB more than a take made so."


def noise_sentence(state: LineState) -> str:
    """Whose the noise is that remains, and whether anything is to be done about it."""
    assert state.levels is not None
    room = state.levels.noise_shares[0] if state.staged and len(state.staged.parts) > 1 else 0.0
    is_air = state.staged is not None and state.staged.parts[1].role == "microphone"
    parts = _noise_of(state)
    if not parts:
        return "No noise is known of."
    if is_air and room > 0.5:
        rest = 1.0 - room
        above = 99.0 if rest <= 0.0 else _ratio_db(room, rest)
        tail = " Leave it: no other gear would be heard." if above > _LEAVE_DB else ""
        return f"The room is {above:.0f} dB above everything else that hisses.{tail}"
    name, share = parts[0]
    return f"{name} is {share:.0%} of the noise that remains."


def _noise_of(state: LineState) -> list[tuple[str, float]]:
    """Stages by their share of the noise, the largest first."""
    assert state.staged is not None
    assert state.levels is not None
    names = {hop.owner: hop.name for hop in state.route.hops}
    found: dict[str, float] = {}
    for part, share in zip(state.staged.parts, state.levels.noise_shares, strict=True):
        name = names.get(part.owner, state.route.source.name)
        if part.role == "cable":
            name = "The cables"
        elif isinstance(part.stage, Sound):
            name = "The room"
        found[name] = found.get(name, 0.0) + share
    return sorted(found.items(), key=lambda item: -item[1])


def _ratio_db(over: float, under: float) -> float:
    return 10.0 * math.log10(over / under)


def kept_controls(state: LineState) -> list[tuple[RouteStep, Control]]:
    """Gains, pads and faders of a line that its user keeps where they are."""
    return [
        (hop, control)
        for hop in state.route.hops
        for control in hop.controls.values()
        if control.is_kept and control.name in {"gain_db", "pad_db", "fader_db"}
    ]


def control_name(hop: RouteStep, control: Control) -> str:
    """A control with its place: "the gain of Interface, input 3"."""
    return f"the {control.said} of {hop.place}"


def kept_sentence(state: LineState, pair: Sequence[LineState]) -> str:
    """What of a line is kept, and whether that goes against what its other side keeps."""
    kept = kept_controls(state)
    if not kept:
        return ""
    said = ", ".join(f"{control_name(h, c)} at {control_text(c, c.value)}" for h, c in kept)
    words = f"You have kept {said}; the rest is set around it."
    for other in pair:
        if other.line.id == state.line.id or state.line.pair != other.line.pair:
            continue
        theirs = {(c.name, h.figures.kind): c.value for h, c in kept_controls(other)}
        if any(theirs.get((c.name, h.figures.kind), c.value) != c.value for h, c in kept):
            words += (
                f" {other.line.name} is kept at another position, so the two sides of the pair cannot be "
                "set alike: let go of one of them."
            )
    return words


def within_sentence(best: Optimum) -> str:
    """How far what was found may be from the best, where not every position was compared."""
    if best.within_db < 0.05:
        return ""
    return (
        "Not every position could be compared in time; nothing else is further above the noise by more "
        f"than {best.within_db:.1f} dB."
    )
