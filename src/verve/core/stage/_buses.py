"""What can be wrong where several lines meet: each fits alone, together they do not."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from verve.core.findings import Finding, Later, Proposal, Remedy
from verve.core.gain import Window
from verve.core.network import BusLevel, LineState
from verve.core.session import Change
from verve.core.stage import _words as words
from verve.core.stage._judge import GainJudge, deeds_of
from verve.core.words import Fact, fill, level_text


def bus_facts(bus: BusLevel) -> tuple[Fact, ...]:
    """A bus in numbers: all its lines together, what its meter shows, what is recorded."""
    clips_at = (
        "" if bus.ceiling_dbu is None else fill(words.BUS_CLIPS_AT, ceiling_dbu=bus.ceiling_dbu)
    )
    found = [
        Fact(
            label=fill(words.BUS_TOGETHER, device=bus.device_name, side=bus.side),
            text=level_text(bus.together_dbu, "dBu"),
            origin="computed",
            how=fill(words.BUS_TOGETHER_HOW, lines=len(bus.lines), worst_dbu=bus.worst_dbu)
            + clips_at,
        )
    ]
    if bus.meter_db is not None:
        found.append(
            Fact(
                label=words.BUS_METER,
                text=level_text(bus.meter_db, "dB"),
                origin="computed",
                how=words.BUS_METER_HOW,
            )
        )
    if bus.recorder_dbfs is not None:
        found.append(
            Fact(
                label=words.BUS_AT_RECORDER,
                text=level_text(bus.recorder_dbfs, "dBFS"),
                origin="computed",
                how=words.BUS_AT_RECORDER_HOW,
            )
        )
    return tuple(found)


def _excess_db(bus: BusLevel, target: Window) -> float:
    """How much too loud a bus is: at its own ceiling, or above the window of its lines."""
    over = -math.inf if bus.ceiling_dbu is None else bus.together_dbu - bus.ceiling_dbu
    if bus.recorder_dbfs is not None:
        over = max(over, bus.recorder_dbfs - target.highest_dbfs)
    return over


def bus_findings(
    states: Sequence[LineState],
    windows: Mapping[str, Window],
    buses: Sequence[BusLevel],
    judge: GainJudge,
) -> list[Finding]:
    """Buses of two or more lines that are too loud together while every line fits alone."""
    by_id = {state.line.id: state for state in states}
    found: list[Finding] = []
    told: set[str] = set()
    for bus in sorted(buses, key=lambda b: -b.together_dbu):
        if len(bus.lines) < 2 or bus.device in told or any(i not in by_id for i in bus.lines):
            continue
        followed = [by_id[i] for i in bus.lines]
        excess = _excess_db(bus, windows[bus.lines[0]])
        if excess <= 0.05:
            continue
        clips = (bus.ceiling_dbu is not None and bus.together_dbu > bus.ceiling_dbu) or (
            bus.recorder_dbfs or -1.0
        ) > 0.0
        # What a line does alone is said of it; worse is only said of them together.
        if any(_clips_alone(state) for state in followed) or (
            not clips and any(_is_loud_alone(s, windows[s.line.id]) for s in followed)
        ):
            continue
        # Both sides of a mixer hang on the same trims: the louder side says what both need.
        told.add(bus.device)
        proposal = Later(lambda followed=followed: _proposal(followed, judge))  # type: ignore[misc]
        found.append(
            Finding(
                rule="bus_too_loud",
                severity="stop" if clips else "mend",
                line=bus.lines[0],
                also_lines=bus.lines[1:],
                words=words.BUS_CLIPS if clips else words.BUS_ABOVE_WINDOW,
                places={
                    "lines": len(bus.lines),
                    "device": bus.device_name,
                    "excess_db": excess,
                },
                later=proposal,
                size_db=excess,
                facts=bus_facts(bus),
            )
        )
    return found


def _proposal(states: Sequence[LineState], judge: GainJudge) -> Proposal:
    """What the solver would set on all lines of a bus."""
    changes: dict[tuple[str, str, str], Change] = {}
    deeds = []
    for state in states:
        own = judge.changes(state.line.id)
        said = deeds_of(state, own)
        if said:
            deeds.append(fill(words.DEEDS_OF_A_LINE, line=state.line.name, deeds=said))
        changes |= {(c.owner, c.channel, c.name): c for c in own}
    if not changes:
        return Proposal(advice=words.TRIM_LOCKED)
    remedy = Remedy(label=words.TURN_THE_TRIMS_DOWN, changes=tuple(changes.values()))
    return Proposal(advice=fill(words.TURN_TRIMS_DOWN, deeds="; ".join(deeds)), remedy=remedy)


def _clips_alone(state: LineState) -> bool:
    if state.levels is None:
        return False
    return any(h is not None and h < 0.0 for h in state.levels.headroom_db)


def _is_loud_alone(state: LineState, target: Window) -> bool:
    return state.peak_dbfs is None or state.peak_dbfs > target.highest_dbfs + 0.05
